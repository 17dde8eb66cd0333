"""Errors of the core, each with a stable code and typed fields, never prose.

    CoreError
    ├── QuantityError          text that is no quantity of the wanted kind
    ├── TargetNotReached       a temperature the power can never hold
    ├── KernelsCompiling       anything, while what computes is still being made
    ├── NotComputedYet         a valid document the engine has no method for
    ├── MissingValue           a value the engine needs and nobody has given yet
    ├── UnknownRegion          a brief naming a place the catalogue does not hold
    ├── ChangeRefused          an edit that cannot be made to this document
    ├── NoSuchOutlet           something to be opened that is no outlet, or by no sensible share
    ├── NotInTable             a symptom, test, quantity or part that is not there
    ├── PlanCircle             tasks that wait for each other in a circle
    ├── FlowNotSolved          a network whose flows could not be found
    ├── CannotBe               values of a bench sum that contradict each other
    ├── NoPumpStarts                leak arithmetic with no interval and no leak
    └── BalanceBroken          a run whose energy or water does not add up

A `reason` is a code too, with the values its words need. `isotherma.wording` turns each into a
sentence; a test finds those it forgot.
"""

from __future__ import annotations

from collections.abc import Mapping


class CoreError(Exception):
    """Base of every error the core raises on purpose."""

    code = "core"


class QuantityError(CoreError):
    """Text that cannot be read as a quantity of the wanted dimension."""

    code = "quantity"

    def __init__(
        self, *, text: str, dimension: str, reason: str, example: str,
        values: Mapping[str, str] | None = None,
    ) -> None:  # fmt: skip
        super().__init__(self.code, dimension, reason)
        self.values = values or {}
        self.text = text
        self.dimension = dimension
        self.reason = reason
        self.example = example


class TargetNotReached(CoreError):
    """The loss at the target is no less than the power: it is never reached."""

    code = "target_not_reached"

    def __init__(self, *, target_c: float, limit_c: float) -> None:
        super().__init__(self.code, target_c, limit_c)
        self.target_c = target_c
        self.limit_c = limit_c


class KernelsCompiling(CoreError):
    """Nothing is computed yet since the kernels are still being compiled."""

    code = "kernels_compiling"

    def __init__(self, *, done: int, of: int) -> None:
        super().__init__(self.code, done, of)
        self.done = done
        self.of = of


class NotComputedYet(CoreError):
    """A legal document with a shape or part the engine has no method for yet."""

    code = "not_computed_yet"

    def __init__(self, *, part_id: str, part_name: str, reason: str) -> None:
        super().__init__(self.code, part_id, reason)
        self.part_id = part_id
        self.part_name = part_name
        self.reason = reason


class MissingValue(CoreError):
    """A value the engine needs that is still unknown."""

    code = "missing_value"

    def __init__(self, *, path: str, part_name: str, label: str) -> None:
        super().__init__(self.code, path)
        self.path = path
        self.part_name = part_name
        self.label = label


class UnknownRegion(CoreError):
    """A region id that the catalogue does not hold."""

    code = "unknown_region"

    def __init__(self, *, region: str, known: tuple[str, ...]) -> None:
        super().__init__(self.code, region)
        self.region = region
        self.known = known


class ChangeRefused(CoreError):
    """An edit that does not fit the document it is meant for."""

    code = "change_refused"

    def __init__(self, *, path: str, reason: str, **values: str) -> None:
        super().__init__(self.code, path, reason)
        self.values = values
        self.path = path
        self.reason = reason


class NoSuchOutlet(CoreError):
    """Something to be opened that is no outlet, or by a share it cannot be."""

    code = "no_such_outlet"

    def __init__(self, *, part_id: str, opening: float, known: tuple[str, ...]) -> None:
        super().__init__(self.code, part_id, opening)
        self.part_id = part_id
        self.opening = opening
        self.known = known


class NotInTable(CoreError):
    """A symptom, test, quantity or part nobody knows; `nearest` are names like it."""

    code = "not_in_table"

    def __init__(self, *, what: str, typed: str, nearest: tuple[str, ...]) -> None:
        super().__init__(self.code, what, typed)
        self.what = what
        self.typed = typed
        self.nearest = nearest


class PlanCircle(CoreError):
    """Tasks of a plan that wait for each other in a circle."""

    code = "plan_circle"

    def __init__(self, *, tasks: tuple[str, ...]) -> None:
        super().__init__(self.code, tasks)
        self.tasks = tasks


class FlowNotSolved(CoreError):
    """Flows and pressures that could not be brought to agree: never shown as a result."""

    code = "flow_not_solved"

    def __init__(self, *, part_id: str, part_name: str, residual_pa: float, rounds: int) -> None:
        super().__init__(self.code, part_id, residual_pa)
        self.part_id = part_id
        self.part_name = part_name
        self.residual_pa = residual_pa
        self.rounds = rounds


class NoPumpStarts(CoreError):
    """A leak worked out from no time at all, or starts from no leak."""

    code = "no_kicks"

    def __init__(self, *, interval_s: float | None, leak_m3_per_s: float | None) -> None:
        super().__init__(self.code, interval_s, leak_m3_per_s)
        self.interval_s = interval_s
        self.leak_m3_per_s = leak_m3_per_s


class BalanceBroken(CoreError):
    """Energy or water that does not add up: an error of ours, never a result."""

    code = "balance_broken"

    def __init__(self, *, energy_error_share: float, water_error_share: float) -> None:
        super().__init__(self.code, energy_error_share, water_error_share)
        self.energy_error_share = energy_error_share
        self.water_error_share = water_error_share


class CannotBe(CoreError):
    """Values that contradict each other, or are none."""

    code = "cannot_be"

    def __init__(self, *, reason: str, **values: str) -> None:
        super().__init__(self.code, reason)
        self.values = values
        self.reason = reason
