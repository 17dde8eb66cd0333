"""What the address of the Flow page asks: a state, what is open, what is measured."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from starlette.datastructures import QueryParams

from isotherma.core.project import Variant
from isotherma.core.setup.completeness import main_outlet
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.services.flows import outlets_of

OPENINGS: Final = (("", "shut"), ("0.25", "a quarter"), ("0.5", "half"), ("1", "open"))


@dataclass(frozen=True, slots=True)
class FlowAsked:
    """What the address asks for; everything may be missing or wrong."""

    view: str = "flow"
    state: str = ""
    opens: Mapping[str, str] | None = None
    way: str = ""
    dirty: bool = False
    every: str = ""
    cooled: str = ""
    pitch: str = ""
    roll: str = ""


@dataclass(frozen=True, slots=True)
class OpenChoice:
    """One outlet that can be opened."""

    id: str
    label: str
    drain: bool
    choices: tuple[tuple[str, str, bool], ...]


def state_of(variant: Variant, wanted: str) -> State | None:
    """Give the state an address names, else that of the day."""
    return variant.system.state_or(wanted, variant.standing)


def opens_of(system: System, asked: FlowAsked) -> tuple[dict[str, float], list[str]]:
    """Read openings of the address; those that are none are named."""
    known = outlets_of(system)
    if asked.opens is None:
        first = main_outlet(system)
        return ({first: 1.0} if first else {}), []
    opens, unknown = {}, []
    for part_id, text in asked.opens.items():
        if not text:
            continue
        if part_id not in known:
            unknown.append(part_id)
            continue
        try:
            share = float(text)
        except ValueError:
            share = float("nan")
        if not 0.01 <= share <= 1.0:
            unknown.append(f"{known[part_id]} by “{text[:12]}”")
            continue
        opens[part_id] = share
    return opens, unknown


def choice_of(part_id: str, label: str, system: System, opens: Mapping[str, float]) -> OpenChoice:
    """Offer how far an outlet is open."""
    now = opens.get(part_id)
    values = [value for value, _ in OPENINGS]
    here = "" if now is None else f"{now:g}"
    choices = [(value, words, value == here) for value, words in OPENINGS]
    if here not in values:
        choices.insert(-1, (here, f"{now:.0%}", True))
    return OpenChoice(part_id, label, system.part(part_id).kind == "drain", tuple(choices))


def query_of(state: State | None, opens: Mapping[str, float], dirty: bool) -> str:
    """Write what is chosen as part of an address."""
    parts: Sequence[str] = [f"state={state.id}"] if state is not None else []
    parts = [*parts, *(f"o.{key}={value:g}" for key, value in opens.items())]
    if not opens:
        parts = [*parts, "o.="]
    return "&".join([*parts, "dirty=1"] if dirty else parts)


def flow_asked(query: QueryParams) -> FlowAsked:
    """Read the address of the flow page; texts are cut to what a field takes."""
    text = {key: value[:60] for key, value in query.multi_items()}
    opens = {key[2:]: value for key, value in text.items() if key.startswith("o.") and key[2:]}
    chosen = any(key.startswith("o.") for key in text)
    return FlowAsked(
        view=text.get("view", "flow"),
        state=text.get("state", ""),
        opens=opens if chosen else None,
        way=text.get("way", ""),
        dirty=text.get("dirty", "") == "1",
        every=text.get("every", ""),
        cooled=text.get("cooled", ""),
        pitch=text.get("pitch", ""),
        roll=text.get("roll", ""),
    )
