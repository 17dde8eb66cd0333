"""The page of checks: what was found, worst first, with its number and what mends it."""

from __future__ import annotations

import csv
import io
import json
from collections import Counter
from dataclasses import dataclass
from typing import ClassVar, Final

from pydantic_core import to_jsonable_python

from isotherma.core.checks.found import CHECKS, Found, Severity
from isotherma.core.checks.remedies import changes_of
from isotherma.core.checks.run import GROUPS
from isotherma.core.findings import Quantity
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.files.tables import safe_text
from isotherma.services.checking import Checked, titles
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.found import SIGNS, checked
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.wording import (
    GROUP_WORDS,
    SEVERITY_WORDS,
    WHO_WORDS,
    check_remedy,
    check_sentence,
)

RULES: Final = (
    ("uk-eu", "United Kingdom and European Union"), ("north-america", "North America"),
    ("australia-nz", "Australia and New Zealand"), ("southern-africa", "Southern Africa"),
    ("strictest", "Strictest of all"),
)  # fmt: skip
MOST_ASKED: Final = 6


@dataclass(frozen=True, slots=True)
class FindingRow:
    """One finding, opened to its figures."""

    key: str
    id: str
    severity: str
    sign: str
    sentence: str
    remedy: str
    figure: str
    limit: str
    source: str
    who: str
    parts: tuple[tuple[str, str], ...]
    part_ids: str
    run_ids: str
    state: str
    bare_figure: str
    reason: str
    by: str
    changes: str = ""


@dataclass(frozen=True, slots=True)
class ChecksPage:
    """What could hurt somebody."""

    template: ClassVar[str] = "checks.html"
    frame: Frame
    empty: bool
    said: str = ""
    rules: tuple[tuple[str, str, bool], ...] = ()
    chosen: bool = False
    sections: tuple[tuple[str, str, tuple[FindingRow, ...]], ...] = ()
    kept: tuple[FindingRow, ...] = ()
    asked: tuple[tuple[str, int, str], ...] = ()
    groups: tuple[tuple[str, int, int, int], ...] = ()


def amount(quantity: Quantity | None, units: UnitSystem) -> str:
    """Write a figure or limit; nothing where there is none."""
    return "" if quantity is None else with_unit(quantity.value, quantity.style, units, 3)


def finding_rows(context: PageContext, result: Checked) -> tuple[FindingRow, ...]:
    """Write every finding, what is one in several states once."""
    units, system = context.units, context.variant.system
    labels = titles(context.project, context.variant, result.found)
    names = {state.id: state.name for state in system.states}
    parts = {part.id: part.label for part in system.parts}
    rows = []
    for places in _same(result):
        many = [result.found[place] for place in places]
        one, by = many[0], result.acknowledged.get(places[0])
        said = [f"“{names[each.state]}”" for each in many if each.state is not None]
        rows.append(FindingRow(
            f"finding-{places[0]}", one.id, one.severity.value, SIGNS[one.severity],
            check_sentence(one, units, _listed(said), labels),
            check_remedy(one, units), amount(one.figure, units), amount(one.limit, units),
            one.source, WHO_WORDS[one.who],
            tuple((key, parts[key]) for key in one.parts if key in parts),
            ",".join(one.parts), ",".join(one.runs), ",".join(each.state or "" for each in many),
            ",".join("" if each.figure is None else repr(each.figure.value) for each in many),
            "" if by is None else by.reason, "" if by is None else by.name,
            _changes(context, one),
        ))  # fmt: skip
    return tuple(rows)


def _same(result: Checked) -> list[list[int]]:
    """Put together what is one finding in several states: its cause is shown once."""
    groups: dict[object, list[int]] = {}
    for place, one in enumerate(result.found):
        by = result.acknowledged.get(place)
        key = (one.place, one.severity, one.variant, None if by is None else (by.name, by.reason))
        groups.setdefault(key, []).append(place)
    return list(groups.values())


def _listed(names: list[str]) -> str:
    """Name states one after the other."""
    return " and ".join(filter(None, (", ".join(names[:-1]), *names[-1:])))


def _changes(context: PageContext, found: Found) -> str:
    """Write the changes of a remedy that is one change, as the form carries them."""
    rows = changes_of(context.variant.system, found)
    start = f"variants.{context.variant_id}.system."
    made = [(f"{start}{path}", to_jsonable_python(before), after) for path, before, after in rows]
    return json.dumps(made) if made else ""


def _said(rows: tuple[FindingRow, ...]) -> str:
    """Count what was found, the worst first."""
    words = (("stop", "to stop for"), ("fix", "to fix before use"), ("unknown", "not known"),
             ("watch", "to know"))  # fmt: skip
    counts = Counter(row.severity for row in rows)
    return ", ".join(f"{counts[key]} {said}" for key, said in words)


PAGES: Final = {"parts": "parts", "runs": "parts", "spaces": "spaces", "holes": "spaces",
                "states": "spaces", "brief": "brief", "vehicle": "spaces", "system": "parts"}  # fmt: skip  # noqa: E501


def _asked(context: PageContext, found: tuple[Found, ...]) -> tuple[tuple[str, int, str], ...]:
    """Say what would settle the most, and where: by findings each answer would decide."""
    labels = titles(context.project, context.variant, found)
    counts: Counter[str] = Counter()
    for one in found:
        if one.severity is Severity.UNKNOWN:
            counts.update({labels.get(path, path.rpartition(".")[2]) for path in one.needs})
    where: dict[str, str] = {}
    for one in found:
        for path in one.needs:
            title = labels.get(path, path.rpartition(".")[2])
            where.setdefault(title, _address(context, path))
    return tuple((words, count, where[words]) for words, count in counts.most_common(MOST_ASKED))


def _address(context: PageContext, path: str) -> str:
    """Give where a property is asked."""
    group, _, rest = path.partition(".")
    at = context.path_of(f"design.{PAGES.get(group, 'parts')}")
    piece = rest.partition(".")[0]
    if group in ("parts", "runs") and "." in rest:
        return f"{at}?piece={group.removesuffix('s')}-{piece}#piece"
    return at


def checks_page(context: PageContext) -> ChecksPage:
    """Put the page together."""
    if context.built.system.parts:
        checked(context)  # before the frame, which tells what was found
    frame, _ = make_frame(context, "checks")
    if not context.built.system.parts:
        return ChecksPage(frame, empty=True)
    result = checked(context)
    rows = finding_rows(context, result)
    standing = tuple(row for row in rows if not row.by)
    sections = tuple(
        (severity.value, SEVERITY_WORDS[severity],
         tuple(row for row in standing if row.severity == severity.value))
        for severity in (Severity.STOP, Severity.FIX, Severity.UNKNOWN, Severity.WATCH)
    )  # fmt: skip
    groups = []
    for group in GROUPS:
        here = [one for one in result.found if one.id.partition(".")[0] == group]
        unknown = sum(one.severity is Severity.UNKNOWN for one in here)
        looked = sum(of.partition(".")[0] == group for of in CHECKS)
        groups.append((GROUP_WORDS[group], len(here) - unknown, unknown, looked))
    own = context.project.vehicle.rule_set
    return ChecksPage(
        frame, empty=False, said=_said(rows),
        rules=tuple((key, words, key == result.rules.name) for key, words in RULES),
        chosen=own is not None, sections=tuple(one for one in sections if one[2]),
        kept=tuple(row for row in rows if row.by), asked=_asked(context, result.found),
        groups=tuple(groups),
    )  # fmt: skip


def checks_table(context: PageContext) -> bytes:
    """Write every finding as a table."""
    text = io.StringIO()
    out = csv.writer(text)
    out.writerow(["id", "severity", "sentence", "remedy", "who", "figure", "limit", "source",
                  "acknowledged by", "reason"])  # fmt: skip
    for row in finding_rows(context, checked(context)):
        said = (row.id, row.severity, row.sentence, row.remedy, row.who, row.figure, row.limit,
                row.source, row.by, row.reason)  # fmt: skip
        out.writerow([safe_text(cell) for cell in said])
    return text.getvalue().encode("utf-8")
