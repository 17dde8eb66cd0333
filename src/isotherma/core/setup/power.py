"""What the wires carry with any set of loads on: amps and volts of each, fuses, what cannot run."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from enum import StrEnum
from itertools import combinations
from math import inf, sqrt
from typing import Final

from isotherma.core.setup.fuses import Fuses, most_a, volts_of
from isotherma.core.supply.copper import cable_bears_a
from isotherma.core.supply.feeds import feeds_of
from isotherma.core.supply.ohms import FUSE_BEARS
from isotherma.core.supply.wires import (
    Wires,
    cable_amps,
    element_ohm,
    source_volts,
    wires_of,
)
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.nominal import ComputedSystem, figure
from isotherma.core.system.runs import Cable

ROUNDS: Final = 400
SAME_A: Final = 1e-10
# what takes its amps whatever the volts, as the day has it; all else but ohms takes its watts
_BY_AMPS: Final = frozenset({
    "pump", "submersible", "circulation_pump", "loop_pump", "dump_pump", "reuse_loop",
})  # fmt: skip


class WhyOff(StrEnum):
    """Why a load does not run."""

    NOT_ON = "not_on"
    OFF = "off"
    CUT_OFF = "cut_off"
    FUSE_ALONE = "fuse_alone"
    WAITS = "waits"
    BLOWS = "blows"
    FAINT = "faint"
    CANNOT = "cannot"


@dataclass(frozen=True, slots=True)
class PowerLoad:
    """A load: what feeds it, what it takes and gets [A, V, W].

    `starts_a` is what it takes as it starts; `most_w` what its wires could carry where they cannot
    feed it.
    """

    id: str
    label: str
    circuits: tuple[str, ...]
    amps: float
    volts: float
    source_v: float
    starts_a: float
    why_not: WhyOff | None
    most_w: float | None = None

    @property
    def runs(self) -> bool:
        """Whether it runs."""
        return self.why_not is None

    @property
    def watts(self) -> float:
        """What it takes at its ends [W]."""
        return self.amps * self.volts

    @property
    def drop_share(self) -> float:
        """What of the volts is lost on the way to it [-]."""
        return 1.0 - self.volts / self.source_v if self.runs and self.source_v > 0.0 else 0.0


@dataclass(frozen=True, slots=True)
class PowerCircuit:
    """A fuse or breaker: what runs through it, and what the thinnest cable behind it bears [A].

    `apart` are pairs of loads, by name, of which it bears each but not both.
    """

    id: str
    label: str
    amps: float
    starts_a: float
    fuse_a: float | None
    cable_a: float | None
    cable: str
    blows: bool
    apart: tuple[tuple[str, str], ...] = ()

    @property
    def share(self) -> float | None:
        """What of the fuse is taken; None where nobody knows it [-]."""
        if self.fuse_a is None:
            return None
        return self.amps / self.fuse_a if self.fuse_a > 0.0 else inf * self.amps


@dataclass(frozen=True, slots=True)
class PowerCable:
    """A cable: amps in it, volts and watts lost, what its copper bears; None: not measured."""

    run: str
    amps: float
    drop_v: float | None
    lost_w: float | None
    bears_a: float | None


@dataclass(frozen=True, slots=True)
class PowerSource:
    """What gives: its volts and all that is taken from it [V, A]."""

    id: str
    label: str
    volts: float
    amps: float


@dataclass(frozen=True, slots=True)
class PowerReport:
    """What all wires carry in a state with some loads on."""

    loads: tuple[PowerLoad, ...]
    circuits: tuple[PowerCircuit, ...]
    cables: tuple[PowerCable, ...]
    sources: tuple[PowerSource, ...]

    @property
    def lost_w(self) -> float:
        """All that stays in the wires [W]."""
        return sum(cable.lost_w for cable in self.cables if cable.lost_w is not None)


def loads_of(known: ComputedSystem) -> tuple[str, ...]:
    """List what takes electricity and may be put on.

    Parameters
    ----------
    known : ComputedSystem
        With what was understood of its parts. [-]

    Returns
    -------
    tuple of str
        Ids in the document's order; inverters follow what hangs on them. [-]
    """
    return tuple(_starts(known, wires_of(known, {})))


def _starts(known: ComputedSystem, whole: Wires) -> dict[str, float]:
    """Give the amps of every load as it starts [A]."""
    amps = {
        part.id: most_a(part, known, whole)
        for part in known.parts if not isinstance(part, electric.Inverter)
    }  # fmt: skip
    return {key: value for key, value in amps.items() if value > 0.0}


def power_report(
    known: ComputedSystem, at: Mapping[str, str], on: Collection[str] | None = None
) -> PowerReport:
    """Say what wires, fuses and loads carry with some loads on.

    Parameters
    ----------
    known : ComputedSystem
        With what was understood of its parts. [-]
    at : mapping of str to str
        How switchable parts stand. [-]
    on : collection of str or None
        Ids of what is wanted on; None: all. [-]

    Returns
    -------
    PowerReport
        In the document's order. What its fuse, switch or cable keeps from running takes nothing
        and says why. [A, V, W]

    Notes
    -----
    Elements and pads follow their volts, pumps take their amps and all else its watts, at the lower
    of the two currents that give them. A load that no current gives its watts to is said with the
    most its wires carry, E²/4Z, and left out; a fuse that bears less than what hangs on it blows,
    and what hung on it is left out, until nothing changes.

    References
    ----------
    Ohm's and Kirchhoff's laws; the lower root of P = I (E − Z I).
    """
    return _Power(known, at, on).report()


class _Power:
    """The search for what runs together."""

    def __init__(
        self, known: ComputedSystem, at: Mapping[str, str], on: Collection[str] | None
    ) -> None:
        self.known, self.at = known, at
        self.parts = {part.id: part for part in known.parts}
        self.wires, self.whole = wires_of(known, at), wires_of(known, {})
        self.fuses = Fuses(known, self.wires, self.whole, at, lambda _: True)
        self.starts = _starts(known, self.whole)
        self.ids = tuple(self.starts)
        self.inverters = {
            part.id: part for part in known.parts
            if isinstance(part, electric.Inverter) and at.get(part.id) != "off"
        }  # fmt: skip
        self.feeds = {key: feeds_of(known, key) for key in (*self.ids, *self.inverters)}
        self.circuits = {key: found.circuits for key, found in self.feeds.items()}
        self.on_inverter = self._on_inverter()
        self.why: dict[str, WhyOff] = {}
        self.most: dict[str, float] = {}
        self.blown: set[str] = set()
        self._first(self.ids if on is None else on)

    def _on_inverter(self) -> dict[str, str]:
        """Say by which inverter a load is fed, where no plugged hook-up feeds it too."""
        found = {}
        for key in self.ids:
            sources = self.feeds[key].sources
            plugged = any(
                isinstance(self.parts[one], electric.HookUp) and self.at.get(one) != "unplugged"
                for one in sources
            )
            inverter = next((one for one in sources if one in self.inverters), None)
            if inverter is not None and not plugged:
                found[key] = inverter
        return found

    def _first(self, on: Collection[str]) -> None:
        """Find what does not run whatever else does."""
        apart: dict[str, str] = {}
        for key in self.ids:
            alone = [
                fuse for fuse in self.circuits[key]
                if (bears := self.fuses.bears.get(fuse)) is not None
                and self.starts[key] > bears * FUSE_BEARS
            ]  # fmt: skip
            if key not in on:
                self.why[key] = WhyOff.NOT_ON
            elif self.at.get(key) == "off":
                self.why[key] = WhyOff.OFF
            elif key in self.wires.dead:
                self.why[key] = WhyOff.CUT_OFF
            elif alone:
                self.why[key] = WhyOff.FUSE_ALONE
            elif key in self.fuses.faint:
                self.why[key] = WhyOff.FAINT
            else:
                held = [
                    fuse
                    for fuse in self.circuits[key]
                    if getattr(self.parts[fuse], "not_together", False)
                ]
                if any(fuse in apart for fuse in held):
                    self.why[key] = WhyOff.WAITS
                apart |= {fuse: key for fuse in held if fuse not in apart}

    def _running(self) -> list[str]:
        return [key for key in self.ids if key not in self.why]

    def _takes(self, key: str, part: AnyKind) -> tuple[str, float]:
        """Say how a load takes: ohms, amps or watts, and how many."""
        volts = volts_of(part, self.known, self.wires)
        if isinstance(part, heat.Element):
            return "ohms", element_ohm(part, volts)
        if isinstance(part, heat.HeatPad):
            watts = figure(part, "power_w")
            return ("ohms", volts**2 / watts) if watts > 0.0 else ("amps", 0.0)
        if isinstance(part, heat.LiquidHeater):
            return "watts", figure(part, "running_w")
        if part.kind in _BY_AMPS:
            return "amps", self.starts[key]
        return "watts", self.starts[key] * volts

    def settled(self) -> dict[str, tuple[float, float]]:
        """Give amps and volts of all that runs; who cannot be fed is put among `why`."""
        while True:
            found = self._settle_mains()
            if found is not None:
                return found

    def _settle_mains(self) -> dict[str, tuple[float, float]] | None:
        """Settle what hangs on inverters, then all with what those take."""
        ac = [key for key in self._running() if key in self.on_inverter]
        dc = [key for key in self._running() if key not in self.on_inverter]
        high = self._solve({key: self._takes(key, self.parts[key]) for key in ac})
        if high is None:
            return None
        taking = {key: self._takes(key, self.parts[key]) for key in dc}
        for key, part in self.inverters.items():
            if key in self.why or key in self.wires.dead:
                continue
            gives = sum(high[load][0] * self._source_v(load, high[load][1]) for load in ac
                        if self.on_inverter[load] == key)  # fmt: skip
            taking[key] = "watts", gives / figure(part, "efficiency") + figure(part, "idle_w")
        low = self._solve(taking)
        return None if low is None else {**high, **low}

    def _source_v(self, key: str, volts: float) -> float:
        row = self.wires.row(key)
        return volts if row is None else float(self.wires.source_v[row])

    def _solve(
        self, takes: Mapping[str, tuple[str, float]]
    ) -> dict[str, tuple[float, float]] | None:
        """Solve loads that hang together; None where one cannot be fed, which is noted."""
        ohms = {key: value for key, (how, value) in takes.items() if how == "ohms"}
        amps = {key: value for key, (how, value) in takes.items() if how == "amps"}
        watts = {key: value for key, (how, value) in takes.items() if how == "watts"}
        wires: Wires = self.wires
        by_watts = dict.fromkeys(watts, 0.0)
        for _ in range(ROUNDS):
            fed = wires.settled(ohms, {**amps, **by_watts})
            moved = 0.0
            for key, wanted in watts.items():
                row = wires.row(key)
                if row is None:
                    volts = volts_of(self.parts[key], self.known, wires)
                    by_watts[key] = wanted / volts
                    continue
                own = float(wires.ohm[row, row])
                open_v = (fed[key].volts if key in fed else float(wires.source_v[row])) + (
                    own * by_watts[key]
                )
                under = open_v**2 - 4.0 * own * wanted
                if open_v <= 0.0 or under < 0.0:
                    self.why[key] = WhyOff.CANNOT
                    self.most[key] = max(0.0, open_v) ** 2 / (4.0 * own) if own > 0.0 else 0.0
                    return None
                now = wanted / open_v if own <= 0.0 else (open_v - sqrt(under)) / (2.0 * own)
                moved = max(moved, abs(now - by_watts[key]))
                by_watts[key] = now
            if moved < SAME_A:
                break
        fed = wires.settled(ohms, {**amps, **by_watts})
        found = {key: (one.amps, one.volts) for key, one in fed.items()}
        for key, (how, value) in takes.items():
            if key not in found:  # no wire is drawn to it: it gets its volts
                volts = volts_of(self.parts[key], self.known, wires)
                now = volts / value if how == "ohms" else value
                found[key] = (by_watts.get(key, now), volts)
        return found

    def report(self) -> PowerReport:
        """Let fuses blow until what is left holds, and write it down."""
        while True:
            found = self.settled()
            blowing = self._blowing(found)
            if not blowing:
                return self._written(found)
            self.blown |= blowing
            for key in (*self.ids, *self.inverters):
                if key not in self.why and blowing & set(self.circuits[key]):
                    self.why[key] = WhyOff.BLOWS
            for key, inverter in self.on_inverter.items():
                if key not in self.why and self.why.get(inverter) is not None:
                    self.why[key] = WhyOff.BLOWS

    def _through(self, found: Mapping[str, tuple[float, float]], fuse: str) -> tuple[float, float]:
        """Give the amps through a fuse, and those while everything starts at once."""
        mine = [key for key in found if fuse in self.circuits[key]]
        starts = sum(max(self.starts.get(key, 0.0), found[key][0]) for key in mine)
        return sum(found[key][0] for key in mine), starts

    def _blowing(self, found: Mapping[str, tuple[float, float]]) -> set[str]:
        """Find fuses that bear less than what runs through them."""
        return {
            key for key, bears in self.fuses.bears.items()
            if key not in self.blown and self._through(found, key)[0] > bears * FUSE_BEARS
        }  # fmt: skip

    def _written(self, found: Mapping[str, tuple[float, float]]) -> PowerReport:
        carried = cable_amps(self.known, self.at, {key: amps for key, (amps, _) in found.items()})
        cables = {run.id: run for run in self.known.runs if isinstance(run, Cable)}
        bears = {key: self._bears(run) for key, run in cables.items()}
        return PowerReport(
            tuple(self._load(key, found) for key in (*self.ids, *self.inverters)),
            tuple(
                self._circuit(part, found, bears) for part in self.known.parts
                if isinstance(part, electric.Circuit)
            ),
            tuple(
                PowerCable(
                    key, abs(amps), None if cables[key].loop_ohm is None else abs(lost),
                    None if cables[key].loop_ohm is None else abs(amps * lost), bears[key],
                )
                for key, (amps, lost) in carried.items()
            ),
            tuple(self._sources(carried, cables)),
        )  # fmt: skip

    def _load(self, key: str, found: Mapping[str, tuple[float, float]]) -> PowerLoad:
        part = self.parts[key]
        amps, volts = found.get(key, (0.0, 0.0))
        return PowerLoad(
            key, part.label, self.circuits[key], amps, volts,
            volts_of(part, self.known, self.wires), self.starts.get(key, amps), self.why.get(key),
            self.most.get(key),
        )  # fmt: skip

    def _bears(self, run: Cable) -> float | None:
        """Give what a cable bears; None where nobody knows its copper."""
        if run.area_m2 is None:
            return None
        ends = (self.parts.get(run.start.part), self.parts.get(run.end.part))
        mains = any(
            isinstance(end, electric.HookUp)
            or (isinstance(end, electric.Circuit) and end.guard not in (None, "fuse"))
            or (
                end is not None
                and end.id in self.starts
                and volts_of(end, self.known, self.wires) > 60.0
            )
            for end in ends
        )
        return cable_bears_a(run.area_m2, mains=mains)

    def _circuit(
        self, part: electric.Circuit, found: Mapping[str, tuple[float, float]],
        bears: Mapping[str, float | None],
    ) -> PowerCircuit:  # fmt: skip
        amps, starts = self._through(found, part.id)
        behind = [
            (found_a, run.id) for run in self.known.runs
            if run.id in bears and (found_a := bears[run.id]) is not None
            and (run.start.part, run.start.port) == (part.id, "load")
        ]  # fmt: skip
        thinnest = min(behind, default=(None, ""))
        return PowerCircuit(
            part.id, part.label, amps, starts, part.fuse_a, thinnest[0], thinnest[1],
            part.id in self.blown, self._apart(part.id),
        )  # fmt: skip

    def _apart(self, fuse: str) -> tuple[tuple[str, str], ...]:
        """Name loads that may not run together on a fuse; what is cut off cannot anyway."""
        bears = self.fuses.bears.get(fuse)
        if bears is None:
            return ()
        most = bears * FUSE_BEARS
        loads = [
            (key, amps) for key, amps in self.fuses.loads[fuse].items()
            if amps <= most and key not in self.wires.dead
        ]  # fmt: skip
        return tuple(
            (self.parts[one].label, self.parts[other].label)
            for (one, first), (other, second) in combinations(loads, 2)
            if first + second > most
        )

    def _sources(
        self, carried: Mapping[str, tuple[float, float]], cables: Mapping[str, Cable]
    ) -> list[PowerSource]:
        found = []
        for part in self.known.parts:
            if not isinstance(part, electric.Battery | electric.HookUp | electric.Inverter):
                continue
            port = "power" if isinstance(part, electric.Battery) else "load"
            amps = 0.0
            for key, (flows, _) in carried.items():
                run = cables[key]
                amps += flows if (run.start.part, run.start.port) == (part.id, port) else 0.0
                amps -= flows if (run.end.part, run.end.port) == (part.id, port) else 0.0
            volts = self._gives(part)
            found.append(PowerSource(part.id, part.label, volts, amps))
        return found

    def _gives(self, part: AnyKind) -> float:
        volts = source_volts(part, self.known)
        assert volts is not None  # batteries, hook-ups and inverters all keep up some
        return volts
