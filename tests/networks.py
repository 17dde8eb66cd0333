"""Water networks for tests: small ones written down, large ones grown at random from seeds."""

from __future__ import annotations

from random import Random
from typing import Any

from isotherma.core.system import System

Part = dict[str, Any]

LITRE_PER_MIN = 1e-3 / 60
FACTOR = LITRE_PER_MIN / 1e5**0.5  # L/min/√bar


def part(part_id: str, kind: str, **values: Any) -> Part:
    """One part as a file has it."""
    return {"id": part_id, "kind": kind, **values}


def pipe(
    start: str, end: str, length_m: float = 1.0, bore_m: float = 0.01, rise_m: float = 0.0,
    loss_k: float = 0.0, **values: Any,
) -> dict[str, Any]:  # fmt: skip
    """One run between ports named as in a layout: ``tank.outlet``, the usual ones left out."""
    ends = []
    for text, port in ((start, "outlet"), (end, "inlet")):
        name, _, said = text.partition(".")
        ends.append({"part": name, "port": said or port})
    return {
        "id": f"{start}-{end}".replace(".", "-").replace("_", "-"), "kind": "pipe",
        "start": ends[0], "end": ends[1], "length_m": length_m, "bore_m": bore_m,
        "rise_m": rise_m, "loss_k": loss_k, "wall_m": 0.0015, **values,
    }  # fmt: skip


def network(parts: list[Part], runs: list[dict[str, Any]], **more: Any) -> System:
    """A system of parts and runs."""
    return System.model_validate({"parts": parts, "runs": runs, **more})


def tank(part_id: str = "tank", **values: Any) -> Part:
    """A fresh tank; its water stands at its outlet unless a test says otherwise."""
    return part(part_id, "fresh_tank", volume_m3=0.1, **values)


def tap(part_id: str = "tap", factor: float = 5.0, **values: Any) -> Part:
    """A tap by its flow at one bar [L/min]."""
    return part(part_id, "tap", flow_factor_si=factor * FACTOR, **values)


def pump(part_id: str = "pump", **values: Any) -> Part:
    """A pump of 10 L/min open and 3 bar shut, on its curve whatever the pressure."""
    usual = {"open_flow_m3_per_s": 10 * LITRE_PER_MIN, "shut_pressure_pa": 3e5}
    return part(part_id, "pump", **{"control": "tap switch", **usual, **values})


_IN_LINE = (
    "shut_off", "strainer", "check_valve", "filter", "flow_limiter", "accumulator", "coupling",
    "solenoid", "canister", "store", "through_flow_gas", "through_flow_electric", "reducer",
)  # fmt: skip


class Grown:
    """A network that grows from a source until it has about so many parts."""

    def __init__(self, seed: int, most: int, *, loops: bool = True, plain: bool = False) -> None:
        self.random = Random(seed)
        self.parts: list[Part] = []
        self.runs: list[dict[str, Any]] = []
        self.loops, self.plain = loops, plain
        self.open: list[str] = []
        self._source()
        while len(self.parts) < most and self.open:
            self._grow()
        for port in self.open:
            self._end(port)

    def system(self) -> System:
        """What has grown, as a document."""
        return network(self.parts, self.runs, volts_v=12.0)

    def _add(self, kind: str, **values: Any) -> str:
        part_id = f"{kind.replace('_', '-')[:20]}-{len(self.parts)}"
        self.parts.append(part(part_id, kind, **values))
        return part_id

    def _join(self, start: str, end: str) -> None:
        r = self.random
        self.runs.append(
            pipe(start, end, r.uniform(0.1, 4.0), r.choice([0.007, 0.009, 0.0117, 0.016]),
                 r.choice([0.0, 0.0, r.uniform(-0.6, 0.6)]), r.uniform(0.0, 6.0))
        )  # fmt: skip
        self.runs[-1]["id"] = f"r{len(self.runs)}"

    def _source(self) -> None:
        r = self.random
        kind = r.choice(["pump", "pump", "bag", "mains", "foot"])
        if kind == "bag":
            self.open = [self._add("gravity_bag", volume_m3=0.02, hung_m=r.uniform(0.3, 1.5))]
        elif kind == "mains":
            inlet = self._add("pressurised_inlet")
            reducer = self._add("reducer", set_pa=r.uniform(1e5, 2.5e5))
            self._join(inlet, reducer)
            self.open = [reducer]
        else:
            source = self._add("fresh_tank", volume_m3=0.1)
            if kind == "foot":
                worked = self._add("foot_pump", stroke_m3=0.15e-3)
            else:
                control = "tap switch" if self.plain else r.choice(["switch", "tap switch"])
                worked = self._add(
                    "pump", open_flow_m3_per_s=r.uniform(6, 20) * LITRE_PER_MIN,
                    cut_out_pa=r.uniform(1.5e5, 3e5), control=control,
                )  # fmt: skip
            self._join(source, worked)
            self.open = [worked]

    def _grow(self) -> None:
        r = self.random
        port = self.open.pop(r.randrange(len(self.open)))
        chance = r.random()
        if chance < 0.3:
            split = self._add("split")
            self._join(port, split)
            self.open += [split, f"{split}.branch"]
        elif chance < 0.42 and self.loops and self.open and not self.plain:
            kind = r.choice(["thermostatic_mixer", "manual_mixer"])
            mixer = self._add(kind, checks=r.choice(["both legs", "none"]))
            self._join(port, f"{mixer}.hot")
            self._join(self.open.pop(r.randrange(len(self.open))), f"{mixer}.cold")
            self.open.append(mixer)
        elif chance < 0.85 or not self.open:
            inner = self._add(*self._in_line())
            self.parts[-1].update(self._values(self.parts[-1]["kind"]))
            self._join(port, inner)
            self.open.append(inner)
        else:
            self._end(port)

    def _in_line(self) -> tuple[str]:
        plain = ("shut_off", "strainer", "accumulator", "coupling", "solenoid")
        return (self.random.choice(plain if self.plain else _IN_LINE),)

    def _values(self, kind: str) -> dict[str, Any]:
        r = self.random
        return {
            "filter": {"flow_m3_per_s": r.uniform(3, 12) * LITRE_PER_MIN},
            "flow_limiter": {"flow_m3_per_s": r.uniform(3, 9) * LITRE_PER_MIN},
            "canister": {"volume_m3": 0.0015},
            "store": {"volume_m3": 0.01},
            "through_flow_gas": {"heat_w": r.uniform(8e3, 20e3), "set_c": r.uniform(38, 60)},
            "through_flow_electric": {"heat_w": r.uniform(1e3, 9e3)},
        }.get(kind, {})

    def _end(self, port: str) -> None:
        kind = self.random.choice(["shower_head", "tap", "tap", "blanking_cap", "drain"])
        if self.plain:
            kind = "tap"
        more = {"flow_factor_si": self.random.uniform(1.5, 8) * FACTOR} if kind == "tap" else {}
        self._join(port, self._add(kind, **more))
