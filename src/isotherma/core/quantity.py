"""What a person types ↔ SI: the only place where units of the edge are known.

A *dimension* is what is measured (volume, flow …) and lists the units it may be
typed in. A *style* is how one field shows it: a metric and a US unit. Documents
hold SI, never text, so showing in other units and saving again changes nothing.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from fractions import Fraction
from functools import cache
from typing import Final

from isotherma.core.errors import QuantityError

MAX_TEXT: Final = 60
US_GALLON: Final = 0.003785411784  # 231 cubic inches, exact
INCH: Final = 0.0254  # exact, international inch
POUND: Final = 0.45359237  # exact, international pound
PSI: Final = POUND * 9.80665 / INCH**2  # pound-force per square inch
BTU: Final = 1055.05585262  # international table, exact


class UnitSystem(StrEnum):
    """The system of units a person thinks in."""

    METRIC = "metric"
    US = "us"

    @classmethod
    def named(cls, text: object) -> UnitSystem:
        """Give the one of that name; metric for any other text."""
        return cls.US if text == cls.US.value else cls.METRIC


@dataclass(frozen=True, slots=True)
class Unit:
    """One unit: `si = value * factor + offset`, and the words that name it."""

    symbol: str
    factor: float
    names: tuple[str, ...] = ()
    offset: float = 0.0

    def of_si(self, value: float) -> float:
        """Turn an SI value into this unit [SI → unit]."""
        return (value - self.offset) / self.factor


@dataclass(frozen=True, slots=True)
class Dimension:
    """What is measured, with every unit it may be typed in."""

    name: str
    units: tuple[Unit, ...]
    example: str

    def unit(self, word: str) -> Unit | None:
        """Find the unit a word stands for, or None."""
        plain = _plain(word)
        for unit in self.units:
            if plain in {_plain(unit.symbol), *(_plain(name) for name in unit.names)}:
                return unit
        return None


@dataclass(frozen=True, slots=True)
class Style:
    """How one kind of field is shown: its dimension and a unit for each system of units."""

    dimension: Dimension
    metric: str
    us: str

    def symbol(self, units: UnitSystem) -> str:
        """Name the unit shown in this system."""
        return self.metric if units is UnitSystem.METRIC else self.us


def _plain(word: str) -> str:
    """Reduce a unit word to what matters: case, dots, degree signs and powers go."""
    word = word.lower().replace("³", "3").replace("²", "2").replace("√", "sqrt")
    return re.sub(r"[\s°º·.*]", "", word)


_LITRE_NAMES = ("l", "litre", "litres", "liter", "liters")
_MIN = 60.0
DIMENSIONS: Final = {
    d.name: d
    for d in (
        Dimension(
            "volume",
            (
                Unit("L", 1e-3, _LITRE_NAMES),
                Unit("mL", 1e-6, ("ml",)),
                Unit("m³", 1.0, ("m3",)),
                Unit("gal", US_GALLON, ("gallon", "gallons", "usgal")),
                Unit("qt", US_GALLON / 4, ("quart", "quarts")),
                Unit("pt", US_GALLON / 8, ("pint", "pints")),
                Unit("cup", US_GALLON / 16, ("cups",)),
                Unit("fl oz", US_GALLON / 128, ("floz",)),
            ),
            "10 L or 2 1/2 gal",
        ),
        Dimension(
            "flow",
            (
                Unit("L/min", 1e-3 / _MIN, ("lpm", "l/m", "litres/min", "liters/min")),
                Unit("L/h", 1e-3 / 3600, ("lph",)),
                Unit("L/s", 1e-3, ()),
                Unit("gal/min", US_GALLON / _MIN, ("gpm",)),
                Unit("gal/h", US_GALLON / 3600, ("gph",)),
                Unit("m³/s", 1.0, ()),
            ),
            "6 L/min or 1.6 gal/min",
        ),
        Dimension(
            "flow_factor",
            (
                Unit("L/min/√bar", 1e-3 / _MIN / math.sqrt(1e5), ("lpm/sqrtbar",)),
                Unit("gal/min/√psi", US_GALLON / _MIN / math.sqrt(PSI), ("gpm/sqrtpsi",)),
                Unit("m³/s/√Pa", 1.0, ()),
            ),
            "5.2 L/min/√bar",
        ),
        Dimension(
            "length",
            (
                Unit("m", 1.0, ("metre", "metres", "meter", "meters")),
                Unit("cm", 1e-2),
                Unit("mm", 1e-3),
                Unit("µm", 1e-6, ("um", "micron", "microns")),
                Unit("in", INCH, ("inch", "inches", '"', "″")),
                Unit("ft", 12 * INCH, ("foot", "feet", "'", "′")),
            ),
            "1.2 m, 12 ft or 3/4 in",
        ),
        Dimension(
            "pressure",
            (
                Unit("bar", 1e5),
                Unit("mbar", 1e2),
                Unit("kPa", 1e3),
                Unit("Pa", 1.0),
                Unit("psi", PSI),
                Unit("inH₂O", 249.089, ("in h2o", "inwc", "in wc")),
            ),
            "2 bar or 30 psi",
        ),
        Dimension(
            "power",
            (
                Unit("W", 1.0, ("watt", "watts")),
                Unit("kW", 1e3),
                Unit("BTU/h", BTU / 3600, ("btu/hr", "btuh")),
            ),
            "800 W, 1.5 kW or 9000 BTU/h",
        ),
        Dimension(
            "energy",
            (
                Unit("kWh", 3.6e6),
                Unit("Wh", 3.6e3),
                Unit("MJ", 1e6),
                Unit("J", 1.0),
                Unit("BTU", BTU),
            ),
            "2.5 kWh",
        ),
        Dimension(
            "temperature",
            (
                Unit("°C", 1.0, ("c", "celsius")),
                Unit("°F", 5 / 9, ("f", "fahrenheit"), -160 / 9),
                Unit("K", 1.0, ("kelvin",), -273.15),
            ),
            "40 °C or 104F",
        ),
        Dimension(
            "difference",
            (Unit("K", 1.0, ("c", "kelvin", "celsius")), Unit("°F", 5 / 9, ("f",))),
            "10 K or 18 F",
        ),
        Dimension(
            "time",
            (
                Unit("s", 1.0, ("sec", "second", "seconds")),
                Unit("min", _MIN, ("minute", "minutes")),
                Unit("h", 3600.0, ("hour", "hours", "hr")),
                Unit("d", 86400.0, ("day", "days")),
            ),
            "7 min or 1 min 30 s",
        ),
        Dimension("clock", (), "7:30 or 19:05"),
        Dimension(
            "mass",
            (Unit("kg", 1.0), Unit("g", 1e-3), Unit("lb", POUND, ("lbs",)), Unit("oz", POUND / 16)),
            "6 kg or 13 lb",
        ),
        Dimension("share", (Unit("%", 0.01, ("percent",)), Unit("of one", 1.0)), "10 %"),
        Dimension(
            "conductivity",
            (
                Unit("W/mK", 1.0, ("w/m/k", "w/(mk)")),
                Unit("BTU/h/ft/°F", BTU / 3600 / (12 * INCH) * 9 / 5, ()),
            ),
            "0.035 W/mK",
        ),
        Dimension(
            "loss",
            (Unit("W/K", 1.0, ("w/c",)), Unit("BTU/h/°F", BTU / 3600 * 9 / 5, ("btu/h/f",))),
            "0.9 W/K",
        ),
        Dimension(
            "film",
            (
                Unit("W/m²K", 1.0, ("w/m2k", "w/m2/k")),
                Unit("BTU/h/ft²/°F", BTU / 3600 / (12 * INCH) ** 2 * 9 / 5, ()),
            ),
            "8 W/m²K",
        ),
        Dimension(
            "capacity",
            (
                Unit("kJ/K", 1e3),
                Unit("J/K", 1.0),
                Unit("BTU/°F", BTU * 9 / 5, ("btu/f",)),
            ),
            "1.5 kJ/K",
        ),
        Dimension(
            "area",
            (
                Unit("m²", 1.0, ("m2", "sqm")),
                Unit("cm²", 1e-4, ("cm2",)),
                Unit("mm²", 1e-6, ("mm2", "sqmm")),
                Unit("in²", INCH**2, ("in2", "sqin")),
            ),
            "6 mm² or 10 in²",
        ),
        Dimension("current", (Unit("A", 1.0, ("amp", "amps")), Unit("mA", 1e-3)), "8 A"),
        Dimension("voltage", (Unit("V", 1.0, ("volt", "volts")), Unit("mV", 1e-3)), "12 V"),
        Dimension("resistance", (Unit("Ω", 1.0, ("ohm", "ohms")),), "0.96 ohm"),
        Dimension("charge", (Unit("Ah", 3600.0, ("amp hours",)), Unit("C", 1.0)), "100 Ah"),
        Dimension(
            "mass_flow",
            (
                Unit("kg/h", 1 / 3600),
                Unit("g/h", 1e-3 / 3600),
                Unit("lb/h", POUND / 3600, ("lbs/h",)),
                Unit("kg/s", 1.0),
            ),
            "1.5 kg/h or 450 g/h",
        ),
        Dimension(
            "speed", (Unit("m/s", 1.0), Unit("ft/s", 12 * INCH, ("fps",))), "1.2 m/s or 4 ft/s"
        ),
        Dimension("angle", (Unit("°", 1.0, ("deg", "degree", "degrees")),), "3°"),
        Dimension("money", (Unit("", 1.0),), "45"),
        Dimension("number", (Unit("", 1.0),), "3"),
    )
}


def _style(dimension: str, metric: str, us: str | None = None) -> Style:
    return Style(DIMENSIONS[dimension], metric, metric if us is None else us)


STYLES: Final = {
    "volume": _style("volume", "L", "gal"),
    "flow": _style("flow", "L/min", "gal/min"),
    "flow_factor": _style("flow_factor", "L/min/√bar", "gal/min/√psi"),
    "length": _style("length", "m", "ft"),
    "bore": _style("length", "mm", "in"),
    "pressure": _style("pressure", "bar", "psi"),
    "gas_pressure": _style("pressure", "mbar", "inH₂O"),
    "power": _style("power", "W"),
    "heat_power": _style("power", "W", "BTU/h"),
    "energy": _style("energy", "kWh"),
    "temperature": _style("temperature", "°C", "°F"),
    "difference": _style("difference", "K", "°F"),
    "seconds": _style("time", "s"),
    "minutes": _style("time", "min"),
    "hours": _style("time", "h"),
    "clock": _style("clock", "h:min"),
    "mass": _style("mass", "kg", "lb"),
    "small_mass": _style("mass", "g", "oz"),
    "share": _style("share", "%"),
    "conductivity": _style("conductivity", "W/mK", "BTU/h/ft/°F"),
    "loss": _style("loss", "W/K", "BTU/h/°F"),
    "film": _style("film", "W/m²K", "BTU/h/ft²/°F"),
    "capacity": _style("capacity", "kJ/K", "BTU/°F"),
    "millilitres": _style("volume", "mL", "fl oz"),
    "fine": _style("length", "µm"),
    "area": _style("area", "cm²", "in²"),
    "cable_area": _style("area", "mm²"),
    "current": _style("current", "A"),
    "voltage": _style("voltage", "V"),
    "resistance": _style("resistance", "Ω"),
    "charge": _style("charge", "Ah"),
    "battery_energy": _style("energy", "Wh"),
    "mass_flow": _style("mass_flow", "kg/h", "lb/h"),
    "speed": _style("speed", "m/s", "ft/s"),
    "angle": _style("angle", "°"),
    "money": _style("money", ""),
    "number": _style("number", ""),
}

_VULGAR = {
    "¼": "1/4",
    "½": "1/2",
    "¾": "3/4",
    "⅛": "1/8",
    "⅜": "3/8",
    "⅝": "5/8",
    "⅞": "7/8",
    "⅓": "1/3",
    "⅔": "2/3",
}
_PLAIN_NUMBER = r"\d+(?:[.,]\d+)*(?:[eE][+-]?\d{1,3})?|[.,]\d+"
_NUMBER = rf"(?:\d+[ -]+\d+/\d+|\d+/\d+|{_PLAIN_NUMBER})"
# A unit may hold a power (m3, W/m2K) but never swallows the number that follows it.
_UNIT = r"[^\d\s,;+-](?:[^\d,;+]|(?<=[mtn])[23](?![0-9a-jl-z]))*"
_PIECE = re.compile(rf"\s*(?P<number>{_NUMBER})\s*(?P<unit>{_UNIT})?", re.IGNORECASE)
_CLOCK = re.compile(r"(\d{1,2})(?:[:.h](\d{2}))?\s*(am|pm)?", re.IGNORECASE)


def _read_number(text: str, refuse: _Refusal) -> float:
    """Read "7,5", "1 1/2", "3/4", "1.234,5" or "1,234.5" as a number."""
    if "/" in text:
        whole, _, fraction = text.replace("-", " ").rpartition(" ")
        above, below = (int(number) for number in fraction.split("/"))
        if below == 0:
            raise refuse("zero_fraction")
        return float(Fraction(above, below) + int(whole.strip() or "0"))
    marks = [mark for mark in text if mark in ".,"]
    if len(marks) > 1:
        decimal = marks[-1]
        if decimal == marks[0]:
            decimal = ""  # 1,000,000: thousands only
        for mark in set(marks) - {decimal}:
            groups = text.split(decimal)[0].split(mark) if decimal else text.split(mark)
            if any(len(group) != 3 for group in groups[1:]) or len(groups[0]) > 3:
                raise refuse("commas_and_points")
            text = text.replace(mark, "")
    elif re.fullmatch(r"[1-9]\d{0,2},\d{3}", text):
        raise refuse("thousands_or_decimal")
    return float(text.replace(",", "."))


class _Refusal:
    """Makes the error for one text, so that every refusal carries the same facts."""

    def __init__(self, text: str, dimension: Dimension) -> None:
        self.text, self.dimension = text, dimension

    def __call__(self, reason: str, **values: str) -> QuantityError:
        return QuantityError(
            text=self.text[:MAX_TEXT],
            dimension=self.dimension.name,
            reason=reason,
            example=self.dimension.example,
            values=values,
        )


def parse(text: str, style: str, units: UnitSystem = UnitSystem.METRIC) -> float:
    """Read a typed quantity as SI.

    Parameters
    ----------
    text : str
        For example "7,5", "1 1/2 gal", "60F", "12 ft", "5 ft 6 in", "7:30". [-]
    style : str
        Key of `STYLES`; it says the dimension and the unit of a bare number. [-]
    units : UnitSystem
        Whose unit a bare number is in. [-]

    Returns
    -------
    float
        The value in SI; temperatures in °C, clock times in seconds. [SI]

    Raises
    ------
    QuantityError
        If the text is empty, too long, no number, or in a unit of another dimension.

    Examples
    --------
    >>> round(parse("1 1/2 gal", "volume"), 6)
    0.005678
    >>> parse("7,5", "volume")
    0.0075
    >>> round(parse("60F", "temperature"), 3)
    15.556
    >>> parse("7:30", "clock")
    27000.0
    """
    shape = STYLES[style]
    refuse = _Refusal(text, shape.dimension)
    if len(text) > MAX_TEXT:
        raise refuse("too_long", most=str(MAX_TEXT))
    body = text.strip().replace("−", "-").replace("\u00a0", " ").replace("\u202f", " ")
    for sign, fraction in _VULGAR.items():
        body = body.replace(sign, f" {fraction}")
    body = body.strip()
    if not body:
        raise refuse("nothing_typed")
    if shape.dimension.name == "clock":
        return _parse_clock(body, refuse)
    sign_factor = -1.0 if body.startswith("-") else 1.0
    body = body.removeprefix("-").removeprefix("+").strip()
    total, at, pieces = 0.0, 0, 0
    while at < len(body):
        match = _PIECE.match(body, at)
        if match is None or match.end() == at:
            raise refuse("no_number")
        word = (match["unit"] or "").strip() or shape.symbol(units)
        unit = shape.dimension.unit(word)
        if unit is None:
            raise refuse("no_unit", word=word[:20], of=shape.dimension.name.replace("_", " "))
        if pieces and (unit.offset or not match["unit"]):
            raise refuse("two_numbers")
        value = _read_number(match["number"], refuse)
        signed = sign_factor * value if pieces == 0 or sign_factor > 0 else -value
        total += signed * unit.factor + unit.offset
        at, pieces = match.end(), pieces + 1
    if not math.isfinite(total):
        raise refuse("too_large")
    return total


def _parse_clock(body: str, refuse: _Refusal) -> float:
    match = _CLOCK.fullmatch(body)
    if match is None:
        raise refuse("no_time_of_day")
    hour, minute, half = int(match[1]), int(match[2] or "0"), (match[3] or "").lower()
    if half:
        if not 1 <= hour <= 12:
            raise refuse("twelve_hours")
        hour = hour % 12 + (12 if half == "pm" else 0)
    if hour > 23 or minute > 59:
        raise refuse("hours_and_minutes")
    return hour * 3600.0 + minute * 60.0


@cache  # a page of figures asks thousands of times
def unit_of(style: str, units: UnitSystem = UnitSystem.METRIC) -> Unit:
    """Give the unit a style is shown in.

    Parameters
    ----------
    style : str
        Of STYLES. [-]
    units : UnitSystem
        Metric unless told. [-]

    Returns
    -------
    Unit
        Its symbol and what it is in SI. [-]
    """
    unit = STYLES[style].dimension.unit(STYLES[style].symbol(units))
    assert unit is not None, style
    return unit


def shown(value: float, style: str, units: UnitSystem = UnitSystem.METRIC, digits: int = 4) -> str:
    """Write an SI value as a bare number in the unit of the units.

    Parameters
    ----------
    value : float
        The value. [SI; temperatures in °C]
    style : str
        Key of `STYLES`. [-]
    units : UnitSystem
        Which of the style's units. [-]
    digits : int
        Significant digits kept. [-]

    Returns
    -------
    str
        Number without unit or exponent; a clock time as "7:30". [unit of the units]

    Examples
    --------
    >>> shown(0.0075, "volume"), shown(0.0075, "volume", UnitSystem.US)
    ('7.5', '1.981')
    """
    shape = STYLES[style]
    if shape.dimension.name == "clock":
        minutes = round(value / 60.0)
        return f"{minutes // 60}:{minutes % 60:02d}"
    text = f"{Decimal(f'{unit_of(style, units).of_si(value):.{digits}g}'):f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in {"-0", ""} else text


# what nobody weighs or counts finer than a thousandth of its unit
_WEIGHED: Final = ("mass", "volume", "energy", "battery_energy", "flow", "power", "heat_power")
LEAST: Final = 0.001


def with_unit(
    value: float, style: str, units: UnitSystem = UnitSystem.METRIC, digits: int = 3
) -> str:
    """Write an SI value with its unit, for reading rather than for a field.

    Parameters
    ----------
    value : float
        The value. [SI; temperatures in °C]
    style : str
        Key of `STYLES`. [-]
    units : UnitSystem
        Which of the style's units. [-]
    digits : int
        Significant digits kept. [-]

    Returns
    -------
    str
        Number, a no-break space and the unit. [-]
    """
    shape = STYLES[style]
    if shape.dimension.name == "clock":
        return shown(value, style, units)
    symbol = shape.symbol(units)
    number = shown(value, style, units, digits)
    if style in _WEIGHED and 0.0 < abs(unit_of(style, units).of_si(value)) < LEAST / 2:
        number = f"under {LEAST:g}"
    return f"{number}\u00a0{symbol}" if symbol else number


def duration_words(seconds: float) -> str:
    """Write a duration the way one says it: "40 s", "3 min 20 s", "2 h 5 min".

    Parameters
    ----------
    seconds : float
        Duration, >= 0. [s]

    Returns
    -------
    str
        Rounded to the second below ten minutes, to the minute above. [-]
    """
    whole = round(seconds)
    if whole < 60:
        return f"{whole} s"
    if whole < 600:
        minutes, rest = divmod(whole, 60)
        return f"{minutes} min {rest} s" if rest else f"{minutes} min"
    minutes = round(seconds / 60)
    if minutes < 60:
        return f"{minutes} min"
    hours, rest = divmod(minutes, 60)
    return f"{hours} h {rest} min" if rest else f"{hours} h"
