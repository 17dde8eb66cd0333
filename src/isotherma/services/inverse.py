"""The inverse of a run: the smallest figures of a design with which something holds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from pydantic import ValidationError

from isotherma.core.cache import Cache, Caches
from isotherma.core.editing import set_values
from isotherma.core.errors import ChangeRefused, CoreError
from isotherma.core.options.measures import measure
from isotherma.core.options.sizing import Axis, Family, Sized, Step, Struck, size, struck_by
from isotherma.core.options.sweep import Vary
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.services.comparisons import found_or_asked
from isotherma.services.computing import stands_key
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.runs import compute
from isotherma.services.sweeps import digest_of
from isotherma.services.turns import Cancelled, Stopped, never

MOST_FIGURES: Final = 3
MOST_VALUES: Final = 25


@dataclass(frozen=True, slots=True)
class Bound:
    """What must hold of one result: at most or at least so much [SI]."""

    measure_id: str
    at_most: bool
    limit: float


@dataclass(frozen=True, slots=True)
class Inverse:
    """What is asked: figures with their values, the one that is rather had first; what must hold.

    Without a bound all that the brief asks must hold.
    """

    vary: tuple[Vary, ...]
    bound: Bound | None = None


@dataclass(frozen=True, slots=True)
class Found:
    """The first values that do it, by figure; how the next smaller fails; else by what none does.

    `values` are None where none does it; then `struck` is of the last values. `error` is why the
    last cannot be run, as a code.
    """

    values: tuple[float, ...] | None
    smaller: tuple[float, ...] | None
    smaller_struck: tuple[Struck, ...]
    struck: tuple[Struck, ...]
    error: str
    runs: int


def inverse(project: Project, variant_id: str, asked: Inverse, stopped: Stopped = never) -> Found:
    """Find the first values of up to three figures with which something holds.

    Parameters
    ----------
    project : Project
        The document; it stays as it is. [-]
    variant_id : str
        Of the project. [-]
    asked : Inverse
        Figures, values, what must hold. [SI]
    stopped : callable
        Asked before every run; Cancelled is raised once it says so. [-]

    Returns
    -------
    Found
        Values run through the same search as sizes of families; the same for the same input. [SI]
    """
    axes = tuple(
        Axis(row.path, tuple(
            Step(f"{place:03d}", "", {row.path: value}, price=place)
            for place, value in enumerate(row.values)
        ))
        for row in asked.vary
    )  # fmt: skip

    def run(steps: Sequence[Step]) -> Outcome | CoreError:
        if stopped():
            raise Cancelled
        values = {path: value for step in steps for path, value in step.values.items()}
        try:
            changed = set_values(project, values)
        except CoreError as error:
            return error
        except ValidationError:
            return ChangeRefused(path=", ".join(values), reason="cannot_be")
        return compute(changed, changed.variant(variant_id))

    def judge(outcome: Outcome) -> tuple[Struck, ...]:
        return struck_by(outcome) if asked.bound is None else _struck(outcome, asked.bound)

    return _found(size(Family("inverse", "", "", axes), run, judge))


def _struck(outcome: Outcome, bound: Bound) -> tuple[Struck, ...]:
    """Say whether one result lies beyond its bound; what has no value does not hold."""
    measured = measure(outcome)
    value = measured.value(bound.measure_id)
    if value is not None:
        slack = 1e-9 * max(1.0, abs(bound.limit))
        beyond = value - bound.limit if bound.at_most else bound.limit - value
        if beyond <= slack:
            return ()
    named = next((one for one in measured.measures if one.id == bound.measure_id), None)
    code = "above" if bound.at_most else "below"
    return (
        Struck(
            bound.measure_id, named.name if named is not None else "", code, value, bound.limit,
            named.style if named is not None else "number",
        ),
    )  # fmt: skip


def _found(sized: Sized) -> Found:
    def values(steps: Sequence[Step] | None) -> tuple[float, ...] | None:
        if steps is None:
            return None
        return tuple(float(str(value)) for step in steps for value in step.values.values())

    return Found(
        values(sized.steps), values(sized.smaller), sized.smaller_struck, sized.struck,
        sized.error.code if sized.error is not None else "", sized.runs,
    )  # fmt: skip


INVERSE_WORK: Final = "inverse"
WRITTEN: Final = (Found, Struck)


class InverseService:
    """Finds what does it and remembers what came out.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._found: Cache[Found] = Cache(caches, "inverses", lambda _: 2_000)

    def find(
        self, project: Project, variant: Variant, asked: Inverse, asker: Asker
    ) -> Found | UnderWay:
        """Give the smallest that does it, or how far finding it is."""
        key = (*stands_key(project, variant), variant.id, digest_of(asked))
        return found_or_asked(
            self._work, self._found, INVERSE_WORK, key,
            (project, variant, inverse_payload(asked)), asker,
            lambda: inverse(project, variant.id, asked), WRITTEN,
        )  # fmt: skip


def inverse_payload(asked: Inverse) -> dict[str, Any]:
    """Write what is asked for whoever does the work."""
    bound = asked.bound
    return {
        "vary": [{"path": row.path, "values": list(row.values)} for row in asked.vary],
        "bound": None if bound is None else {
            "measure": bound.measure_id, "at_most": bound.at_most, "limit": bound.limit,
        },
    }  # fmt: skip


def inverse_asked(payload: Mapping[str, Any]) -> Inverse:
    """Read what is asked back."""
    vary = tuple(Vary(row["path"], tuple(row["values"])) for row in payload["vary"])
    bound = payload["bound"]
    if bound is None:
        return Inverse(vary)
    return Inverse(vary, Bound(bound["measure"], bound["at_most"], bound["limit"]))
