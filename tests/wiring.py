"""Small trees of wires for tests: a battery, circuits, loads."""

from __future__ import annotations

from typing import Any

from isotherma.core.supply.wires import Fed, Wires, element_ohm, wires_of
from isotherma.core.system import System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds.heat import Element
from isotherma.core.system.nominal import ComputedSystem, computed


def cable(key: str, start: str, end: str, **values: Any) -> dict[str, Any]:
    """A cable from "part.port" to "part.port"."""
    one, port = start.rsplit(".", 1)
    other, into = end.rsplit(".", 1)
    return {"kind": "cable", "id": key, "start": {"part": one, "port": port},
            "end": {"part": other, "port": into}, **values}  # fmt: skip


def tree(parts: list[dict[str, Any]], cables: list[dict[str, Any]]) -> tuple[ComputedSystem, Wires]:
    """A system of electric parts alone, and its wires as they usually stand."""
    built = System.model_validate({"volts_v": 12.0, "parts": parts, "runs": cables})
    known = computed(built)
    return known, wires_of(known, positions(known, None))


def wired(
    watts: float, rated_v: float, length_m: float, area_m2: float, contacts_ohm: float,
    source_v: float,
) -> Fed:  # fmt: skip
    """One element on one cable from a battery: what reaches it."""
    known, wires = tree(
        [
            {"kind": "battery", "id": "battery", "volts_v": source_v, "usable_j": 1e8},
            {"kind": "element", "id": "element", "rated_w": watts, "rated_v": rated_v},
        ],
        [cable("c", "battery.power", "element.power", length_m=length_m, area_m2=area_m2,
               contacts_ohm=contacts_ohm)],
    )  # fmt: skip
    part = known.part("element")
    assert isinstance(part, Element)
    return wires.settled({"element": element_ohm(part, source_v)})["element"]
