"""Pictures of a draw: geometry worked out here, so that templates only repeat it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.quantity import UnitSystem, shown, unit_of, with_unit
from isotherma.core.results.draws import DrawResult, draw_rows
from isotherma.core.results.outcome import Outcome
from isotherma.core.timeline.rows import Rows
from isotherma.web.ramp import colour, ink_of

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Scale = Callable[[float], float]

LEFT, TOP, BOTTOM = 46.0, 30.0, 296.0
WIDE, NARROW = 1000, 440  # two drawings, so that a phone’s has letters of a readable size
COLUMNS: Final = 180
SAMPLES: Final = 160
STEP_S: Final = 0.25  # shorter steps count for what they are between moments, longer ones for this


@dataclass(frozen=True, slots=True)
class Column:
    """One bar of water: as wide as its litres or seconds, as high as it is warm."""

    x: str
    y: str
    width: str
    height: str
    fill: str


@dataclass(frozen=True, slots=True)
class Area:
    """One stretch of the draw: cold, good, sagging or too hot, with its litres."""

    kind: str
    x: str
    width: str
    middle: str
    anchor: str
    label: str
    words: str


@dataclass(frozen=True, slots=True)
class Tick:
    """One mark on an axis."""

    at: str
    text: str


@dataclass(frozen=True, slots=True)
class Layer:
    """One layer of the store, drawn from the top."""

    y: str
    height: str
    text_y: str
    fill: str
    ink: str
    text: str


@dataclass(frozen=True, slots=True)
class Readout:
    """Everything at one moment, as text."""

    at: str
    x: str
    y: str
    litres: str
    seconds: str
    head: str
    hot: str
    share: str
    flow: str
    power: str
    layers: tuple[Layer, ...]


@dataclass(frozen=True, slots=True)
class Chart:
    """Temperature at the head of one draw."""

    by: str
    width: int
    right: str
    inner: str
    columns: tuple[Column, ...]
    line: str
    areas: tuple[Area, ...]
    window_top: str
    window_height: str
    low_y: str
    low_text: str
    high_y: str
    high_text: str
    y_ticks: tuple[Tick, ...]
    x_ticks: tuple[Tick, ...]
    x_unit: str
    readouts: tuple[Readout, ...]
    description: str
    ghost: str = ""


_WORDS = {"cold": "not yet warm", "good": "good", "sag": "too cool", "hot": "too hot"}


def edges(values: Floats, count: int) -> NDArray[np.int64]:
    """Split rows into at most `count` groups of equal extent; give the first row of each."""
    total = values[-1]
    marks = np.linspace(0.0, total, min(count, len(values)) + 1)[:-1]
    return np.unique(np.searchsorted(values, marks, side="left"))


def store_layers(temps: Floats, units: UnitSystem) -> tuple[Layer, ...]:
    """Draw a store's layers from the top down in a box 0…260 high."""
    count = len(temps)
    if not count:
        return ()
    height = 260.0 / count
    every = 1 if count <= 12 else 2
    layers = []
    for place, celsius in enumerate(reversed(temps.tolist())):
        whole = f"{float(shown(celsius, 'temperature', units, 6)):.0f}"
        text = whole if place % every == 0 else ""
        fill = colour(celsius)
        layers.append(
            Layer(
                y=f"{place * height:.2f}",
                height=f"{height + 0.3:.2f}",
                text_y=f"{(place + 0.5) * height:.2f}",
                fill=fill,
                ink=ink_of(fill),
                text=text,
            )
        )
    return tuple(layers)


def _kinds(rows: Rows, draw: DrawResult) -> list[str]:
    """Sort what came: too hot and good wherever it came, cold before it was warm, sag after."""
    low, high = draw.draw.low_c, draw.draw.high_c
    warm_at = draw.start_s + draw.wait_s if draw.wait_s is not None else float("inf")
    came = False
    kinds = []
    for began, head in zip(rows.began_s.tolist(), rows.head_c.tolist(), strict=True):
        came = came or (began >= warm_at - 1e-6 if draw.wait_s is not None else
                        draw.settled and head >= low)  # fmt: skip
        if head > high:
            kinds.append("hot")
        elif head >= low:
            kinds.append("good")
        else:
            kinds.append("sag" if came else "cold")
    return kinds


def _earlier(before: Outcome | None, index: int, by: str) -> tuple[Floats, Floats]:
    """Give where the steps of a draw ended before a change, by litres or by time, and how warm."""
    if before is None:
        return np.empty(0), np.empty(0)
    rows, draw = draw_rows(before.timeline, index), before.draws[index]
    if len(rows) < 2:
        return np.empty(0), np.empty(0)
    if by == "litres":
        return np.cumsum(rows.mass_kg) * (draw.through_m3 / rows.mass_kg.sum()), rows.head_c
    return rows.end_s - draw.start_s, rows.head_c


def _columns(
    rows: Rows, starts: Floats, ends: Floats, x_of: Scale, y_of: Scale
) -> tuple[Column, ...]:
    """Draw the mean of neighbouring steps as a bar each, in its colour."""
    firsts = edges(ends, COLUMNS)
    bars = []
    for first, last in zip(firsts, [*firsts[1:], len(rows)], strict=True):
        mass = rows.mass_kg[first:last]
        celsius = float((rows.head_c[first:last] * mass).sum() / mass.sum())
        x0, x1, y = x_of(starts[first]), x_of(ends[last - 1]), y_of(celsius)
        bars.append(
            Column(f"{x0:.1f}", f"{y:.1f}", f"{x1 - x0 + 0.9:.1f}", f"{BOTTOM - y:.1f}",
                   colour(celsius))
        )  # fmt: skip
    return tuple(bars)


def _line(head_c: Floats, starts: Floats, ends: Floats, x_of: Scale, y_of: Scale) -> str:
    """Lead a line through every step, so that a short peak stands as high; a stop breaks it."""
    total = float(ends[-1])
    line: list[str] = []
    for row, (x, celsius) in enumerate(zip((starts + ends) / 2, head_c, strict=True)):
        broken = row == 0 or starts[row] > ends[row - 1] + 1e-6 * total
        place = f"{x_of(x):.1f},{y_of(celsius):.1f}"
        if broken or not line or line[-1][1:] != place:
            line.append(f"{'M' if broken else 'L'}{place}")
    return "".join(line)


def make_chart(
    outcome: Outcome, index: int, by: str, units: UnitSystem, width: int = WIDE,
    before: Outcome | None = None, beside: Chart | None = None,
) -> Chart | None:  # fmt: skip
    """Draw one draw by litres or by time, over what it was before; None when no water flowed.

    `beside` is the same draw in another width, whose figures are not written again.
    """
    right = width - 12.0
    rows = draw_rows(outcome.timeline, index)
    draw = outcome.draws[index]
    if len(rows) < 2:
        return None
    volume = rows.mass_kg / 1000.0 * (draw.through_m3 * 1000.0 / rows.mass_kg.sum())
    if by == "litres":
        ends = np.cumsum(volume)
        starts = ends - volume
        style = "volume"
    else:
        ends = rows.end_s - draw.start_s
        starts = ends - rows.step_s
        style = "minutes"
    top_c = max(50.0, float(np.ceil(max(rows.head_c.max(), draw.draw.high_c) / 10) * 10))
    total = float(ends[-1])
    was, was_c = _earlier(before, index, by)
    if len(was):
        total = max(total, float(was[-1]))
        top_c = max(top_c, float(np.ceil(was_c.max() / 10) * 10))

    def x_of(value: float) -> float:
        return LEFT + (right - LEFT) * value / total

    def y_of(celsius: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * max(0.0, celsius) / top_c

    middles = (starts + ends) / 2
    areas = _areas(_kinds(rows, draw), starts, ends, volume, x_of, units)
    return Chart(
        by=by,
        width=width,
        right=f"{right:.0f}",
        inner=f"{right - LEFT:.0f}",
        columns=_columns(rows, starts, ends, x_of, y_of),
        line=_line(rows.head_c, starts, ends, x_of, y_of),
        areas=areas,
        window_top=f"{y_of(draw.draw.high_c):.1f}",
        window_height=f"{y_of(draw.draw.low_c) - y_of(draw.draw.high_c):.1f}",
        low_y=f"{y_of(draw.draw.low_c):.1f}",
        low_text=with_unit(draw.draw.low_c, "temperature", units),
        high_y=f"{y_of(draw.draw.high_c):.1f}",
        high_text=with_unit(draw.draw.high_c, "temperature", units),
        y_ticks=_temperature_ticks(top_c, y_of, units),
        x_ticks=_extent_ticks(total, style, x_of, units, 8 if width == WIDE else 5),
        x_unit="litres" if style == "volume" and units is UnitSystem.METRIC else
        "gallons" if style == "volume" else "minutes",
        readouts=_readouts(
            rows, volume, middles, draw, x_of, y_of, units,
            beside.readouts if beside is not None else (),
        ),
        description=" ".join(f"{area.words}." for area in areas),
        ghost="".join(
            f"{'L' if place else 'M'}{x_of(at):.1f},{y_of(celsius):.1f}"
            for place, (at, celsius) in enumerate(zip(was, was_c, strict=True))
        ),
    )  # fmt: skip


def _areas(
    kinds: list[str], starts: Floats, ends: Floats, volume: Floats, x_of: Scale, units: UnitSystem
) -> tuple[Area, ...]:
    """Join neighbouring rows of one kind and write their litres in."""
    areas: list[Area] = []
    first = 0
    for row in range(1, len(kinds) + 1):
        if row < len(kinds) and kinds[row] == kinds[first]:
            continue
        swept_m3 = float(volume[first:row].sum())
        x0, x1 = x_of(starts[first]), x_of(ends[row - 1])
        words = with_unit(swept_m3, "volume", units, 2)
        leading = first == 0 and x1 - x0 <= 66  # the dead leg is short, and the main complaint
        if x1 - x0 > 3.0:
            areas.append(
                Area(
                    kind=kinds[first],
                    x=f"{x0:.1f}",
                    width=f"{x1 - x0:.1f}",
                    middle=f"{x0 + 3:.1f}" if leading else f"{(x0 + x1) / 2:.1f}",
                    anchor="start" if leading else "middle",
                    label=words if leading or x1 - x0 > 66 else "",
                    words=f"{words} {_WORDS[kinds[first]]}",
                )
            )
        first = row
    return tuple(areas)


def _temperature_ticks(top_c: float, y_of: Scale, units: UnitSystem) -> tuple[Tick, ...]:
    if units is UnitSystem.METRIC:
        values = [float(c) for c in range(0, int(top_c) + 1, 10)]
    else:
        values = [(f - 32) * 5 / 9 for f in range(40, int(top_c * 9 / 5 + 32) + 1, 20)]
    return tuple(
        Tick(f"{y_of(value):.1f}", shown(value, "temperature", units, 3)) for value in values
    )


def _extent_ticks(
    total: float, style: str, x_of: Scale, units: UnitSystem, most: int
) -> tuple[Tick, ...]:
    unit = unit_of(style, units)
    edge = total / unit.factor
    step = next((s for s in (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100) if edge / s <= most), 200.0)
    count = int(edge / step + 1e-9)
    return tuple(
        Tick(f"{x_of(i * step * unit.factor):.1f}", f"{i * step:g}") for i in range(count + 1)
    )


def moments(rows: Rows) -> Ints:
    """Pick the moments a reader can stop at, the hottest among them.

    Denser where steps are short, but not where they are shortest: a front takes a hundred steps
    in a second, and nobody wants to press a key a hundred times to pass it.
    """
    weights = np.cumsum(np.clip(rows.step_s, 0.0, STEP_S))
    marks = np.linspace(weights[0], weights[-1], min(SAMPLES, len(rows)))
    picks = np.searchsorted(weights, marks - 1e-9)
    hottest = int(np.argmax(rows.head_c))
    return np.unique(np.append(np.clip(picks, 0, len(rows) - 1), hottest))


def _readouts(
    rows: Rows,
    volume: Floats,
    middles: Floats,
    draw: DrawResult,
    x_of: Scale,
    y_of: Scale,
    units: UnitSystem,
    known: tuple[Readout, ...] = (),
) -> tuple[Readout, ...]:
    """Say what everything is at moments along the draw; what is known stands elsewhere only."""
    picks = moments(rows)
    if known:
        places = [f"{x_of(middles[pick]):.1f}" for pick in picks.tolist()]
        return tuple(replace(item, x=x) for item, x in zip(known, places, strict=True))
    swept_m3 = np.cumsum(volume)
    found = []
    for pick in picks.tolist():
        power = rows.element_w[pick] + rows.burner_w[pick]
        flow = rows.mass_kg[pick] / rows.step_s[pick] / 1000.0
        found.append(
            Readout(
                at=str(pick),
                x=f"{x_of(middles[pick]):.1f}",
                y=f"{y_of(rows.head_c[pick]):.1f}",
                litres=with_unit(float(swept_m3[pick]), "volume", units),
                seconds=_clock(rows.end_s[pick] - draw.start_s),
                head=with_unit(rows.head_c[pick], "temperature", units),
                hot=with_unit(rows.hot_c[pick], "temperature", units),
                share=with_unit(rows.hot_share[pick], "share", units, 2),
                flow=with_unit(flow, "flow", units),
                power=with_unit(power, "power", units) if power > 0 else "off",
                layers=store_layers(rows.layers_c[pick], units),
            )
        )
    return tuple(found)


def _clock(seconds: float) -> str:
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes}:{rest:02d}"
