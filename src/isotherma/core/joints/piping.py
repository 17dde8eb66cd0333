"""Every pipe of a system with its joints: which fittings both of its ends need."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.ends import BOUGHT_SO, read_end
from isotherma.core.joints.bearing import Bears
from isotherma.core.joints.resolver import Adapter, Asked, Chain, Use, resolve
from isotherma.core.system import AnyKind, System
from isotherma.core.system.runs import FuelPipe, Pipe

# what takes a tube where its run says how it is joined
TAKEN_BY: Final[Mapping[str, tuple[str, ...]]] = {
    "push-in": ("push-in",), "crimp": ("crimp",), "soldered": ("solder",),
    "compression": ("compression", "cone", "male"), "clamped hose": ("barb",),
    "welded": ("waste weld", "waste push"),
}  # fmt: skip
CORRUGATED: Final = {"12 mm": "1/2 in", "16 mm": "3/4 in", "20 mm": "1 in", "25 mm": "1 1/4 in"}
FAMILY_WORDS: Final = {
    "semi-rigid plastic": "plastic tube", "inch plastic": "inch plastic tube",
    "copper": "copper tube", "multilayer": "multilayer tube", "soft hose": "hose",
    "waste pipe": "waste spigot",
}  # fmt: skip
MM: Final = 1000.0
THIN_FUEL_M: Final = 0.002
COLD: Final = Bears()


@dataclass(frozen=True, slots=True)
class RunEnd:
    """One end of a run: the part's port with its end, and the chain to the tube.

    `assumed` says that nobody stated the part's end; `chain` is None where the part is bought in
    the run's own joint, where nothing is joined, or where the tube is not known (`unknown`).
    """

    part_id: str
    port: str
    end: str
    assumed: bool
    tube: str
    chain: Chain | None
    unknown: bool = False

    @property
    def joints(self) -> int:
        """Joints at this end: none of what hangs open, one where it is not resolved."""
        if self.end == "open":
            return 0
        if self.chain is None or self.chain.refused is not None:
            return 1
        return self.chain.joints


@dataclass(frozen=True, slots=True)
class RunJoints:
    """A run with both of its ends, and the joints along it."""

    run_id: str
    ends: tuple[RunEnd, RunEnd]
    along: int
    told: int = 0

    @property
    def joints(self) -> int:
        """All joints of the run; what somebody counted wins where it is more."""
        return max(sum(end.joints for end in self.ends) + self.along, self.told)


def tube_end(run: Pipe | FuelPipe, medium: str) -> str:
    """Give the cut end of a run; "" where its tube is not known.

    Parameters
    ----------
    run : Pipe or FuelPipe
        Any. [-]
    medium : str
        What goes through, by its ports. [-]

    Returns
    -------
    str
        An end in words. [-]
    """
    if isinstance(run, Pipe):
        if run.family is None or run.nominal is None:
            return ""
        if run.family == "corrugated steel":
            size = CORRUGATED.get(run.nominal)
            return "" if size is None else f"nut {size} parallel"
        return f"{FAMILY_WORDS[run.family]} {run.nominal}"
    if run.outside_m is None:
        return ""
    size = f"{run.outside_m * MM:g} mm"
    if medium == "fuel":
        thin = run.wall_m is not None and run.wall_m <= THIN_FUEL_M
        return f"barb {size}" if thin or run.way == "hose" else f"copper tube {size}"
    return "" if run.way == "hose" else f"{run.way} tube {size}"


def end_of(part: AnyKind, port: str, assumed: Mapping[str, str]) -> str:
    """Give the end of a part's port that nobody stated.

    Parameters
    ----------
    part : a kind of part
        Any. [-]
    port : str
        One of its ports. [-]
    assumed : mapping of str to str
        By "kind.port", "kind", "*.port"; the narrower wins. [-]

    Returns
    -------
    str
        An end in words, "run" or "open". [-]
    """
    for key in (f"{part.kind}.{port}", part.kind, f"*.{port}"):
        if key in assumed and not (key == part.kind and f"*.{port}" in assumed):
            return assumed[key]
    return assumed.get(f"*.{port}", BOUGHT_SO)


def stated_end(part: AnyKind, port: str, assumed: Mapping[str, str]) -> tuple[str, bool]:
    """Give the end of a part's port, and whether somebody stated it.

    Parameters
    ----------
    part : a kind of part
        Any. [-]
    port : str
        One of its ports. [-]
    assumed : mapping of str to str
        Ends nobody stated. [-]

    Returns
    -------
    tuple of str and bool
        An end in words, "run" or "open". [-]
    """
    said = part.end_at(port)
    if said is not None:
        return said, True
    there = part.port(port)
    plain = there is not None and there.medium in ("waste", "air")
    if plain and port not in ("vent", "waste"):
        return BOUGHT_SO, False
    return end_of(part, port, assumed), False


def taker_of(end: RunEnd, run: Pipe | FuelPipe) -> str:
    """Give the word of what takes the tube at an end; as the run is joined where bought so.

    Parameters
    ----------
    end : RunEnd
        One end, resolved. [-]
    run : Pipe or FuelPipe
        Whose. [-]

    Returns
    -------
    str
        "push-in", "compression", "barb", …; "" where nobody says. [-]
    """
    if end.chain is None:
        said = TAKEN_BY.get(run.joint or "", ()) if isinstance(run, Pipe) else ()
        return "" if end.end == "open" or not said else said[0]
    if end.chain.links:
        return end.chain.links[-1].second.word
    one = read_end(end.end)
    return "" if one is None else one.word


def joints_of(
    system: System, adapters: Sequence[Adapter], assumed: Mapping[str, str],
    bears: Mapping[str, Bears], kept: dict[tuple[str, str, Asked], Chain] | None = None,
) -> tuple[RunJoints, ...]:  # fmt: skip
    """Resolve both ends of every pipe and gas run.

    Parameters
    ----------
    system : System
        The design. [-]
    adapters : sequence of Adapter
        All there are. [-]
    assumed : mapping of str to str
        Ends nobody stated. [-]
    bears : mapping of str to Bears
        What runs must bear, by run; the others carry cold water, open to the air. [°C, Pa]
    kept : dict or None
        Chains that were found before with the same adapters; what is found is added. [-]

    Returns
    -------
    tuple of RunJoints
        In the document's order. [-]
    """
    parts = {part.id: part for part in system.parts}
    chains = {} if kept is None else kept
    found = []
    for run in system.runs:
        if not isinstance(run, Pipe | FuelPipe):
            continue
        ends = []
        for ref in (run.start, run.end):
            part = parts[ref.part]
            port = part.port(ref.port)
            medium = "" if port is None else port.medium
            ends.append(_run_end(
                run, part, ref.port, medium, adapters, assumed, bears.get(run.id, COLD), chains,
            ))  # fmt: skip
        along = 2 * (run.counted("elbows") + run.joiners if isinstance(run, Pipe)
                     else run.turned("elbow", 0))  # fmt: skip
        told = run.joints if isinstance(run, FuelPipe) else 0
        found.append(RunJoints(run.id, (ends[0], ends[1]), along, told))
    return tuple(found)


def _run_end(
    run: Pipe | FuelPipe, part: AnyKind, port: str, medium: str, adapters: Sequence[Adapter],
    assumed: Mapping[str, str], bears: Bears, kept: dict[tuple[str, str, Asked], Chain],
) -> RunEnd:  # fmt: skip
    end, stated = stated_end(part, port, assumed)
    tube = tube_end(run, medium)
    hose = isinstance(run, FuelPipe) and run.way == "hose" and medium == "gas"
    if end in (BOUGHT_SO, "open") or hose:
        return RunEnd(part.id, port, end, not stated, tube, None)
    one, other = read_end(end), read_end(tube)
    if one is None or other is None:
        return RunEnd(part.id, port, end, not stated, tube, None, unknown=True)
    use: Use = "gas" if medium == "gas" else "waste" if other.of_waste else "drinking"
    takes = TAKEN_BY.get(run.joint or "", ()) if isinstance(run, Pipe) else ()
    printed = run.max_c if isinstance(run, Pipe) else None
    wet = use == "drinking"
    if wet and bears.hot:
        use = "hot"
    asked = Asked(
        use, bears.hot_c if wet else None, bears.pressure_pa or None if wet else None,
        takes=takes, tube_c=printed, tube_pa=run.max_pa if isinstance(run, Pipe) else None,
        coolant=bears.coolant,
    )  # fmt: skip
    key = (end, tube, asked)
    if key not in kept:
        kept[key] = resolve(one, other, adapters, asked)
    return RunEnd(part.id, port, end, not stated, tube, kept[key])
