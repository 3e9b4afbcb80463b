"""Rows of a linear program as sparse matrices, built without scipy's detour over coordinates."""

from __future__ import annotations

import functools

import numpy as np
from scipy import sparse


def widened(part: sparse.csr_matrix, first: int, columns: int) -> sparse.csr_matrix:
    """``part`` (rows, n) from column ``first`` on in a matrix of so many ``columns``."""
    return sparse.csr_matrix(
        (part.data, part.indices + first, part.indptr), shape=(part.shape[0], columns))


def beside(parts: dict[int, sparse.csr_matrix], count: int) -> sparse.csr_matrix:
    """``count`` matrices (rows, n) side by side: ``parts`` by their places, nothing elsewhere."""
    wide = next(iter(parts.values())).shape[1]
    first, *more = [
        widened(part, number * wide, count * wide) for number, part in sorted(parts.items())]
    return sum(more, start=first)


def with_slacks(matrix: sparse.csr_matrix) -> sparse.csr_matrix:
    """``matrix`` (rows, columns) with two more columns for each row: 1 and -1 stand in it alone."""
    rows, columns = matrix.shape
    ends, own = np.repeat(matrix.indptr[1:], 2), np.arange(rows)
    indices = np.insert(matrix.indices, ends,
                        np.stack([columns + own, columns + rows + own], axis=1).ravel())
    data = np.insert(matrix.data, ends, np.tile((1.0, -1.0), rows))
    return sparse.csr_matrix((data, indices, matrix.indptr + 2 * np.arange(rows + 1)),
                             shape=(rows, columns + 2 * rows))


@functools.lru_cache(64)
def difference(n: int, order: int) -> sparse.csr_matrix:
    """The matrix (n - order, n) of the ``order``-th forward difference; not to be written to."""
    taps = {1: (-1, 1), 2: (1, -2, 1), 3: (-1, 3, -3, 1)}[order]
    return sparse.diags(
        [float(tap) for tap in taps], range(order + 1), shape=(n - order, n), format="csr"
    )
