"""Bench sums of tanks, their gauges, when to switch on, and what an axle bears."""

from __future__ import annotations

from typing import Final

from isotherma.core.bench_sums.base import (
    AIR,
    FLOW,
    LITRE,
    LOSS,
    MAINS,
    VOLUME,
    Answer,
    Asks,
    Figure,
    Put,
    Sum,
    Values,
    hot_after_s,
    need,
)
from isotherma.core.climate import DAY_S
from isotherma.core.hydraulics.levels import Gauge, TankShape, litres_at, reading_at
from isotherma.core.water import FRESH_KG_PER_M3
from isotherma.core.weight.levers import on_axles

_HEIGHT: Final = 0.3
_SHAPE: Final = (
    Asks("length", "Inside length at the top", "length", 0.8),
    Asks("floor", "Length at the floor", "length", 0.6),
    Asks("width", "Inside width", "length", 0.4),
    Asks("height", "Inside height", "length", _HEIGHT),
)
_GAUGE: Final = (
    Asks("low", "Reads 0 at a height of", "length", 0.03),
    Asks("high", "Reads full at", "length", 0.27),
)
_SLOPE: Final = (
    Asks("ahead", "It sits ahead of the middle by", "length", 0.0),
    Asks("nose", "Parked, nose up by", "angle", 0.0),
)


def _shape(v: Values) -> TankShape:
    """Give the tank that was measured; CannotBe where a side is none."""
    for key, what in (("length", "inside length"), ("floor", "length at the floor"),
                      ("width", "inside width"), ("height", "inside height")):  # fmt: skip
        need(v[key], 0.0, "nothing_given", what=what)
    return TankShape(
        v["floor"], v["width"], v["height"], top_share=v["length"] / v["floor"], width_share=1.0
    )


def _tank(v: Values) -> Answer:
    tank = _shape(v)
    need(v["height"], v["outlet"], "outlet_above_lid")
    brim = tank.volume_m3
    stays = litres_at(0.5, tank, Gauge(v["outlet"], v["outlet"] + 1e-9))[0]
    return Answer(
        (
            Figure("can be used", brim - stays, "volume"), Figure("holds to the brim", brim,
            "volume"), Figure("stays below the outlet", stays, "volume"),
            Figure("weighs, full", brim * FRESH_KG_PER_M3, "mass"),
        ),
        "round_corners", Put("fresh_tank", "volume_m3", brim - stays, "volume"),
    )  # fmt: skip


def _read(v: Values) -> Answer:
    tank = _shape(v)
    least, most = litres_at(
        v["reading"], tank, Gauge(v["low"], v["high"], v["ahead"]), nose_up_deg=v["nose"]
    )
    linear = min(1.0, max(0.0, v["reading"])) * tank.volume_m3
    figures = [Figure("at least" if most > least else "in it", least, "volume")]
    if most > least:
        figures.append(Figure("at most", most, "volume"))
    figures += [Figure("the needle alone would say", linear, "volume"),
                Figure("holds to the brim", tank.volume_m3, "volume")]  # fmt: skip
    return Answer(tuple(figures), "needle_stopped" if most > least else "")


def _reading(v: Values) -> Answer:
    tank = _shape(v)
    gauge = Gauge(v["low"], v["high"], v["ahead"])
    reads = reading_at(v["litres"], tank, gauge, nose_up_deg=v["nose"])
    return Answer((
        Figure("reads", reads, "share"),
        Figure("that is, of what it holds", min(1.0, v["litres"] / tank.volume_m3), "share"),
    ))  # fmt: skip


def _lasts(v: Values) -> Answer:
    need(v["flow"], 0.0, "no_flow")
    return Answer((
        Figure("lasts", v["volume"] / v["flow"], "minutes"),
        Figure("weighs", v["volume"] * FRESH_KG_PER_M3, "mass"),
    ))  # fmt: skip


def _switch_on(v: Values) -> Answer:
    seconds = hot_after_s(v)
    begins = v["when"] - seconds
    return Answer(
        (
            Figure("switch on at", begins % DAY_S, "clock"), Figure("takes", seconds, "minutes"),
            Figure("takes of energy", v["power"] * seconds, "energy"),
            Figure("held hot all day instead", max(0.0, v["loss"] * (v["to"] - v["air"]) * DAY_S),
                   "energy"),
        ),
        "day_before" if begins < 0.0 else "",
    )  # fmt: skip


def _axles(v: Values) -> Answer:
    front, rear = on_axles(
        mass_kg=v["mass"], behind_front_m=v["at"], wheelbase_m=v["wheelbase"]
    )  # fmt: skip
    over = front > v["front"] or rear > v["rear"]
    return Answer(
        (
            Figure("on the rear axle", rear, "mass"), Figure("on the front axle", front, "mass"),
            Figure("then to spare behind", v["rear"] - rear, "mass"),
            Figure("and in front", v["front"] - front, "mass"),
        ),
        "axle_over" if over else "axle_lifted" if min(front, rear) < 0.0 else "weigh_it",
    )  # fmt: skip


TANKS_AND_WEIGHT: Final[tuple[Sum, ...]] = (
    Sum("tank", "How much does a tank hold?",
        (*_SHAPE, Asks("outlet", "Outlet above its floor", "length", 0.015)), _tank,
        "V = w h (l₀ + l₁)/2, less what stands under the outlet", "Geometry of a tapered box.",
        "A full tank is heavy: strap it down, and mind the axle and the payload."),
    Sum("gauge", "What does the gauge mean in litres?",
        (*_SHAPE, *_GAUGE, Asks("reading", "It reads", "share", 0.5), *_SLOPE), _read,
        "the volume under a level surface at the height the gauge reads",
        "Geometry of a tapered box cut by a plane."),
    Sum("reading", "What will the gauge read?",
        (*_SHAPE, *_GAUGE, Asks("litres", "In it", "volume", 40 * LITRE), *_SLOPE), _reading,
        "the height of a level surface over so much water",
        "Geometry of a tapered box cut by a plane."),
    Sum("tank-lasts", "How long does a tank last?",
        (Asks("volume", "Water", "volume", 60 * LITRE), FLOW), _lasts, "t = V/q",
        "Volume over flow."),
    Sum("switch-on", "When do I switch on?",
        (Asks("when", "Hot at", "clock", 7.5 * 3600.0), VOLUME,
         Asks("from", "From", "temperature", 10.0), Asks("to", "To", "temperature", 60.0),
         Asks("power", "Heat", "power", 800.0), LOSS, AIR), _switch_on,
        "t = −(C/U) ln(1 − U (T₁ − T₀)/(P − U (T₀ − Tₐ))) before it is wanted",
        "Incropera et al., ch. 5; one temperature throughout.", MAINS),
    Sum("axle", "Does it tip the axle?",
        (Asks("mass", "It weighs, full", "mass", 120.0),
         Asks("at", "It stands behind the front axle by", "length", 4.2),
         Asks("wheelbase", "Wheelbase", "length", 3.6),
         Asks("front", "Front axle to spare", "mass", 250.0),
         Asks("rear", "Rear axle to spare", "mass", 200.0)), _axles,
        "rear = m a/L, front = m − rear", "Moments about the front axle.",
        "An axle over its limit is unlawful and brakes badly: weigh the vehicle, loaded."),
)  # fmt: skip
