"""The reference of all kinds: made from the documents, so that it cannot drift from them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from inspect import getdoc

from pydantic.fields import FieldInfo
from pydantic_core import PydanticUndefined

from isotherma.catalogue.kept_for import kept_for
from isotherma.core.brief import Brief, Budgets, Draw, Use
from isotherma.core.fields import Document
from isotherma.core.quantity import STYLES, UnitSystem, with_unit
from isotherma.core.system.kinds import KINDS, SIDES
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.runs import RUNS, RunBase
from isotherma.core.system.states import Phase, State
from isotherma.core.system.vehicle import Hole, Space, Vehicle
from isotherma.services.forms import Property, property_of

COMMON = "Every part"


@dataclass(frozen=True, slots=True)
class PropertyWords:
    """One property for reading."""

    name: str
    title: str
    holds: str
    default: str
    meaning: str


@dataclass(frozen=True, slots=True)
class KindWords:
    """One kind for reading."""

    kind: str
    title: str
    words: str
    ports: str
    positions: str
    caution: str
    properties: tuple[PropertyWords, ...]


@dataclass(frozen=True, slots=True)
class SideWords:
    """One side with its kinds."""

    key: str
    title: str
    kinds: tuple[KindWords, ...]


def _bounds(info: FieldInfo) -> dict[str, float]:
    """Find the range a field was declared with, wherever its annotation keeps it."""
    found: dict[str, float] = {}
    waiting: list[object] = [info, info.annotation]
    while waiting:
        item = waiting.pop()
        for name in ("gt", "ge", "lt", "le"):
            value = getattr(item, name, None)
            if isinstance(value, int | float):
                found.setdefault(name, value)
        waiting += getattr(item, "metadata", None) or ()
        waiting += getattr(item, "__metadata__", None) or ()
        waiting += getattr(item, "__args__", None) or ()
    return found


def _range(info: FieldInfo, item: Property) -> str:
    bounds = _bounds(info)
    if not bounds:
        return ""

    def words(value: float) -> str:
        return with_unit(value, item.style, UnitSystem.METRIC, 6) if item.style else f"{value:g}"

    low = next((words(bounds[name]) for name in ("ge", "gt") if name in bounds), "")
    high = next((words(bounds[name]) for name in ("le", "lt") if name in bounds), "")
    prefix = "over " if "gt" in bounds and "ge" not in bounds else ""
    return f"{prefix}{low} to {high}" if low and high else f"{prefix}{low or high}"


def _holds(info: FieldInfo, item: Property) -> str:
    if item.kind == "pairs":
        symbols = [
            STYLES[style].symbol(UnitSystem.METRIC) for style in (item.style, item.second_style)
        ]
        return f"pairs of {symbols[0]} and {symbols[1]}"
    if item.kind == "figures":
        return f"figures, each in {STYLES[item.style].symbol(UnitSystem.METRIC)}"
    if item.refers:
        return f"id of a {item.refers}" if item.kind == "choice" else f"ids of {item.refers}s"
    if item.choices:
        if item.values == (True, False):
            return "true or false"
        return ", ".join(f"“{choice}”" for choice in item.choices)
    if item.kind == "switch":
        return "true or false"
    if item.kind in {"text", "long"}:
        return "text"
    unit = STYLES[item.style].dimension.name.replace("_", " ") if item.style else "whole number"
    span = _range(info, item)
    return f"{unit}, {span}" if span else unit


def _default(info: FieldInfo, item: Property) -> str:
    value = info.default
    if value is PydanticUndefined:
        return "required"
    if value is None:
        return "unknown"
    if value in ("", ()):
        return "empty"
    if isinstance(value, bool):
        return "true" if value else "false"
    if item.style and isinstance(value, int | float):
        return with_unit(float(value), item.style, UnitSystem.METRIC, 4)
    return str(value)


def properties_of(document: type[Document], but: frozenset[str]) -> tuple[PropertyWords, ...]:
    """Describe the properties of a document.

    Parameters
    ----------
    document : type
        A class of document. [-]
    but : frozenset of str
        Properties described elsewhere. [-]

    Returns
    -------
    tuple of PropertyWords
        In the order of the class; lists of documents are left out. [-]
    """
    found = []
    for name, info in document.model_fields.items():
        item = property_of(name, info)
        if name in but or item is None:
            continue
        meaning = info.description or ("Chooses the kind." if name == "kind" else "")
        if name in kept_for():
            meaning = f"{meaning} Kept for {kept_for()[name]}.".strip()
        found.append(
            PropertyWords(
                name=name,
                title=info.title or name,
                holds=_holds(info, item),
                default=_default(info, item),
                meaning=meaning,
            )
        )
    return tuple(found)


def _first_line(document: type[Document]) -> str:
    return (getdoc(document) or "").split("\n")[0]


def _kind(kind: str, part: type[PartBase]) -> KindWords:
    common = frozenset(PartBase.model_fields) | {"kind"}
    ports = ", ".join(
        f"{port.name} ({port.medium}{', several' if port.many else ''})" for port in part.ports
    )
    return KindWords(
        kind=kind,
        title=part.title,
        words=_first_line(part),
        ports=ports,
        positions=", ".join(part.positions),
        caution=part.caution,
        properties=properties_of(part, common),
    )


def _run(kind: str, run: type[RunBase]) -> KindWords:
    return KindWords(
        kind=kind,
        title=run.title,
        words=_first_line(run),
        ports="",
        positions="",
        caution=run.caution,
        properties=properties_of(run, frozenset({"kind"})),
    )


def _plain(key: str, title: str, document: type[Document]) -> KindWords:
    words = _first_line(document)
    return KindWords(key, title, words, "", "", "", properties_of(document, frozenset()))


@cache
def reference() -> tuple[SideWords, ...]:
    """Describe every kind, every run and everything round them.

    Returns
    -------
    tuple of SideWords
        Sides in the order of the water, then runs, surroundings and the brief. [-]
    """
    every = KindWords(
        "part", COMMON, "What every part can say, whatever its kind.", "", "", "",
        properties_of(PartBase, frozenset()),
    )  # fmt: skip
    sides = [SideWords("every", COMMON, (every,))]
    for side, title in SIDES.items():
        kinds = tuple(_kind(kind, part) for kind, part in KINDS.items() if part.side == side)
        sides.append(SideWords(side, title, kinds))
    runs = tuple(_run(kind, run) for kind, run in RUNS.items())
    sides.append(SideWords("runs", "Runs", runs))
    around = (("space", "Space", Space), ("state", "State", State), ("phase", "Phase", Phase),
              ("hole", "Hole", Hole), ("vehicle", "Vehicle", Vehicle))  # fmt: skip
    sides.append(SideWords("around", "Round the system", tuple(_plain(*item) for item in around)))
    brief = (("brief", "Brief", Brief), ("draw", "Draw", Draw), ("use", "Use", Use),
             ("budgets", "Budgets", Budgets))  # fmt: skip
    sides.append(SideWords("brief", "The brief", tuple(_plain(*item) for item in brief)))
    return tuple(sides)


def reference_markdown() -> str:
    """Write the reference as Markdown, for `docs/kinds.md`.

    Returns
    -------
    str
        The whole page. [-]
    """
    lines = [
        "# Every kind of part and what it can say",
        "",
        "Made from the code by `scripts/reference.py`; a test fails when it is not up to date.",
        "Files hold SI units, as the name of each property says.",
    ]
    for side in reference():
        lines += ["", f"## {side.title}"]
        for kind in side.kinds:
            lines += ["", f"### {kind.title} · `{kind.kind}`", "", kind.words]
            if kind.ports:
                lines += ["", f"Openings: {kind.ports}."]
            if kind.positions:
                lines += ["", f"Positions: {kind.positions}."]
            if not kind.properties:
                continue
            lines += ["", "| property | label | holds | left empty | meaning |",
                      "|---|---|---|---|---|"]  # fmt: skip
            lines += [
                f"| `{p.name}` | {p.title} | {p.holds} | {p.default} | {p.meaning} |"
                for p in kind.properties
            ]
    return "\n".join(lines) + "\n"
