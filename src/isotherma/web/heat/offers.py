"""Where a route begins: starting layouts on the vehicle's own brief, with what is there already."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from operator import itemgetter
from typing import ClassVar, Final

from isotherma.catalogue.classes import PartClass, classes
from isotherma.catalogue.layouts import layouts
from isotherma.core.brief import Brief, Refusal
from isotherma.core.drawing.geometry import Extent, trace
from isotherma.core.drawing.media import carried
from isotherma.core.drawing.outline import outline_of
from isotherma.core.drawing.plan import lay_out
from isotherma.core.editing import lay_with_own, with_owned
from isotherma.core.errors import ChangeRefused, CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.completeness import main_outlet
from isotherma.core.system import System
from isotherma.core.system.needs import needs_of
from isotherma.core.system.remarks import PUMPS
from isotherma.services.edits import USUAL, starting_system
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.route_picture import GLYPHS
from isotherma.wording import REFUSED, error_words, verdict

OWN_KINDS: Final = (
    "fresh_tank", "gravity_bag", "store", "combi", "canister", "through_flow_gas",
    "through_flow_electric", "liquid_heater", "air_heater", "sun_container", "kettle",
)  # fmt: skip
MINI: Final = Extent(20.0, 20.0, 22.0, 22.0)
# what one may ask of a start beforehand: its key, its words, what it must not need
FILTERS: Final[Mapping[str, tuple[str, tuple[Refusal, ...]]]] = {
    "flame": ("no flame", ("any flame",)),
    "hookup": ("no hook-up", ("mains",)),
    "pump": ("no pump", ()),
}


@dataclass(frozen=True, slots=True)
class MiniNode:
    """A sign of a small drawing."""

    glyph: str
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class Mini:
    """The small drawing of a route: what is told of it first."""

    width: float
    height: float
    nodes: tuple[MiniNode, ...]
    lines: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class Card:
    """A start: what it is, what it needs, what it would do where that is known already."""

    id: str
    name: str
    summary: str
    needs: str
    against: str
    unused: str
    verdict: str
    mini: Mini
    where: str


def _on_brief(project: Project, key: str, own: str = "") -> Project:
    """Put a start under the vehicle's brief, with what is there already and what is owned."""
    system = with_owned(starting_system(key), project.owned)
    variant = Variant(id="start", name="Start", system=system)
    made = project.model_copy(update={"variants": (variant,)})
    if own in classes():
        made = lay_with_own(made, variant.id, system, classes()[own].part)
    return made


def owned_choices(own: Sequence[PartClass] = ()) -> tuple[tuple[str, str], ...]:
    """List heaters and tanks one may own that some start has a place for, one's own first."""
    there = {part.kind for item in layouts().values() for part in item.system.parts}
    return tuple(
        (row.id, row.name) for row in (*own, *classes().values())
        if row.kind in OWN_KINDS and row.kind in there
    )  # fmt: skip


@cache
def mini_of(key: str) -> Mini:
    """Draw the outline of a start, small."""
    system = starting_system(key)
    nodes, lines = outline_of(system)
    kinds = {part.id: part.kind for part in system.parts}
    shape = trace(lay_out(nodes, lines), lines, dict.fromkeys(nodes, MINI), tall=False)
    medium = carried(system)
    hot = {run.start.part for run in system.pipes if medium[run.id] in ("hot", "mixed")}
    return Mini(
        round(shape.width, 1),
        round(shape.height, 1),
        tuple(
            MiniNode(GLYPHS.get(kinds[key], "part"), round(x, 1), round(y, 1))
            for key, (x, y) in shape.at.items()
        ),
        tuple(
            ("hot" if line.start in hot else "cold",
             "M" + " L".join(f"{x:.0f} {y:.0f}" for x, y in shape.paths[line.id]))
            for line in lines if line.id in shape.paths
        ),
    )  # fmt: skip


def _few_needs(needed: Collection[Refusal]) -> str:
    """Say what a start needs, as a person asks for it."""
    words = [REFUSED[what] for what in ("gas", "diesel", "mains", "battery heating", "coolant")
             if what in needed]  # fmt: skip
    if "licensed work" in needed:
        words.append("work for licensed people")
    flame = "" if "any flame" in needed else " No flame."
    return f"Needs {', '.join(words)}.{flame}" if words else flame.strip()


def _where(system: System) -> str:
    """Say where people wash with it: where its first shower head, else its first outlet, stands."""
    outlet = next((part for part in system.parts if part.id == main_outlet(system)), None)
    warmth = {space.id: space.warmth for space in system.spaces}
    there = warmth.get(outlet.space or "") if outlet is not None else None
    return "outside" if there in ("outside", "slung") else "inside"


def _passes(system: System, needed: Collection[Refusal], wanted: frozenset[str]) -> bool:
    if "pump" in wanted and any(part.kind in PUMPS for part in system.parts):
        return False
    return not any(what in needed for key in wanted for what in FILTERS[key][1])


def layouts_asked(own: str, wanted: frozenset[str]) -> frozenset[str]:
    """Give the layouts that have a place for what one owns and need nothing one does not want."""
    mine = classes().get(own)
    return frozenset(
        key for key, layout in layouts().items()
        if (mine is None or any(part.kind == mine.kind for part in layout.system.parts))
        and _passes(layout.system, needs_of(layout.system), wanted)
    )  # fmt: skip


def asked_of(query: Mapping[str, str]) -> tuple[str, frozenset[str]]:
    """Read what the address says one owns, and what one does not want."""
    own = query.get("own", "")[:60]
    return own if own in classes() else "", frozenset(
        key for key in FILTERS if query.get(key) == "1"
    )


def _named(key: str) -> tuple[str, str]:
    if key == USUAL:
        return "The usual route, with your own sizes", (
            "One pump, one store on mains, one mixing valve, one shower. Its sizes are yours to "
            "enter: litres of the store and watts of its element give the first verdict."
        )
    layout = layouts()[key]
    return layout.name, layout.summary


def cards(context: PageContext, own: str, wanted: frozenset[str]) -> tuple[Card, ...]:
    """Offer every start that passes the filters, those against the brief's wishes last."""
    project = context.project
    found: list[tuple[tuple[int, ...], Card]] = []
    mine = classes().get(own)
    for key in (USUAL, *layouts()):
        system = starting_system(key)
        if mine is not None and all(part.kind != mine.kind for part in system.parts):
            continue
        needed = needs_of(system)
        if not _passes(system, needed, wanted):
            continue
        name, summary = _named(key)
        there = {part.kind for part in system.parts}
        unused = [
            part.label for part in project.owned
            if part.kind not in there and not (part.kind == "hook_up" and "mains" in needed)
        ]  # fmt: skip
        made = _on_brief(project, key, own)
        result = context.services.computing.peek(made, made.variants[0])
        card = Card(
            id=key, name=name, summary=summary, needs=_few_needs(needed),
            against=", ".join(REFUSED[what] for what in project.brief.will_not_have
                              if what in needed),
            unused=", ".join(unused),
            verdict="" if result is None else _verdict(result, context.units),
            mini=mini_of(key), where=_where(system),
        )  # fmt: skip
        found.append((_rank(project.brief, card, system, needed), card))
    return tuple(card for _, card in sorted(found, key=itemgetter(0)))


def _rank(brief: Brief, card: Card, system: System, needed: Collection[Refusal]) -> tuple[int, ...]:
    """Say what comes first: what is not refused, where people wash, what hurts least."""
    return (
        int(bool(card.against)),
        int(brief.washes not in (None, card.where)),
        int("flames" in brief.hurts and "any flame" in needed),
        int("holes" in brief.hurts and "through-wall flue" in needed),
        len(system.parts) if "complexity" in brief.hurts else 0,
    )


def _verdict(result: Outcome | CoreError, units: UnitSystem) -> str:
    return verdict(result, units) if isinstance(result, Outcome) else error_words(result, units)


@dataclass(frozen=True, slots=True)
class OfferPage:
    """The verdict of one start on a vehicle's brief."""

    template: ClassVar[str] = "offer.html"
    vehicle: str
    name: str
    verdict: str


def offer_page(context: PageContext, key: str, own: str = "") -> OfferPage | None:
    """Compute a start on the vehicle's brief; None if there is no such start."""
    if key not in layouts() and key != USUAL:
        return None
    try:
        made = _on_brief(context.project, key, own)
    except ChangeRefused:
        return None
    result = context.services.computing.result(made, made.variants[0])
    return OfferPage(context.project.name, _named(key)[0], _verdict(result, context.units))
