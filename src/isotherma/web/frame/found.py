"""What the checks found, in a word on every page; it comes in after the figures."""

from __future__ import annotations

import hashlib
import json
from collections import Counter
from collections.abc import Hashable
from dataclasses import dataclass
from datetime import date
from typing import ClassVar, Final

from isotherma.core.checks.found import ORDER, Severity
from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.services.checking import Checked
from isotherma.web.frame.context import Mark, PageContext

SIGNS: Final = {Severity.STOP: "■", Severity.FIX: "▲", Severity.UNKNOWN: "?", Severity.WATCH: "●"}
RUNNING: Final = Mark("missing", "checks running")
_SAID: Final = {
    Severity.STOP: ("stop", "stops"), Severity.FIX: ("to fix", "to fix"),
    Severity.UNKNOWN: ("not known", "not known"), Severity.WATCH: ("to know", "to know"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class FoundMark:
    """Stops, or what is worst after them.

    `known` is False while nobody has looked; `marks` has the worst of every part and run by its
    key, as JSON.
    """

    template: ClassVar[str] = "found.html"
    vehicle_id: int
    variant_id: str
    known: bool
    sign: str = ""
    worst: str = ""
    count: str = ""
    words: str = "Checks running"
    every: str = ""
    marks: str = "{}"
    step: Mark = RUNNING

    @property
    def ids(self) -> dict[str, object]:
        """What its addresses need."""
        return {"vehicle_id": self.vehicle_id, "variant_id": self.variant_id}


def check_key(context: PageContext) -> Hashable:
    """Name what is checked: a revision, a variant, and the day for what is dated."""
    opened = context.opened
    return opened.vehicle_id, opened.head_id, context.variant_id, date.today().isoformat()


def checked(context: PageContext) -> Checked:
    """Check the variant in every state, or give what was found before."""
    return context.services.checking.checked(
        check_key(context), context.project, context.variant, date.today().isoformat()
    )


def counts_of(result: Checked) -> Counter[Severity]:
    """Count what was found by severity; one finding in several states is one."""
    return Counter(severity for _, severity, _ in {
        (one.place, one.severity, one.variant) for one in result.found
    })  # fmt: skip


def checked_side(context: PageContext, project: Project, variant: Variant) -> Checked:
    """Check a design that is no variant of this vehicle, or an earlier one of it."""
    today = date.today().isoformat()
    made = project.model_copy(update={"variants": (variant,)})
    digest = hashlib.sha256(made.model_dump_json().encode()).hexdigest()
    return context.services.checking.checked((digest, today), made, variant, today)


def found_words(counts: Counter[Severity]) -> str:
    """Say how many were found of each severity, the worst first; "0 stops" is said too."""
    return ", ".join(_counted(counts[key], key) for key in ORDER)


def found_mark(context: PageContext, *, look: bool = False) -> FoundMark:
    """Give what was found; `look` has it looked for where nobody has."""
    ids = context.opened.vehicle_id, context.variant_id
    result = context.services.checking.peek(check_key(context))
    if result is None and look:
        result = checked(context)
    if result is None:
        return FoundMark(*ids, known=False)
    counts = counts_of(result)
    standing = {one.severity for place, one in enumerate(result.found)
                if place not in result.acknowledged}  # fmt: skip
    every = found_words(counts)
    worst = min(standing or set(counts), key=lambda key: ORDER[key], default=None)
    marks: dict[str, str] = {}
    for one in result.found:  # the worst comes first
        for group, keys in (("part", one.parts), ("run", one.runs)):
            for key in keys:
                marks.setdefault(f"{group}-{key}", one.severity.value)
    if worst is None:
        return FoundMark(*ids, known=True, words="nothing found", every=every,
                         step=Mark("done", "nothing found"))  # fmt: skip
    words = _counted(counts[worst], worst)
    if not standing:
        words += ", answered for"
    serious = worst in (Severity.STOP, Severity.FIX) and bool(standing)
    step = Mark("wrong" if serious else "done", words)
    return FoundMark(*ids, True, SIGNS[worst], worst.value, str(counts[worst]), words, every,
                     json.dumps(marks, separators=(",", ":")), step)  # fmt: skip


def _counted(count: int, severity: Severity) -> str:
    one, many = _SAID[severity]
    return f"{count} {one if count == 1 else many}"


def checks_mark(context: PageContext, _: Outcome | CoreError) -> Mark:
    """Stops and what must be fixed are what is wrong; while nobody looked that is said."""
    if not context.built.system.parts:
        return Mark("missing", "missing: a route")
    return found_mark(context).step
