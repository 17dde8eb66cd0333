"""Routines: what hands do with this design, step by step, from its parts, states and drains."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Final, Literal

from isotherma.core.findings import Quantity
from isotherma.core.flows.draining import DrainDown
from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds import electric, gas, heat, temperature, use, waste, water
from isotherma.core.system.moves import Move, ordered_moves
from isotherma.core.system.remarks import PUMPS, Remark
from isotherma.core.system.runs import FuelPipe
from isotherma.core.system.states import Position, State
from isotherma.core.water.dosing import dose_m3

RoutineId = Literal[
    "arrive", "before_driving", "leave_week", "first_frost", "lay_up", "river", "sanitise",
    "descale", "hoses", "alarms",
]  # fmt: skip
FLUSHES: Final = 2.0  # all of the water, after sanitising; by taste and label
RINSES: Final = 3.0  # a store's own volume, after descaling
TASTES_S, LOOK_S, BUTTON_S = 20.0, 30.0, 10.0  # a hand at an outlet, a look, a test button
STOW_S: Final = 60.0
EMPTIES_S: Final = 300.0  # a drain runs; judgement
CONTACT_S: Final = 3600.0  # usual on labels at this strength
SOAK_S: Final = 3600.0
FEW_M3: Final = 1e-5
MUCH_M3: Final = 1e-4  # a puddle smaller than that is blown out with all the others
LOOSE: Final = (water.LooseContainer, waste.WasteContainer, heat.Kettle, heat.SunContainer,
                temperature.Jug, water.GravityBag, water.LooseHose)  # fmt: skip
SCALES: Final = (heat.Store, heat.Combi, heat.Canister, heat.ThroughFlowGas,
                 heat.ThroughFlowElectric)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to do at one part or run; `to` is the position it is brought to.

    `seconds` None: nobody can say; `dated` is a date as entered; `wrong` what is dangerous right
    after it.
    """

    code: str
    part: str = ""
    to: str = ""
    tool: str = "hand"
    seconds: float | None = None
    values: Mapping[str, Quantity] = field(default_factory=dict)
    dated: str = ""
    wrong: tuple[Remark, ...] = ()


@dataclass(frozen=True, slots=True)
class Routine:
    """Steps in order; `state` is the state it begins or ends in."""

    id: RoutineId
    steps: tuple[Step, ...]
    state: str | None = None

    @property
    def seconds(self) -> float:
        """Add up what is known of its time [s]."""
        return sum(step.seconds for step in self.steps if step.seconds is not None)


@dataclass(frozen=True, slots=True)
class Known:
    """What others worked out: drain-down, all water [m³], product [g/L], states fed from outside.

    `day_m3` is the fresh water of a day; None: not known.
    `minds` says whether anything minds how it stands.
    """

    down: DrainDown | None = None
    water_m3: float | None = None
    product_g_per_l: float = 50.0
    rivers: tuple[str, ...] = ()
    minds: bool = False
    day_m3: float | None = None


def at_rest(system: System, state: State | None) -> State:
    """Give the state to drive or leave in: heat, pumps and gas off, everything that runs out shut.

    Parameters
    ----------
    system : System
        The design. [-]
    state : State or None
        How all else stands. [-]

    Returns
    -------
    State
        Of its own id. [-]
    """
    at = positions(system, state)
    for part in system.parts:
        wanted = _rests(part)
        if wanted is not None:
            at[part.id] = wanted
    here = state or State(id="rest", name="At rest")
    placed = tuple(Position(part=key, at=words) for key, words in at.items())
    return here.model_copy(update={"id": "rest", "positions": placed})


def _rests(part: AnyKind) -> str | None:
    if part.kind in PUMPS or part.side == "heat" or isinstance(part, gas.GasLoad):
        return "off" if "off" in part.positions else None
    if isinstance(part, gas.GasBottle | gas.GasValve):
        return "shut"
    if isinstance(part, electric.HookUp):
        return "unplugged"
    if isinstance(part, use.OutsideOutlet | water.Drain | waste.Gate):
        return "shut"
    if isinstance(part, waste.DumpPump | waste.ReuseLoop):
        return "off"
    return None


def routines_of(system: System, state: State | None, known: Known) -> tuple[Routine, ...]:
    """Write the routines of a design in one of its states.

    Parameters
    ----------
    system : System
        As it is built. [-]
    state : State or None
        How it is used. [-]
    known : Known
        What was worked out of it. [SI]

    Returns
    -------
    tuple of Routine
        Those that have a step; in the order they come up in. [s]
    """
    key = None if state is None else state.id
    writers: tuple[tuple[RoutineId, Callable[..., Iterator[Step]]], ...] = (
        ("arrive", _arrive), ("before_driving", _drive), ("leave_week", _leave),
        ("first_frost", _frost), ("lay_up", _lay_up), ("sanitise", _sanitise),
        ("descale", _descale), ("hoses", _hoses), ("alarms", _alarms),
    )  # fmt: skip
    found = [Routine(name, tuple(write(system, state, known)), key) for name, write in writers]
    states = {one.id: one for one in system.states}
    rivers = [Routine("river", tuple(_river(system, state, states[name])), name)
              for name in known.rivers if name in states]  # fmt: skip
    return tuple(one for one in (*found[:5], *rivers, *found[5:]) if one.steps)


def _moved(system: System, moves: tuple[Move, ...], code: str = "move") -> Iterator[Step]:
    diverters = [part for part in system.parts if isinstance(part, temperature.ReturnDiverter)]
    by_foot = {part.id for part in diverters if part.worked_by == "foot"}
    for move in moves:
        tool = "foot" if move.part_id in by_foot else move.tool
        yield Step(code, move.part_id, move.after, tool, move.seconds_s, wrong=move.wrong)


def _of(system: System, kinds: tuple[type[AnyKind], ...]) -> Iterator[AnyKind]:
    return (part for part in system.parts if isinstance(part, kinds))


def _arrive(system: System, state: State | None, known: Known) -> Iterator[Step]:
    """Level, bring all to its place in this state, let air out, feel the water."""
    if known.minds:
        yield Step("level", tool="level", seconds=120.0)
    for part in _of(system, (use.ShowerPlace,)):
        setup = part.setup_s if isinstance(part, use.ShowerPlace) else None
        yield Step("set_up", part.id, seconds=setup)
    yield from _moved(system, ordered_moves(system, at_rest(system, state), state).moves)
    for part in _of(system, (use.ShowerHead, use.Tap)):
        yield Step("run_air", part.id, seconds=TASTES_S)
    for part in _of(system, (waste.GreyTank, waste.WasteContainer)):
        yield Step("grey_room", part.id, seconds=LOOK_S)


def _drive(system: System, state: State | None, known: Known) -> Iterator[Step]:
    """Bring all to rest, hang up what hangs, stow what is loose, empty the grey water."""
    del known
    yield from _moved(system, ordered_moves(system, state, at_rest(system, state)).moves)
    for part in _of(system, (use.ShowerHead,)):
        yield Step("hang_up", part.id, seconds=BUTTON_S)
    for part in _of(system, (use.ShowerPlace,)):
        pack = part.pack_s if isinstance(part, use.ShowerPlace) else None
        yield Step("pack", part.id, seconds=pack)
    for part in _of(system, LOOSE):
        yield Step("stow", part.id, tool="strap", seconds=STOW_S)
    for part in _of(system, (water.FillPoint,)):
        yield Step("cap", part.id, seconds=BUTTON_S)
    for part in _of(system, (waste.GreyTank,)):
        yield Step("empty_grey", part.id, seconds=EMPTIES_S)


def _leave(system: System, state: State | None, known: Known) -> Iterator[Step]:
    """At rest, shut off at the tank, nothing that goes bad left in it."""
    del known
    yield from _moved(system, ordered_moves(system, state, at_rest(system, state)).moves)
    for part in _of(system, (water.ShutOff,)):
        yield Step("shut_off", part.id, "shut", seconds=BUTTON_S)
    for part in _of(system, (water.FreshTank,)):
        yield Step("tank_stands", part.id, seconds=EMPTIES_S)
    for part in _of(system, (heat.Store, heat.Combi, heat.Canister)):
        yield Step("store_stands", part.id, seconds=LOOK_S)
    for part in _of(system, (waste.GreyTank, waste.WasteContainer)):
        yield Step("empty_grey", part.id, seconds=EMPTIES_S)
    for part in _of(system, (waste.Trap,)):
        yield Step("trap_dries", part.id, seconds=BUTTON_S)


def _frost(system: System, state: State | None, known: Known) -> Iterator[Step]:
    """Drain down in order, take out what stays, prove it."""
    if known.down is None:
        return
    rest = at_rest(system, state)
    yield from _moved(system, ordered_moves(system, state, rest).moves)
    for part in _of(system, (heat.Store, heat.Combi, heat.Canister)):
        yield Step("let_cool", part.id)
    for part in _of(system, (water.FreshTank,)):
        yield Step("empty_tank", part.id, seconds=EMPTIES_S)
    for opening in known.down.openings:
        code = "open_drain" if opening.volume_m3 > FEW_M3 else "open_for_air"
        yield Step(code, opening.id, "open", seconds=EMPTIES_S if opening.is_drain else TASTES_S,
                   values={"litres": Quantity(opening.volume_m3, "volume")})  # fmt: skip
    little = 0.0
    for kept in known.down.trapped:
        if kept.stays_m3 < MUCH_M3:
            little += kept.stays_m3
            continue
        yield Step("trapped", kept.id, tool="hand pump", seconds=EMPTIES_S,
                   values={"litres": Quantity(kept.stays_m3, "volume")})  # fmt: skip
    if little >= FEW_M3:
        yield Step("puddles", tool="hand pump", seconds=EMPTIES_S,
                   values={"litres": Quantity(little, "volume")})  # fmt: skip
    caught = sum(one.volume_m3 for one in known.down.openings)
    yield Step("proof", tool="bucket", seconds=LOOK_S,
               values={"litres": Quantity(caught, "volume")})  # fmt: skip
    for part in _of(system, (waste.GreyTank, waste.WasteContainer)):
        yield Step("empty_grey", part.id, seconds=EMPTIES_S)


def _lay_up(system: System, state: State | None, known: Known) -> Iterator[Step]:
    """As for frost, then what a winter does to what is left in place."""
    yield from _frost(system, state, known)
    for part in _of(system, (water.Filter,)):
        yield Step("filter_out", part.id, seconds=STOW_S)
    for part in _of(system, (water.Strainer,)):
        yield Step("clean", part.id, seconds=STOW_S)
    for part in _of(system, (water.Accumulator,)):
        yield Step("precharge", part.id, tool="tyre gauge", seconds=STOW_S)
    for part in _of(system, (use.ShowerHead, use.Tap)):
        yield Step("half_open", part.id, seconds=BUTTON_S)
    for part in _of(system, (waste.Trap,)):
        yield Step("trap_frost", part.id, seconds=BUTTON_S)
    for part in _of(system, (gas.GasBottle,)):
        yield Step("bottle_off", part.id, "shut", tool="spanner", seconds=STOW_S)
    for part in _of(system, (electric.Battery,)):
        yield Step("battery", part.id, seconds=LOOK_S)


def _river(system: System, state: State | None, fed: State) -> Iterator[Step]:
    """Draw from outside: clean suction, moves there, not for drinking, and back with a flush."""
    for part in _of(system, (water.OutsideSource,)):
        yield Step("suction", part.id, seconds=STOW_S)
    yield from _moved(system, ordered_moves(system, state, fed).moves)
    for part in _of(system, (use.Tap, use.BottleFill)):
        if getattr(part, "drinks", None) or isinstance(part, use.BottleFill):
            yield Step("not_drinking", part.id)
    for part in _of(system, (water.Filter,)):
        yield Step("filter_look", part.id, seconds=LOOK_S)
    yield from _moved(system, ordered_moves(system, fed, state).moves, "move_back")
    for part in _of(system, (use.ShowerHead, use.Tap)):
        yield Step("flush_outlet", part.id, seconds=TASTES_S)


def _sanitise(system: System, state: State | None, known: Known) -> Iterator[Step]:
    """Dose, every outlet till it smells, wait, flush."""
    del state
    tanks = list(_of(system, (water.FreshTank,)))
    if not tanks:
        return
    for part in _of(system, (water.Filter,)):
        yield Step("filter_out", part.id, seconds=STOW_S)
    dose: dict[str, Quantity] = {}
    flush: dict[str, Quantity] = {}
    if known.water_m3 is not None:
        product = dose_m3(water_m3=known.water_m3, product_g_per_l=known.product_g_per_l)
        dose = {"dose": Quantity(product, "millilitres"),
                "litres": Quantity(known.water_m3, "volume")}  # fmt: skip
        flush = {"litres": Quantity(FLUSHES * known.water_m3, "volume")}
    yield Step("dose" if dose else "dose_unknown", tanks[0].id, tool="jug", seconds=STOW_S,
               values=dose)  # fmt: skip
    for part in _of(system, (use.ShowerHead, use.Tap, use.OutsideOutlet, use.BottleFill)):
        yield Step("smells", part.id, seconds=2 * TASTES_S)
    yield Step("contact", seconds=CONTACT_S)
    yield Step("flush" if flush else "flush_unknown", tanks[0].id, seconds=None, values=flush)
    for part in _of(system, (water.Filter,)):
        yield Step("filter_in", part.id, seconds=STOW_S)


def _descale(system: System, state: State | None, known: Known) -> Iterator[Step]:
    """Cold, drained, soaked with acid, rinsed; heads in a cup."""
    del state, known
    for part in _of(system, SCALES):
        yield Step("cold_off", part.id, "off")
        volume = getattr(part, "volume_m3", None)
        values = {} if volume is None else {"litres": Quantity(volume, "volume")}
        yield Step("acid", part.id, tool="funnel", seconds=SOAK_S, values=values)
        rinse = {} if volume is None else {"litres": Quantity(RINSES * volume, "volume")}
        yield Step("rinse", part.id, seconds=None, values=rinse)
    for part in _of(system, (use.ShowerHead,)):
        yield Step("soak_head", part.id, tool="cup", seconds=SOAK_S)


def _hoses(system: System, state: State | None, known: Known) -> Iterator[Step]:
    """Dates and lives of what grows old."""
    del state
    for part in _of(system, (water.Filter,)):
        life = part.life_m3 if isinstance(part, water.Filter) else None
        values = {} if life is None else {"litres": Quantity(life, "volume")}
        if life is not None and known.day_m3:
            values["days"] = Quantity(life / known.day_m3, "number")
        code = (
            "cartridge_days" if "days" in values else "cartridge" if values else "cartridge_unknown"
        )
        yield Step(code, part.id, seconds=STOW_S, values=values)
    for run in system.runs:
        if isinstance(run, FuelPipe) and run.way == "hose":
            yield Step("hose", run.id, dated=run.dated or "", seconds=LOOK_S)
    for part in system.parts:
        if isinstance(part, gas.Regulator | water.LooseHose):
            yield Step("hose", part.id, dated=part.dated or "", seconds=LOOK_S)


def _alarms(system: System, state: State | None, known: Known) -> Iterator[Step]:
    """Press each alarm's button; say where one is missing."""
    del state, known
    burns = any(getattr(part, "fuel", None) for part in system.parts)
    alarms = list(_of(system, (gas.GasAlarm,)))
    for part in alarms:
        dated = part.dated if isinstance(part, gas.GasAlarm) else None
        yield Step("alarm", part.id, seconds=BUTTON_S, dated=dated or "")
    if burns and not alarms:
        yield Step("no_alarm")
