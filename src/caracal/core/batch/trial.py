"""A trial encode in a process of its own."""

from __future__ import annotations

import msgspec

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.paths import path_of
from caracal.core.base.work import CancelToken, Report
from caracal.core.batch.estimate import Estimate, estimate
from caracal.core.processes.apart import Call, call_apart
from caracal.core.project.recipe import Recipe
from caracal.core.project.shots import decided

NICE = 15  # the window and the encoders go first


class TrialOrder(msgspec.Struct, frozen=True):
    """One version to try: as a line of the batch list would make it; ``thorough`` or soon."""

    master: str
    recipe: Recipe
    thorough: bool = True


def tried(order: TrialOrder, cancel: CancelToken) -> Estimate:
    """Try ``order`` in a process of its own. Raises what went wrong there, and Cancelled."""
    found: Estimate = call_apart(Call(estimated, (order,), stoppable=True, grace_s=0.0, nice=NICE),
                                 path_of(order.master), cancel=cancel)
    return found


def estimated(order: TrialOrder, report: Report, cancel: CancelToken) -> Estimate:
    """What is to be expected of ``order``. Raises as encoding it would, and Cancelled."""
    analysis = decided(analyse(path_of(order.master), report, cancel), order.recipe)
    return estimate(analysis, order.recipe, cancel, order.thorough)
