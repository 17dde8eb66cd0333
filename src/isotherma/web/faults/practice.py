"""Practice: a hidden fault in this design, tests that answer and cost, and how it went."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar
from urllib.parse import urlencode

from isotherma.catalogue.fault_table import fault_table
from isotherma.core.errors import CoreError
from isotherma.core.faults.evidence import Tried
from isotherma.core.faults.figures import LITRE
from isotherma.core.faults.table import FaultTest
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.services.building import labels_of
from isotherma.services.practising import SEED_MOST, Exercise, Told
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.wording import (
    error_words,
    fault_title,
    figure_words,
    quantity_title,
    stop_words,
    title_of_test,
)


@dataclass(frozen=True, slots=True)
class ChoiceRow:
    """A test to choose: what it costs, and the address that does it."""

    title: str
    costs: str
    query: str


@dataclass(frozen=True, slots=True)
class PracticePage:
    """An exercise as far as it went."""

    template: ClassVar[str] = "practice.html"
    frame: Frame
    seed: int
    query: str = ""
    other_seed: int = 0
    seen: tuple[str, ...] = ()
    denied: tuple[str, ...] = ()
    stops: tuple[tuple[str, str], ...] = ()
    told: tuple[str, ...] = ()
    choices: tuple[ChoiceRow, ...] = ()
    faults: tuple[tuple[str, str], ...] = ()
    did: tuple[str, ...] = ()
    spent: str = ""
    named: str = ""
    was: str = ""
    right: bool = False
    ours: tuple[str, ...] = ()
    ours_spent: str = ""
    mean: str = ""
    error: str = ""


def practice_page(context: PageContext) -> PracticePage:
    """Make the page of the exercise its address asks for."""
    frame, _ = make_frame(context, "faults")
    asked = context.query
    seed = _seed(asked.get("seed", ""))
    did = tuple(key[:120] for key in asked.getlist("did")[:100])
    project, variant = context.project, context.variant
    practising = context.services.practising
    try:
        found = practising.exercise(project, variant, seed, did)
    except CoreError as error:
        return PracticePage(frame, seed, error=error_words(error, context.units))
    names, table = labels_of(variant.built.system), fault_table()
    named = asked.get("named", "")
    named = named if named in found.faults else ""
    done = tuple(one.test.key(one.part) for one in found.told)
    page = PracticePage(
        frame, seed, urlencode([("seed", seed), *(("did", key) for key in done)]),
        (seed * 7 + 13) % (SEED_MOST + 1),
        tuple(table.symptoms[key].words for key in found.seen),
        tuple(table.symptoms[key].words for key in found.denied),
        tuple(stop_words(stop, context.units) for stop in found.stops),
        tuple(_told(one, names, context.units) for one in found.told),
        () if named else tuple(_choice(test, part, names, seed, done, context.units)
                               for test, part in found.left),
        tuple((key, fault_title(key)) for key in found.faults), done,
        _spent(found, context.units), named,
    )  # fmt: skip
    if not named:
        return page
    return _ended(context, page, found, names)


def _ended(
    context: PageContext, page: PracticePage, found: Exercise, names: dict[str, str]
) -> PracticePage:
    """Say what it was, and how we would have looked."""
    instance = found.hidden.instance
    where = names.get(instance.part or "", "")
    search = context.services.practising.our_search(context.project, context.variant, found.seed)
    mean = ""
    if context.query.get("mean") == "1":
        minutes = context.services.practising.our_mean_min(
            context.project, context.variant, found.seed)  # fmt: skip
        mean = f"{minutes:.0f} min on the mean of 200 draws"
    return PracticePage(
        page.frame, page.seed, page.query, page.other_seed, page.seen, page.denied, page.stops,
        page.told, (), page.faults, page.did, page.spent, page.named,
        f"{where}: {fault_title(instance.fault.id)}" if where else fault_title(instance.fault.id),
        page.named == instance.fault.id,
        tuple(_told(Told(step.test, step.part, step.told), names, context.units)
              for step in search.steps),
        f"{search.cost_min:.0f} min, and named “{fault_title(search.fault)}”", mean,
    )  # fmt: skip


def _seed(text: str) -> int:
    return min(SEED_MOST, int(text)) if text.isdecimal() and len(text) <= 6 else 1


def _told(one: Told, names: dict[str, str], units: UnitSystem) -> str:
    title = title_of_test(one.test, one.part, names)
    if one.answer is None:
        return f"{title}: nothing could be read"
    if isinstance(one.answer, Tried):
        return f"{title}: {one.answer.outcome}"
    figure = figure_words(one.answer.kind, one.answer.value, units)
    return f"{title}: {quantity_title(one.answer.kind, names)} {figure}"


def _choice(
    test: FaultTest, part: str | None, names: dict[str, str], seed: int, did: Sequence[str],
    units: UnitSystem,
) -> ChoiceRow:  # fmt: skip
    water = with_unit(test.litres * LITRE, "volume", units)
    costs = f"{test.minutes:g} min" + (f", {water}" if test.litres else "")
    pairs = [("seed", seed), *(("did", key) for key in (*did, test.key(part)))]
    return ChoiceRow(title_of_test(test, part, names), costs, urlencode(pairs))


def _spent(found: Exercise, units: UnitSystem) -> str:
    water = with_unit(found.litres * LITRE, "volume", units)
    return (f"{found.minutes:g} min, {water}, {found.money:g} of money; "
            f"counted together {found.cost_min:.0f} min")  # fmt: skip
