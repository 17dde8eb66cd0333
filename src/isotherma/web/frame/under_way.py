"""Long work on a page: how far it is, a way to cancel it, a way to begin it again."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from isotherma.services.long_work import UnderWay
from isotherma.wording import work_words


@dataclass(frozen=True, slots=True)
class UnderWayView:
    """Work that is not done, where it is asked after, and what shows it once it is."""

    job: int
    words: str
    path: str
    again: str
    goes_on: bool
    done: int
    whole: int
    part: str = ""


def under_way_view(work: UnderWay, kind: str, path: str, part: str = "") -> UnderWayView:
    """Write work for a page; `part` is the element of that page that shows what came of it."""
    words = work_words(
        kind, work.state, done=work.done, whole=work.whole, before=work.before,
        workers=work.workers, error=work.error,
    )  # fmt: skip
    joined = "&" if "?" in path else "?"
    return UnderWayView(
        work.id, words, path, f"{path}{joined}again=1", work.goes_on, work.done, work.whole, part
    )


def first_under_way_view(
    found: Iterable[object], kind: str, path: str, part: str
) -> UnderWayView | None:
    """Write the first of several pieces of work that are not done; None when all are.

    What runs says how far it is; what has ended only once nothing goes on any more.
    """
    waiting = [row for row in found if isinstance(row, UnderWay)]
    if not waiting:
        return None
    first = min(waiting, key=lambda row: (row.state != "running", not row.goes_on, row.id))
    return under_way_view(first, kind, path, part)
