"""Starting layouts: complete first designs, in our own order, flameless ones first.

A layout is a TOML file. Parts name a generic class and change what differs; runs are
written in groups that share a tube, one line each: ``tank > pump: 0.4 m; elbows 1``. Where
parts stand is a line each: ``tank = "0.8 m, -0.5 m, 0 m"``, rearward, to the right, up.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, Final

from isotherma.catalogue.classes import classes, typed
from isotherma.catalogue.names import ORDER
from isotherma.catalogue.presets import PRESETS, everyday
from isotherma.core.brief import Brief, Budgets, Draw, Use
from isotherma.core.project import Acknowledged, Project, Variant
from isotherma.core.system import System
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.runs import RUNS
from isotherma.core.system.states import Phase, State
from isotherma.core.system.vehicle import Hole, Space

_GROUPS: Final = {"pipes": "pipe", "fuel_pipes": "fuel_pipe", "cables": "cable", "ducts": "duct"}
# where a run leaves and arrives when a line does not say, first match wins
_LEAVES: Final = ("outlet", "load", "power", "vent")
_ARRIVES: Final = ("inlet", "feed", "power", "gas", "fuel", "air")
_LINE: Final = re.compile(
    r"(?P<start>[a-z0-9-]+)(?:\.(?P<start_port>[a-z_]+))?\s*>\s*"
    r"(?P<end>[a-z0-9-]+)(?:\.(?P<end_port>[a-z_]+))?\s*:\s*(?P<length>[^;]+)(?P<rest>(?:;.*)?)"
)


@dataclass(frozen=True, slots=True)
class Layout:
    """One starting layout."""

    id: str
    name: str
    heat: str
    summary: str
    brief: Brief
    system: System
    acknowledged: tuple[Acknowledged, ...] = ()

    def project(self) -> Project:
        """Give it as a project of its own, under its own brief."""
        variant = Variant(
            id=self.id, name=self.name, system=self.system, acknowledged=self.acknowledged
        )
        return Project(name=self.name, brief=self.brief, variants=(variant,))


@cache
def layouts() -> Mapping[str, Layout]:
    """Load every starting layout.

    Returns
    -------
    mapping of str to Layout
        By id, in the order they are offered. [-]
    """
    return {key: _load(key) for key in ORDER}


def _load(key: str) -> Layout:
    text = files(__package__).joinpath(f"{key}.toml").read_text(encoding="utf-8")
    data = tomllib.loads(text)
    return Layout(
        id=key,
        name=data["name"],
        heat=data["heat"],
        summary=data["summary"],
        brief=read_brief(data),
        system=read_system(data),
        acknowledged=tuple(
            Acknowledged.model_validate(row) for row in data.get("acknowledged", ())
        ),
    )


def read_brief(data: Mapping[str, Any]) -> Brief:
    """Read the brief of a layout's file.

    Parameters
    ----------
    data : mapping
        The file's content. [-]

    Returns
    -------
    Brief
        Presets of draws with what differs, everyday water for its people. [SI]
    """
    values = typed(Brief, data.get("brief", {}))
    draws = []
    for index, row in enumerate(data.get("draws", ())):
        preset = PRESETS[row.get("preset", "shower")]
        changes = {name: value for name, value in row.items() if name != "preset"}
        merged = {**preset.model_dump(), "id": f"draw-{index + 1}", **typed(Draw, changes)}
        draws.append(Draw.model_validate(merged))
    uses = list(everyday(values.get("people", 2)))
    for row in data.get("uses", ()):
        uses.append(Use.model_validate(typed(Use, row)))
    budgets = Budgets.model_validate(typed(Budgets, data.get("budgets", {})))
    return Brief.model_validate({**values, "draws": draws, "uses": uses, "budgets": budgets})


def read_system(data: Mapping[str, Any]) -> System:
    """Read the system of a layout's file.

    Parameters
    ----------
    data : mapping
        The file's content. [-]

    Returns
    -------
    System
        Validated. [SI]

    Raises
    ------
    pydantic.ValidationError, KeyError, ValueError
        If the file is wrong; shipped files are tested.
    """
    places = data.get("places", {})
    parts = {key: _part(key, row, places.get(key)) for key, row in data["parts"].items()}
    runs = [run for group, kind in _GROUPS.items() for table in data.get(group, ())
            for run in _runs(kind, table, parts)]  # fmt: skip
    return System.model_validate(
        {
            "volts_v": data.get("volts", 12.0),
            "parts": list(parts.values()),
            "runs": _unique(runs),
            "spaces": [
                Space.model_validate({"id": key, **typed(Space, row)})
                for key, row in data["spaces"].items()
            ],
            "phases": [Phase(id=key, name=name) for key, name in data.get("phases", {}).items()],
            "states": [_state(key, row) for key, row in data.get("states", {}).items()],
            "holes": [
                Hole.model_validate({"id": key, **typed(Hole, row)})
                for key, row in data.get("holes", {}).items()
            ],
        }
    )


def _part(key: str, row: Mapping[str, Any], place: str | None) -> PartBase:
    values = dict(row)
    if place is not None:  # rearward, to the right, up
        values |= dict(zip(("x_m", "y_m", "z_m"), place.split(", "), strict=True))
    found = classes()[values.pop("class")]
    kind = KINDS[found.kind]
    merged = {**found.values, **typed(kind, values), "id": key, "kind": found.kind}
    merged["name"] = values.get("name", found.name)
    merged["evidence"] = "assumed"
    return kind.model_validate(merged)


def _state(key: str, row: Mapping[str, Any]) -> State:
    positions = [{"part": part, "at": at} for part, at in row.get("positions", {}).items()]
    placed = [{"part": part, "space": at} for part, at in row.get("placed", {}).items()]
    return State.model_validate(
        {
            "id": key,
            "name": row["name"],
            "note": row.get("note", ""),
            "dry": row.get("dry", ()),
            "positions": positions,
            "placed": placed,
        }
    )


def _port(part: PartBase, said: str | None, order: tuple[str, ...], kind: str) -> str:
    if said is not None:
        return said
    for name in order:
        port = part.port(name)
        if port is not None and port.medium in RUNS[kind].carries:
            return name
    raise ValueError(f"say which port of “{part.id}”")


def _runs(
    kind: str, table: Mapping[str, Any], parts: Mapping[str, PartBase]
) -> Iterator[dict[str, Any]]:
    common = {name: value for name, value in table.items() if name != "runs"}
    for line in table["runs"]:
        match = _LINE.fullmatch(line.strip())
        if match is None:
            raise ValueError(f"“{line}” is no run; write “tank > pump: 0.4 m; elbows 1”")
        start, end = parts[match["start"]], parts[match["end"]]
        values: dict[str, Any] = {**common, "length_m": match["length"].strip()}
        for item in filter(None, (piece.strip() for piece in match["rest"].split(";"))):
            name, _, value = item.partition(" ")
            values[{"rise": "rise_m"}.get(name, name)] = int(value) if value.isdigit() else value
        yield {
            **typed(RUNS[kind], values),
            "kind": kind,
            "id": f"{start.id}-{end.id}"[:36],
            "name": f"{start.label} to {end.label[:1].lower()}{end.label[1:]}"[:80],
            "start": {"part": start.id, "port": _port(start, match["start_port"], _LEAVES, kind)},
            "end": {"part": end.id, "port": _port(end, match["end_port"], _ARRIVES, kind)},
        }


def _unique(runs: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Tell runs between the same parts apart: a cable beside a pipe."""
    seen: dict[str, int] = {}
    for run in runs:
        count = seen[run["id"]] = seen.get(run["id"], 0) + 1
        if count > 1:
            run["id"] = f"{run['id']}-{count}"
    return runs
