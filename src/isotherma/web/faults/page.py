"""The page of faults: what is seen and read on one side, suspects and the next test beside it."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar, Final

from isotherma.catalogue.fault_table import fault_table
from isotherma.catalogue.layouts import layouts
from isotherma.core.errors import CoreError
from isotherma.core.faults.diagnosis import Diagnosis
from isotherma.core.faults.evidence import outcomes_of
from isotherma.core.faults.figures import LITRE
from isotherma.core.faults.next_tests import NextTest
from isotherma.core.faults.posterior import Suspect
from isotherma.core.faults.readings import KINDS
from isotherma.core.faults.typed import offered
from isotherma.core.quantity import UnitSystem, unit_of, with_unit
from isotherma.services.building import labels_of
from isotherma.services.fault_cases import CaseDocument
from isotherma.services.guess_edits import counted, guess_of
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.wording import (
    error_words,
    figure_words,
    quantity_title,
    read_words,
    reason_sentence,
    somewhere_title,
    stop_words,
    suspect_title,
    tell_words,
    title_of_test,
    twins_sentence,
    why_test,
)

SHOWN: Final = 5
LEAST: Final = 0.005
WITHOUT_GAIN: Final = 3  # tests that told nothing, after which all changes should go back


@dataclass(frozen=True, slots=True)
class SymptomRow:
    """A symptom to say yes or no to; `says` is "seen", "denied" or empty."""

    id: str
    words: str
    says: str
    stops: bool


@dataclass(frozen=True, slots=True)
class SaidRow:
    """A reading or a test that was noted."""

    what: str
    number: int
    words: str
    counts: bool


@dataclass(frozen=True, slots=True)
class SuspectRow:
    """A suspect, ready to read."""

    key: str
    title: str
    share: str
    percent: int
    licensed: bool
    fix: str
    reasons: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class TestRow:
    """A test that is worth doing, with what it costs and what may come of it."""

    id: str
    part: str
    title: str
    costs: str
    because: str
    undo: str
    outcomes: tuple[str, ...]
    quantity: str
    unit: str
    timed: bool
    danger: bool


@dataclass(frozen=True, slots=True)
class ChangeRow:
    """Something that stands otherwise than it was found."""

    number: int
    what: str
    undo: str
    noted: str
    open: bool


@dataclass(frozen=True, slots=True)
class ReadingForm:
    """The form of a reading as it was typed, and what is wrong with it."""

    quantity: str = ""
    value: str = ""
    from_c: str = ""
    to_c: str = ""
    error: str = ""


@dataclass(frozen=True, slots=True)
class FaultsPage:
    """What is known of a case, what it may be, what to look at next."""

    template: ClassVar[str] = "faults.html"
    frame: Frame
    empty: bool
    wait: bool = False
    find: str = ""
    symptoms: tuple[SymptomRow, ...] = ()
    said: tuple[SymptomRow, ...] = ()
    noted: tuple[SaidRow, ...] = ()
    quantities: tuple[tuple[str, str, bool], ...] = ()
    form: ReadingForm = ReadingForm()
    stops: tuple[tuple[str, str], ...] = ()
    suspects: tuple[SuspectRow, ...] = ()
    rest: str = ""
    sure: bool = False
    tests: tuple[TestRow, ...] = ()
    refer: tuple[str, ...] = ()
    read: tuple[str, ...] = ()
    changes: tuple[ChangeRow, ...] = ()
    put_back: bool = False
    dropped: tuple[str, ...] = ()
    error: str = ""
    ended: tuple[str, ...] = ()
    guess: str = ""
    starts: tuple[tuple[str, str], ...] = ()


def faults_page(
    context: PageContext, form: ReadingForm | None = None, *, now: bool | None = None
) -> FaultsPage:
    """Make the page; suspects are asked for by the page itself unless `now` wants them at once."""
    frame, _ = make_frame(context, "faults")
    system = context.variant.built.system
    if not system.parts:
        starts = tuple((key, one.name) for key, one in layouts().items())
        return FaultsPage(frame, True, starts=starts)
    vehicle, variant = context.opened.vehicle_id, context.variant_id
    case = context.services.fault_cases.case(vehicle, variant)
    names, units = labels_of(system), context.units
    table = fault_table()
    rows = [
        SymptomRow(one.id, one.words, "seen" if one.id in case.seen else
                   "denied" if one.id in case.denied else "", one.stops is not None)
        for one in table.symptoms.values()
    ]  # fmt: skip
    find = context.query.get("find", "").strip()[:60]
    wanted = [row for row in rows if not row.says and _matches(find, row.words)]
    ended = tuple(f"{one.at:%Y-%m-%d}: {one.outcome}" for one in
                  context.services.fault_cases.ended(vehicle, variant))  # fmt: skip
    typed = form or ReadingForm()
    guess = guess_of(context.variant)
    page = {
        "guess": "" if guess is None else layouts()[guess].name,
        "find": find, "symptoms": tuple(wanted), "said": tuple(row for row in rows if row.says),
        "noted": _noted(case, names, units), "form": typed, "ended": ended,
        "quantities": tuple(
            (f"{kind}.{part}" if part else kind,
             quantity_title(f"{kind}.{part}" if part else kind, names),
             (f"{kind}.{part}" if part else kind) == typed.quantity)
            for kind, part in offered(system)
        ),
        "changes": _changes(case),
    }  # fmt: skip
    given = case.evidence(system)
    evidence = counted(context.variant, given)
    if evidence.empty:
        return FaultsPage(frame, False, **page)  # type: ignore[arg-type]
    at_once = context.query.get("now") == "1" if now is None else now
    if not at_once:
        return FaultsPage(frame, False, wait=True, **page)  # type: ignore[arg-type]
    try:
        found = context.services.fault_finding.diagnosed(
            context.project, context.variant, context.variant.standing, evidence)  # fmt: skip
    except CoreError as error:
        return FaultsPage(frame, False, error=error_words(error, units), **page)  # type: ignore[arg-type]
    page |= _found(found, case, names, units, {run.id for run in system.runs})
    return FaultsPage(frame, False, **page)  # type: ignore[arg-type]


def _matches(find: str, words: str) -> bool:
    return all(piece in words.lower() for piece in find.lower().split())


def _noted(case: CaseDocument, names: Mapping[str, str], units: UnitSystem) -> tuple[SaidRow, ...]:
    found = []
    for number, one in enumerate(case.readings):
        quantity = one.kind if one.part is None else f"{one.kind}.{one.part}"
        words = f"{quantity_title(quantity, names)}: {figure_words(one.kind, one.value, units)}"
        if one.from_c is not None and one.to_c is not None:
            ends = (figure_words("temp", value, units) for value in (one.from_c, one.to_c))
            words += f", from {' to '.join(ends)}"
        found.append(SaidRow("reading", number, words, one.change is None))
    table = fault_table()
    for number, test in enumerate(case.tried):
        title = title_of_test(table.tests[test.test], test.part, names)
        found.append(SaidRow("test", number, f"{title}: {test.outcome}", counts=True))
    return tuple(found)


def _changes(case: CaseDocument) -> tuple[ChangeRow, ...]:
    rows = []
    for number, one in enumerate(case.changes):
        if one.ended == "back":
            continue
        noted = "; ".join(words for words in (
            f"as found: {one.found}" if one.found else "",
            f"as left: {one.left}" if one.left else "",
            f"kept: {one.because}" if one.ended == "kept" else "") if words)  # fmt: skip
        rows.append(ChangeRow(number, one.what, one.undo, noted, one.ended is None))
    return tuple(reversed(rows))


def _found(
    found: Diagnosis, case: CaseDocument, names: Mapping[str, str], units: UnitSystem,
    runs: Collection[str],
) -> dict[str, object]:  # fmt: skip
    table = fault_table()
    groups = [group for group in _alike(found.listed, runs)
              if sum(one.chance for one in group) >= LEAST][:SHOWN]  # fmt: skip
    suspects = tuple(_suspect(group, found, names, units) for group in groups)
    shown = [one for group in groups for one in group]
    rest = max(0.0, 1.0 - sum(one.chance for one in shown))
    dull = len(case.tried) >= WITHOUT_GAIN and bool(shown) and not found.sure
    return {
        "stops": tuple(stop_words(stop, units) for stop in found.stops),
        "suspects": suspects, "rest": f"{rest:.0%}", "sure": found.sure,
        "tests": () if case.open_change is not None else tuple(
            _test(one, names, units) for one in found.next_tests),
        "refer": tuple(tell_words(one, found, table) for one in found.refer),
        "read": tuple(read_words(one, names, units) for one in found.read),
        "put_back": dull and any(one.ended == "kept" for one in case.changes),
        "dropped": tuple(f"{table.symptoms[key].words} – {quantity_title(quantity, names)} says it"
                         for key, quantity in found.found.dropped.items()),
    }  # fmt: skip


def _alike(listed: Sequence[Suspect], runs: Collection[str]) -> list[list[Suspect]]:
    """Put suspects that are one fault on one of several runs together, likeliest first."""
    groups: dict[str, list[Suspect]] = {}
    for one in listed:
        first = one.instances[0]
        alone = len(one.instances) == 1 and first.part in runs
        groups.setdefault(first.fault.id if alone else one.key, []).append(one)
    return sorted(groups.values(), key=lambda group: -sum(one.chance for one in group))


def _suspect(
    group: Sequence[Suspect], found: Diagnosis, names: Mapping[str, str], units: UnitSystem
) -> SuspectRow:
    one, table = group[0], fault_table()
    row = found.listed.index(one)
    spoken = found.reasons[row] if row < len(found.reasons) else ()
    reasons = [reason_sentence(reason, found, table, names, units) for reason in spoken]
    twins = twins_sentence(one, found, names)
    chance = sum(each.chance for each in group)
    return SuspectRow(
        one.key, suspect_title(one, names) if len(group) == 1 else somewhere_title(group, names),
        f"{chance:.0%}", round(100 * chance),
        any(part.fault.who == "licensed" for part in one.instances),
        " ".join(part.fault.fix for part in one.instances),
        (*reasons, *(() if twins is None else (twins,))),
    )  # fmt: skip


def _test(one: NextTest, names: Mapping[str, str], units: UnitSystem) -> TestRow:
    test = one.test
    costs = [f"{test.minutes:g} min"]
    water = with_unit(test.litres * LITRE, "volume", units)
    costs += [water] if test.litres else ["no water"]
    costs += [f"about {test.money:g} of money"] if test.money else []
    quantity = "" if test.reads is None else f"{test.reads}.{one.part}"
    kind = KINDS.get(test.reads or "")
    return TestRow(
        test.id, one.part or "", title_of_test(test, one.part, names), ", ".join(costs),
        why_test(one, names), test.undo or "", () if quantity else outcomes_of(test), quantity,
        "" if kind is None else unit_of(kind.style, units).symbol,
        kind is not None and kind.timed, test.danger > 0,
    )  # fmt: skip
