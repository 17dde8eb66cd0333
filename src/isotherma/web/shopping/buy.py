"""What to buy: what is not known first, then lines by shop, what is there, what saves joints."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Final

from isotherma.core.joints.lines import Line
from isotherma.core.joints.pricing import Shopping, price_of
from isotherma.core.joints.savings import Saving
from isotherma.core.project import Price
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.system import System
from isotherma.core.system.kinds import KINDS
from isotherma.services.shopping import savings
from isotherma.web.frame.context import PageContext
from isotherma.wording import ITEM_WORDS, LINE_WHY, SHOP_WORDS, remark_sentence, unknown_words

SEALING: Final = frozenset({
    "clip", "clamp", "grommet", "sleeve", "edge_primer", "sealant", "label", "tape", "washer",
})  # fmt: skip
WIRED: Final = frozenset({"cable", "lug", "fuse", "gland"})
PLUMBED: Final = frozenset({
    "split", "shut_off", "selector", "check_valve", "reducer", "flow_limiter", "relief", "drain",
    "air_vent", "coupling", "blanking_cap", "loose_hose",
})  # fmt: skip
FIRST: Final = 6  # things not known before the rest is folded
NAMED: Final = 2  # pieces a line names before it counts


@dataclass(frozen=True, slots=True)
class LineRow:
    """One line, ready to read, with what its buttons carry."""

    id: str
    what: str
    size: str
    buy: str
    need: str
    about: str
    note: str
    price: str
    state: str
    item: str
    key_size: str
    quantity: str
    part: str
    pack: str
    one_price: str
    priced_on: str
    have: str
    ordered: str
    spare: bool


@dataclass(frozen=True, slots=True)
class ShopRows:
    """Lines that are bought in one kind of shop."""

    title: str
    rows: tuple[LineRow, ...]
    money: str


@dataclass(frozen=True, slots=True)
class SavingRow:
    """What would save joints, with what trying and taking it asks."""

    words: str
    joints: str
    changes: str


@dataclass(frozen=True, slots=True)
class BuyView:
    """What to buy."""

    said: tuple[str, ...]
    currency: str
    phases: tuple[tuple[str, str, bool], ...]
    not_known: int
    missing: tuple[tuple[str, str], ...]
    more_missing: tuple[tuple[str, str], ...]
    shops: tuple[ShopRows, ...]
    spares: tuple[LineRow, ...]
    there: tuple[LineRow, ...]
    owned: tuple[tuple[str, str], ...]
    count_there: int
    remarks: tuple[str, ...]
    spaces: tuple[tuple[str, str], ...]
    savings: tuple[SavingRow, ...]
    today: str


def shop_of(line: Line) -> str:
    """Say in which kind of shop a line is bought."""
    if line.approval == "gas":
        return "gas"
    if line.item in KINDS:
        side = KINDS[line.item].side
        if side == "electric":
            return "electrical"
        plumbed = line.item in PLUMBED or side in ("temperature", "use")
        return "gas" if side == "gas" else "plumbing" if plumbed else "vehicle"
    if line.item in WIRED:
        return "electrical"
    return "fixings" if line.item in SEALING else "plumbing"


def buy_view(context: PageContext, made: Shopping, *, saves: bool = True) -> BuyView:
    """Make the view of what to buy; `saves` tries what would save joints."""
    saved = savings(context.variant) if saves else ()
    system, units = context.variant.system, context.units
    names = {one.id: one.label for one in (*system.parts, *system.runs)}
    names |= {hole.id: hole.name for hole in system.holes}
    lines = made.listed.lines
    rows = {line.key: _row(line, made, context.project.prices, names, units) for line in lines}
    open_lines = [line for line in lines if line.quantity > 0.0 and not line.spare]
    shops = []
    for key, title in SHOP_WORDS.items():
        mine = [line for line in open_lines if shop_of(line) == key]
        if mine:
            shops.append(ShopRows(title, tuple(rows[line.key] for line in mine),
                                  _sum_words(mine, made.currency)))  # fmt: skip
    phase = context.query.get("phase", "")
    phases = [("", "all phases", not phase)] if system.phases else []
    phases += [(one.id, one.name, one.id == phase) for one in system.phases]
    missing = _missing(made, names)
    there = tuple(rows[line.key] for line in lines if line.quantity <= 0.0 and not line.spare)
    owned = tuple((part.id, part.label) for part in system.parts if part.owned == "owned")
    return BuyView(
        _said(made, open_lines, units), context.project.currency, tuple(phases), len(missing),
        missing[:FIRST], missing[FIRST:],
        tuple(shops),
        tuple(rows[line.key] for line in lines if line.spare and line.quantity > 0.0),
        there, owned, len(there) + len(owned),
        tuple(remark_sentence(one, names.get(one.about[0], one.about[0]), units)
              for one in made.listed.remarks),
        _spaces(made, system),
        tuple(_saving(one, context.variant_id, names, units) for one in saved),
        date.today().isoformat(),
    )  # fmt: skip


def _money(value: float, currency: str) -> str:
    return f"{value:,.2f} {currency}".strip()


def _sum_words(lines: Iterable[Line], currency: str) -> str:
    known = [line.price for line in lines if line.price is not None]
    return _money(sum(known), currency) if known else ""


def _said(made: Shopping, lines: Sequence[Line], units: UnitSystem) -> tuple[str, ...]:
    """Write the sentences over the list."""
    money = made.money
    cost = "no price known yet" if money.sum is None else _money(money.sum, made.currency)
    lacks = f"; {money.unknown} lines not priced" if money.unknown else ""
    joints, hidden = made.listed.joints, made.listed.out_of_reach
    reach = (f"{hidden} of them behind another part" if hidden
             else "none of them behind another part")  # fmt: skip
    mass = made.mass_kg
    weight = "" if mass.sum is None else with_unit(mass.sum, "mass", units)
    weighed = weight and f" All that is weighed comes to {weight}" + (
        f", without {mass.unknown} lines nobody weighed." if mass.unknown else ".")  # fmt: skip
    spare = sum(line.spare and line.quantity > 0.0 for line in made.listed.lines)
    over = f" and {spare} spares" if spare else ""
    return (
        f"{len(lines)} lines to buy{over}: {cost}{lacks}.",
        f"{joints} joints, {reach}.{weighed}",
    )


def _missing(made: Shopping, names: dict[str, str]) -> tuple[tuple[str, str], ...]:
    """Say what must be known first, each with where it is said."""
    found = []
    for end, run in made.listed.not_resolved:
        port = end.port.replace("_", " ")
        what = end.tube or "a tube that is not known"
        found.append((
            f"{names[end.part_id]}, {port}: {end.end} does not meet {what} of {names[run]}.",
            f"?view=ends#end-{end.part_id}-{end.port}",
        ))  # fmt: skip
    lacking: dict[str, list[str]] = {}
    for line in made.listed.lines:
        for name in line.unknown:
            if name.startswith("runs."):
                lacking.setdefault(name.split(".")[1], []).append(unknown_words(name))
    for run, words in lacking.items():
        said = ", ".join(dict.fromkeys(words))
        found.append((f"{names[run]}: {said}.", f"parts?piece=run-{run}#piece"))
    return tuple(found)


def _spaces(made: Shopping, system: System) -> tuple[tuple[str, str], ...]:
    spaces = {space.id: space.name for space in system.spaces}
    counted = made.listed.by_space.items()
    return tuple((spaces.get(key, "space not known"), str(count)) for key, count in counted)


def _amount(line: Line, value: float, units: UnitSystem) -> str:
    return with_unit(value, "length", units, 3) if line.unit == "m" else f"{value:g}"


def _row(
    line: Line, made: Shopping, prices: Sequence[Price], names: dict[str, str], units: UnitSystem
) -> LineRow:
    kept = price_of(line, prices)
    title = ITEM_WORDS.get(line.item) or KINDS[line.item].title
    is_part = line.item in KINDS
    size = line.size
    if line.end_a is not None and line.end_b is not None:
        size = f"{line.end_a} × {line.end_b}"
    bought = _amount(line, line.quantity, units)
    if line.packs is not None and kept is not None and kept.pack is not None:
        many = ("bar" if line.why == "bars" else "pack") + ("" if line.packs == 1 else "s")
        bought = f"{line.packs} {many} of {_amount(line, kept.pack, units)}"
    about = [names.get(key, key) for key in line.about]
    more = len(about) - NAMED
    said = ", ".join(about[:NAMED]) + (f" and {more} more" if more > 0 else "")
    notes = [LINE_WHY[line.why]] if line.why and line.why != "coil" else []
    notes += ["for drinking water" if line.approval == "drinking" else "for gas"
              ] if line.approval and not is_part else []  # fmt: skip
    notes += [f"not known: {unknown_words(name)}" for name in line.unknown
              if name != "price" and not name.startswith("runs.") and not is_part]  # fmt: skip
    state = ""
    if line.have > 0.0:
        state = f"{_amount(line, line.have, units)} there"
    if line.ordered > 0.0:
        state += (", " if state else "") + f"{_amount(line, line.ordered, units)} ordered"
    return LineRow(
        line.key.replace("|", "-").replace(" ", "-").replace("/", "-"),
        title if not is_part or title == size else f"{size}",
        "" if is_part else size, bought,
        _amount(line, line.net, units) if line.net is not None else "",
        "" if is_part else said, ", ".join(notes),
        "" if line.price is None else _money(line.price, made.currency), state,
        line.item, line.size, f"{line.quantity:.6g}",
        line.about[0] if is_part and not line.spare else "",
        "" if kept is None or kept.pack is None else f"{kept.pack:g}",
        "" if kept is None or kept.price is None else f"{kept.price:g}",
        "" if kept is None else kept.priced_on or "", f"{kept.have:g}" if kept else "",
        f"{kept.ordered:g}" if kept else "", line.spare,
    )  # fmt: skip


def _saving(one: Saving, variant_id: str, names: dict[str, str], units: UnitSystem) -> SavingRow:
    about = [names.get(key, key) for key in one.about]
    first = about[0]
    match one.kind:
        case "formed_bend":
            radius = with_unit((one.radius_mm or 0.0) / 1000.0, "bore", units)
            words = f"{first}: bend the tube instead of elbows, where a radius of {radius} fits"
        case "one_size":
            words = f"{', '.join(about)}: lay it in {one.to} like the rest"
        case "other_ends":
            words = f"{first}: buy it with ends {one.to}"
        case _:
            words = f"{', '.join(about)}: one manifold instead of {len(about)} tees"
    system = f"variants.{variant_id}.system"
    changes = [[f"{system}.{row.path}", row.before, row.after] for row in one.changes]
    return SavingRow(words, f"{one.joints} joints fewer" if one.joints != 1 else "1 joint fewer",
                     json.dumps(changes) if changes else "")  # fmt: skip
