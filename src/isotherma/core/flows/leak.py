"""Leak arithmetic: how often a pump starts for a leak, and what starts say of one."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core.errors import NoPumpStarts
from isotherma.core.flows.fittings import held_c
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.pulse import accumulators_of, switch_pumps
from isotherma.core.hydraulics import pulsing
from isotherma.core.system import System
from isotherma.core.system.kinds.heat import Canister, Combi, Store
from isotherma.core.system.nominal import understand
from isotherma.core.system.pieces import Band


@dataclass(frozen=True, slots=True)
class PumpStarts:
    """A pump with its switch and everything shut: the water between two starts.

    `kept` is that water, low, likely and high [m³]; `accumulators` the parts that hold
    most of it; `shrinks_m3_per_k` what hot stores behind it shrink by.
    """

    pump: str
    label: str
    cut_in_pa: float
    cut_out_pa: float
    kept: Band
    accumulators: tuple[str, ...]
    shrinks_m3_per_k: float

    def leak(self, interval_s: float, cooled_k: float = 0.0) -> Band:
        """Work the leak out from the time between two starts.

        Parameters
        ----------
        interval_s : float
            From start to start, > 0. [s]
        cooled_k : float
            How far the hot stores cooled in that time. [K]

        Returns
        -------
        Band
            Leak at the mean of both pressures; none where cooling explains the starts. [m³/s]

        Raises
        ------
        NoPumpStarts
            If no time passed.
        """
        shrunk = self.shrinks_m3_per_k * cooled_k
        kept = (max(0.0, value - shrunk) for value in self._sizes())
        rates = [pulsing.leak_m3_per_s(kept_m3=value, interval_s=interval_s) for value in kept]
        return Band(rates[0], rates[1], rates[2], self.kept.because)

    def interval(self, leak_m3_per_s: float) -> Band:
        """Work out how often the pump starts for a leak.

        Parameters
        ----------
        leak_m3_per_s : float
            Leak, > 0. [m³/s]

        Returns
        -------
        Band
            Time between starts. [s]

        Raises
        ------
        NoPumpStarts
            If nothing leaks.
        """
        if leak_m3_per_s <= 0.0:
            raise NoPumpStarts(interval_s=None, leak_m3_per_s=leak_m3_per_s)
        times = [
            pulsing.pump_start_interval_s(kept_m3=value, leak_m3_per_s=leak_m3_per_s)
            for value in self._sizes()
        ]
        return Band(times[0], times[1], times[2], self.kept.because)

    def _sizes(self) -> tuple[float, float, float]:
        return self.kept.low, self.kept.likely, self.kept.high


def pump_starts(system: System, network: CompiledNetwork) -> tuple[PumpStarts, ...]:
    """Describe what each pump with a switch does with everything shut.

    Parameters
    ----------
    system : System
        As entered, for the doubt of its figures. [-]
    network : CompiledNetwork
        Its network in a state. [-]

    Returns
    -------
    tuple of PumpStarts
        One per pump that runs by a pressure switch. [-]

    Notes
    -----
    Likely figures, then each low and high one at a time; their effects are added by sign.
    """
    found = []
    for pump, part in switch_pumps(network):
        assert part.cut_in_pa is not None and part.cut_out_pa is not None
        vessels = accumulators_of(network, pump)
        ids = tuple(vessels)
        base = _Sizes(part.cut_in_pa, part.cut_out_pa, tuple(vessels.values()), 1.0)
        likely = base.kept()
        changed = [base.with_tubes(share).kept() for share in (1 / pulsing.TUBE_DOUBT,
                                                              pulsing.TUBE_DOUBT)]  # fmt: skip
        for index, part_id in enumerate(ids):
            figures = {
                figure.name: figure
                for figure in understand(system.part(part_id), system.around(system.part(part_id)))
            }
            for place, name in enumerate(("volume_m3", "precharge_pa")):
                figure = figures[name]
                for value in (figure.low, figure.high):
                    if value is not None:
                        changed.append(base.with_vessel(index, place, value).kept())
        low = likely + sum(min(0.0, value - likely) for value in changed)
        high = likely + sum(max(0.0, value - likely) for value in changed)
        because = "water between the switch's two pressures, slowly: gas at one temperature"
        if not ids:
            because = "no accumulator: only tubes that give, which nobody knows within three times"
        found.append(
            PumpStarts(
                pump=pump,
                label=part.label,
                cut_in_pa=part.cut_in_pa,
                cut_out_pa=part.cut_out_pa,
                kept=Band(max(low, 0.1 * likely), likely, high, because),
                accumulators=ids,
                shrinks_m3_per_k=_shrinks(network),
            )
        )
    return tuple(found)


@dataclass(frozen=True, slots=True)
class _Sizes:
    low_pa: float
    high_pa: float
    vessels: tuple[tuple[float, float], ...]
    tubes: float

    def kept(self) -> float:
        return pulsing.kept_water_m3(
            accumulators=self.vessels,
            low_pa=self.low_pa,
            high_pa=self.high_pa,
            tubes_m3_per_pa=self.tubes * pulsing.TUBE_M3_PER_PA,
        )

    def with_tubes(self, share: float) -> _Sizes:
        return _Sizes(self.low_pa, self.high_pa, self.vessels, share)

    def with_vessel(self, index: int, place: int, value: float) -> _Sizes:
        pair = list(self.vessels[index])
        pair[place] = value
        vessels = list(self.vessels)
        vessels[index] = (pair[0], pair[1])
        return _Sizes(self.low_pa, self.high_pa, tuple(vessels), self.tubes)


def _shrinks(network: CompiledNetwork) -> float:
    """Add up what closed hot stores shrink by per kelvin, near their set temperature [m³/K]."""
    total = 0.0
    for part in network.parts.values():
        if not isinstance(part, Store | Combi | Canister) or part.id in network.dry:
            continue
        volume = part.volume_m3
        if not volume or getattr(part, "nature", "closed") != "closed":
            continue
        inside = tuple(other for other in network.parts.values() if other.fitted_in == part.id)
        hot = held_c(part, inside, network.conditions)
        total += pulsing.shrinkage_m3(volume_m3=volume, from_c=hot, to_c=hot - 1.0)
    return total
