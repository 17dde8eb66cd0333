"""What somebody typed of a case: symptoms, readings, tests, read and refused by name."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from difflib import get_close_matches
from typing import Final

from isotherma.core.errors import NotInTable, QuantityError
from isotherma.core.faults.evidence import Evidence, Tried, outcomes_of
from isotherma.core.faults.readings import KINDS, Reading
from isotherma.core.faults.table import FaultTable
from isotherma.core.quantity import UnitSystem, parse
from isotherma.core.system import System

NEAREST: Final = 3
LIKE: Final = 0.4
OF_NO_PART: Final = frozenset({"air", "amp_hours"})
EXAMPLE: Final = "flow.head=4.2"
_OUTLETS: Final = ("shower_head", "tap", "outside_outlet", "bottle_fill")
_PUMPS: Final = ("pump", "submersible")
_STORES: Final = ("store", "combi", "canister")
# by quantity the kinds of part it is read at
READ_AT: Final[dict[str, tuple[str, ...]]] = {
    "flow": _OUTLETS,
    "temp": (*_OUTLETS, *_STORES, "through_flow_gas", "through_flow_electric", "fresh_tank",
             "engine_coolant"),
    "wait": _OUTLETS,
    "pressure": (*_PUMPS, *_OUTLETS),
    "shut_pressure": ("pump",), "cut_out": ("pump",), "cut_in": ("pump",), "run_on": ("pump",),
    "kick_every": ("pump",),
    "precharge": ("accumulator", "expansion_vessel"),
    "volts": (*_PUMPS, "element", "battery", "liquid_heater", "air_heater", "ignition_cells",
              "hook_up"),
    "amps": (*_PUMPS, "element", "liquid_heater", "hook_up", "circulation_pump"),
    "heat_up": _STORES, "cool_down": ("store", "combi"),
    "level": ("float_sender", "sight_tube"),
    "litres": ("fresh_tank", "loose_container", "gravity_bag", "grey_tank", "fuel_tank"),
    "bottle_kg": ("gas_bottle",),
    "wh_to_empty": ("battery",),
}  # fmt: skip


def read_symptoms(keys: Iterable[str], table: FaultTable) -> tuple[str, ...]:
    """Read symptoms by id; NotInTable names the nearest of one nobody knows.

    Parameters
    ----------
    keys : iterable of str
        As typed. [-]
    table : FaultTable
        All there are. [-]

    Returns
    -------
    tuple of str
        As the table has them. [-]

    Raises
    ------
    NotInTable
        Naming the nearest.
    """
    return tuple(_known(key.strip(), table.symptoms, "symptom") for key in keys)


def read_reading(text: str, system: System, units: UnitSystem = UnitSystem.METRIC) -> Reading:
    """Read a figure as ``QUANTITY.PART=VALUE``, or ``heat_up.STORE=TIME:FROM:TO``.

    Parameters
    ----------
    text : str
        A bare number is in the quantity's own unit; ``±`` and a figure say how unsure. [-]
    system : System
        Whose parts are meant. [-]
    units : UnitSystem
        Of bare temperatures, flows and so on. [-]

    Returns
    -------
    Reading
        In the quantity's unit. [see `KINDS`]

    Raises
    ------
    NotInTable
        If there is no such quantity or part.
    QuantityError
        If the figure is none.
    """
    name, given, figures = text.partition("=")
    kind_name, _, part = name.strip().partition(".")
    _known(kind_name, KINDS, "quantity")
    if part or kind_name not in OF_NO_PART:
        there = {one.id for one in system.parts}
        if not part:
            at = sorted(one.id for one in system.parts if one.kind in READ_AT.get(kind_name, ()))
            raise NotInTable(what="part", typed=name, nearest=tuple(
                f"{kind_name}.{one}" for one in at[:NEAREST]))  # fmt: skip
        _known(part, there, "part")
    if not given:
        raise QuantityError(text=text, dimension=kind_name, reason="nothing_typed", example=EXAMPLE)
    return reading_of(kind_name, part or None, figures, units)


def reading_of(
    kind_name: str, part: str | None, figures: str, units: UnitSystem = UnitSystem.METRIC
) -> Reading:
    """Read the figure of a quantity, see `read_reading`.

    Parameters
    ----------
    kind_name : str
        One of `KINDS`. [-]
    part : str or None
        Whose. [-]
    figures : str
        As typed: value, perhaps ``±`` doubt; of a time also from and to. [-]
    units : UnitSystem
        Of bare figures. [-]

    Returns
    -------
    Reading
        In the quantity's unit. [see `KINDS`]

    Raises
    ------
    QuantityError
        If a figure is none, or a time has no from and to.
    """
    kind = KINDS[kind_name]
    first, *rest = figures.split(":")
    value, _, doubt = first.partition("±")
    read = parse(value, kind.style, units) / kind.si
    unsure = None
    if doubt:
        style = "difference" if kind.style == "temperature" else kind.style
        unsure = abs(parse(doubt, style, units) / kind.si)
    if len(rest) not in ((0, 2) if kind.timed else (0,)):
        raise QuantityError(text=figures, dimension=kind.style, reason="two_numbers",
                            example="45:12:60" if kind.timed else "4.2")  # fmt: skip
    ends = [parse(one, "temperature", units) for one in rest]
    return Reading(kind_name, part, read, unsure, *(ends or (None, None)))


def read_tried(text: str, table: FaultTable, system: System) -> Tried:
    """Read a test as ``TEST=OUTCOME`` or ``TEST@PART=OUTCOME``.

    Parameters
    ----------
    text : str
        An outcome the table does not list is the rest of them. [-]
    table : FaultTable
        The tests. [-]
    system : System
        Whose parts are meant. [-]

    Returns
    -------
    Tried
        The test, its part and its outcome. [-]

    Raises
    ------
    NotInTable
        If there is no such test or part, or the test reads a figure instead.
    QuantityError
        If no outcome is said.
    """
    name, _, outcome = text.partition("=")
    key, _, part = name.strip().partition("@")
    test = table.tests[_known(key, table.tests, "test")]
    if part:
        _known(part, {one.id for one in (*system.parts, *system.runs)}, "part")
    if test.reads is not None:
        nearest = (f"--reading {test.reads}.{part or 'PART'}=…",)
        raise NotInTable(what="outcome", typed=text, nearest=nearest)
    if not outcome.strip():
        raise NotInTable(what="outcome", typed=text, nearest=outcomes_of(test))
    said = outcome.strip()
    return Tried(key, part or None, said if said in test.outcomes else outcomes_of(test)[-1])


def evidence_of(
    table: FaultTable, system: System, *, seen: Iterable[str] = (), denied: Iterable[str] = (),
    readings: Iterable[str] = (), tried: Iterable[str] = (),
    units: UnitSystem = UnitSystem.METRIC,
) -> Evidence:  # fmt: skip
    """Read all that is typed of a case; errors as `read_reading` and `read_tried`.

    Parameters
    ----------
    table : FaultTable
        Symptoms and tests. [-]
    system : System
        Whose parts are meant. [-]
    seen, denied, readings, tried : iterable of str
        As typed. [-]
    units : UnitSystem
        Of bare figures. [-]

    Returns
    -------
    Evidence
        All of it. [-]

    Raises
    ------
    NotInTable
        If a symptom, test, quantity or part is none.
    QuantityError
        If a figure is none.
    """
    return Evidence(
        read_symptoms(seen, table), read_symptoms(denied, table),
        tuple(read_reading(one, system, units) for one in readings),
        tuple(read_tried(one, table, system) for one in tried),
    )  # fmt: skip


def _known(key: str, known: Collection[str], what: str) -> str:
    if key in known:
        return key
    nearest = tuple(get_close_matches(key, list(known), NEAREST, LIKE))
    raise NotInTable(what=what, typed=key, nearest=nearest)


def offered(system: System) -> tuple[tuple[str, str | None], ...]:
    """List the quantities that can be read on a design, and of what.

    Parameters
    ----------
    system : System
        The design. [-]

    Returns
    -------
    tuple of tuple
        Quantity and part, in the order of the quantities; None of what has no part. [-]
    """
    found: list[tuple[str, str | None]] = []
    for kind, kinds in READ_AT.items():
        found += [(kind, part.id) for part in system.parts if part.kind in kinds]
    return (*found, ("air", None))
