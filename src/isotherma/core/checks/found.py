"""What a check finds: how serious, where, by which figure, and who should look."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Final

from isotherma.core.findings import Quantity, Value


class Severity(StrEnum):
    """How serious a finding is."""

    STOP = "stop"
    FIX = "fix"
    UNKNOWN = "unknown"
    WATCH = "watch"


ORDER: Final = {Severity.STOP: 0, Severity.FIX: 1, Severity.UNKNOWN: 2, Severity.WATCH: 3}
BUILDER, GAS, ELECTRICAL, FLUE, PRESSURE = "builder", "gas", "electrical", "flue", "pressure"


@dataclass(frozen=True, slots=True)
class Found:
    """One finding.

    `figure` and `limit` are SI in a style of quantity; `values` fill its sentence, `needs` are
    paths of what is not known; spaces and holes it is about are among `parts`. `state` is None
    where it holds in all of them.
    """

    id: str
    severity: Severity
    who: str
    parts: tuple[str, ...] = ()
    runs: tuple[str, ...] = ()
    figure: Quantity | None = None
    limit: Quantity | None = None
    values: Mapping[str, Value] = field(default_factory=dict)
    needs: tuple[str, ...] = ()
    source: str = ""
    state: str | None = None
    variant: str = ""

    @property
    def place(self) -> tuple[str, tuple[str, ...], tuple[str, ...], bool]:
        """Where it is: two findings of one place are one."""
        return self.id, self.parts, self.runs, self.severity is Severity.UNKNOWN


Check = Callable[..., Iterable[Found]]  # of a Look
CHECKS: dict[str, Check] = {}


def check(*ids: str) -> Callable[[Check], Check]:
    """Register a check under the ids it may find.

    Parameters
    ----------
    ids : str
        Each once in the whole program. [-]

    Returns
    -------
    callable
        Leaves the function as it is. [-]

    Raises
    ------
    ValueError
        If an id is there already.
    """

    def register(function: Check) -> Check:
        for one in ids:
            if one in CHECKS:
                raise ValueError(one)
            CHECKS[one] = function
        return function

    return register


def worst(bands: Iterable[tuple[bool, Severity]]) -> Iterator[Severity]:
    """Give the first band that is true; nothing where none is.

    Parameters
    ----------
    bands : iterable of tuple of bool and Severity
        Tried in their order: stop, fix, watch. [-]

    Returns
    -------
    iterator of Severity
        One at most. [-]
    """
    for true, severity in bands:
        if true:
            yield severity
            return
