"""Who is asking: told once for a request where it comes in, read where it matters.

A program without accounts - Isotherma at home, a worker, the command line - asks as `ALONE`, who
may do everything.
"""

from __future__ import annotations

from contextvars import ContextVar
from dataclasses import dataclass
from typing import Final, Literal

May = Literal["look", "edit", "own"]
RANK: Final[dict[str, int]] = {"look": 1, "edit": 2, "own": 3}


def reaches(may: str | None, need: str) -> bool:
    """Say whether what one may do with a vehicle goes as far as what is needed."""
    return may is not None and RANK[may] >= RANK[need]


@dataclass(frozen=True, slots=True)
class Visitor:
    """Somebody who asks.

    `kind` is "alone" at home, "account" signed in, "nobody" for one who is not; `sign_in` is the
    number of the browser's, phone's or program's sign-in.
    """

    kind: Literal["alone", "account", "nobody"]
    account_id: int | None = None
    name: str = ""
    admin: bool = False
    sign_in: int | None = None

    @property
    def all(self) -> bool:
        """Whether everything is theirs."""
        return self.kind == "alone"


ALONE: Final = Visitor("alone")
NOBODY: Final = Visitor("nobody")
_NOW: ContextVar[Visitor] = ContextVar("visitor", default=ALONE)


def visitor() -> Visitor:
    """Give who asks now."""
    return _NOW.get()


def visiting(who: Visitor) -> None:
    """Say who asks, for what follows in this request."""
    _NOW.set(who)
