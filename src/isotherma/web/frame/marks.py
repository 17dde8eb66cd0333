"""How the work of each page stands, for its entry in the frame."""

from __future__ import annotations

from isotherma.core.errors import CoreError, KernelsCompiling
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.completeness import main_outlet
from isotherma.web.frame.context import Mark, PageContext

DONE = Mark("done", "enough for a first answer")


def _counted(count: int, one: str, many: str) -> str:
    return f"{count} {one if count == 1 else many}"


def brief_mark(context: PageContext, _: Outcome | CoreError) -> Mark:
    """A day needs somebody who washes."""
    return DONE if context.project.brief.draws else Mark("missing", "missing: who washes")


def heat_mark(context: PageContext, _: Outcome | CoreError) -> Mark:
    """A route needs something that warms the water."""
    if any(part.side == "heat" for part in context.variant.system.parts):
        return DONE
    return Mark("missing", "missing: what heats the water")


def layout_mark(context: PageContext, _: Outcome | CoreError) -> Mark:
    """A route needs parts and an outlet."""
    system = context.variant.system
    if not system.parts:
        return Mark("missing", "missing: a route")
    return DONE if main_outlet(system) else Mark("missing", "missing: an outlet")


def parts_mark(context: PageContext, _: Outcome | CoreError) -> Mark:
    """What contradicts itself is wrong; figures nobody gave are missing."""
    found = context.services.computing.remarks(context.variant.system)
    wrong = sum(item.weight == "contradiction" for item in found)
    missing = sum(item.weight == "missing" for item in found)
    if wrong:
        return Mark("wrong", _counted(wrong, "contradiction", "contradictions"))
    if missing:
        return Mark("missing", f"missing: {_counted(missing, 'figure', 'figures')}")
    return DONE if context.variant.system.parts else Mark("missing", "missing: parts")


def spaces_mark(context: PageContext, _: Outcome | CoreError) -> Mark:
    """Parts without a space are taken to be where people live."""
    parts = context.variant.system.parts
    homeless = sum(part.space is None for part in parts)
    if not parts or not homeless:
        return DONE
    return Mark("missing", f"missing: a space for {_counted(homeless, 'part', 'parts')}")


def flow_mark(_: PageContext, result: Outcome | CoreError) -> Mark:
    """Flows are there where a day could be computed."""
    if isinstance(result, Outcome | KernelsCompiling):
        return DONE
    return Mark("missing", "missing: what the flow needs")


def shower_mark(_: PageContext, result: Outcome | CoreError) -> Mark:
    """Draws that are not as asked are what is wrong with a day."""
    if isinstance(result, KernelsCompiling):
        return Mark("missing", "not computed yet")
    if not isinstance(result, Outcome):
        return Mark("missing", "missing: a verdict")
    wrong = sum(not draw.met for draw in result.draws)
    if wrong:
        return Mark("wrong", f"{_counted(wrong, 'draw', 'draws')} not as asked")
    return DONE if result.draws else Mark("missing", "missing: who washes")


def any_mark(_: PageContext, result: Outcome | CoreError) -> Mark:
    """What is tried and compared hangs on nothing but a design that can be computed."""
    return DONE if isinstance(result, Outcome) else Mark("missing", "missing: a verdict")


def budgets_mark(_: PageContext, result: Outcome | CoreError) -> Mark:
    """A budget that gives out before the trip does is what is wrong."""
    if not isinstance(result, Outcome):
        return Mark("missing", "missing: a verdict")
    wrong = sum(entry.ends_on_day is not None for entry in result.ledger)
    if wrong:
        return Mark("wrong", f"{_counted(wrong, 'budget', 'budgets')} short")
    return DONE
