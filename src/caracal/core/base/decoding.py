"""One gate for data that is read back: JSON, MessagePack and plain values become frozen structs.

msgspec raises its own errors for most of what is wrong, but a UnicodeDecodeError for one damaged
byte of text and a RecursionError for deep nesting. Here all of them are one error.

msgspec works out what a struct holds when it first reads one. Two threads that do so at once end
the process (SIGSEGV, msgspec 0.22): one uses what the other has half built. Here it is done once
for each kind, under a lock.

Data of ours that is used unseen, such as a kept analysis, is sealed: it begins with a digest of the
rest, so that a flipped bit is noticed even where it leaves the data readable.
"""

from __future__ import annotations

import hashlib
import threading
from typing import TypeVar

import msgspec

T = TypeVar("T")
FAILURES = (msgspec.MsgspecError, ValueError, TypeError, OverflowError, RecursionError, MemoryError)
DIGEST_BYTES = 16
_prepared: set[object] = set()  # kinds that can be read by any thread
_preparing = threading.Lock()
SEAL = b"caracal-1:"  # what sealed data begins with, before the digest


class DecodeError(ValueError):
    """The data is damaged, or of another kind than was asked for; says what is wrong with it."""


def _prepare(kind: type[T]) -> None:
    """Let msgspec work out what ``kind`` holds, before any thread reads one."""
    if kind not in _prepared:
        with _preparing:
            msgspec.msgpack.Decoder(kind)
            _prepared.add(kind)


def decode_json(data: bytes | str, kind: type[T]) -> T:
    """The value of type ``kind`` in JSON ``data``. Raises DecodeError."""
    try:
        _prepare(kind)
        return msgspec.json.decode(data, type=kind)
    except FAILURES as problem:
        raise DecodeError(str(problem)) from problem


def decode_msgpack(data: bytes, kind: type[T]) -> T:
    """The value of type ``kind`` in MessagePack ``data``. Raises DecodeError."""
    try:
        _prepare(kind)
        return msgspec.msgpack.decode(data, type=kind)
    except FAILURES as problem:
        raise DecodeError(str(problem)) from problem


def convert(data: object, kind: type[T], strict: bool = True) -> T:
    """Plain ``data`` (dicts, lists, numbers) as a ``kind`` of struct. Raises DecodeError.

    ``strict``: no number is taken from text.
    """
    try:
        _prepare(kind)
        return msgspec.convert(data, kind, strict=strict)
    except FAILURES as problem:
        raise DecodeError(str(problem)) from problem


def sealed(value: object) -> bytes:
    """``value`` as MessagePack behind a digest of it."""
    data = msgspec.msgpack.encode(value)
    return SEAL + _digest(data) + data


def unsealed(data: bytes, kind: type[T]) -> T:
    """The value that :func:`sealed` gave as ``data``. Raises DecodeError when a bit has changed."""
    start = len(SEAL) + DIGEST_BYTES
    content = data[start:]
    if data[:start] != SEAL + _digest(content):
        raise DecodeError("its checksum is wrong")
    return decode_msgpack(content, kind)


def _digest(data: bytes) -> bytes:
    return hashlib.blake2b(data, digest_size=DIGEST_BYTES).digest()
