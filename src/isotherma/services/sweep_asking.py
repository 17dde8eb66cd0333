"""What a person asks a sweep or its inverse: figures by name, values as they are typed."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from difflib import get_close_matches
from typing import Final

import numpy as np
from pydantic import ValidationError

from isotherma.catalogue.kept_for import kept_for
from isotherma.core.editing import set_values
from isotherma.core.errors import CoreError, QuantityError
from isotherma.core.options.parameters import Parameter, parameters_of
from isotherma.core.options.sweep import MOST_ACROSS, MOST_UP, Vary
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem, parse, shown
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.pieces import PartBase
from isotherma.wording import error_words, problem_words

USUAL_COUNT: Final = 7
SPREAD: Final = (0.5, 2.0)  # of what it is today, where nobody says how far


class Parameters:
    """What may be varied of a variant, found by its path or by what it is called."""

    def __init__(self, rows: Sequence[Parameter]) -> None:
        self.rows = tuple(rows)
        self._by_name = {row.label.casefold(): row for row in reversed(self.rows)}
        self._by_name |= {row.path: row for row in rows}

    def find(self, text: str) -> Parameter | None:
        """Find one by its path or label; of several of a label the first."""
        return self._by_name.get(text.strip()) or self._by_name.get(text.strip().casefold())

    def meant(self, text: str) -> str:
        """Ask whether one of up to three others was meant; "" where none is alike."""
        short = [row.path.partition(".system.")[2] or row.path for row in self.rows]
        names = [*(row.label for row in self.rows), *short]
        alike = get_close_matches(text, dict.fromkeys(names), 3, 0.6)
        return f" Did you mean {' or '.join(f'“{one}”' for one in alike)}?" if alike else ""


def parameters(project: Project, variant: Variant, outcome: Outcome | None) -> Parameters:
    """List what may be varied of a variant; figures as the engine used them."""
    computed: Mapping[str, PartBase] = {}
    seen: dict[str, float] = {}
    if outcome is not None:
        computed = outcome.setup.parts
        seen["brief.cold_water_c"] = outcome.fresh_c
        for draw in outcome.draws:
            seen[f"brief.draws.{draw.draw.id}.flow_m3_per_s"] = draw.flow_m3_per_s
    return Parameters(parameters_of(project, variant, computed, seen, kept_for()))


@dataclass
class Read:
    """One figure as it was asked for: texts as they stand in the fields, errors beside them."""

    name: str
    asked: str = ""
    low: str = ""
    high: str = ""
    count: str = ""
    row: Parameter | None = None
    vary: Vary | None = None
    errors: dict[str, str] = field(default_factory=dict)


def read_vary(
    name: str, texts: Mapping[str, str], known: Parameters,
    project: Project, units: UnitSystem, most: int = MOST_ACROSS,
) -> Read:  # fmt: skip
    """Read one figure with its range from fields `name`, `name_from`, `name_to`, `name_n`.

    Parameters
    ----------
    name : str
        Of the field that says which figure; the others begin with it. [-]
    texts : mapping of str to str
        As typed. [-]
    known : Parameters
        What may be varied. [-]
    project : Project
        Whose limits the values must keep. [-]
    units : UnitSystem
        Of bare numbers. [-]
    most : int
        Values at most. [-]

    Returns
    -------
    Read
        Without `vary` where nothing is asked, or something is wrong. [SI]
    """
    low, high, count = (texts.get(f"{name}_{end}", "").strip() for end in ("from", "to", "n"))
    made = Read(name, texts.get(name, ""), low, high, count)
    if not made.asked.strip():
        return made
    row = made.row = known.find(made.asked)
    if row is None:
        meant = known.meant(made.asked)
        made.errors[name] = f"There is no figure “{made.asked[:60]}” in this variant.{meant}"
        return made
    least, most_of_it = _usual(row)
    made.low = made.low or _text(least, row, units)
    made.high = made.high or _text(most_of_it, row, units)
    made.count = made.count or str(min(most, USUAL_COUNT))
    ends = [_end(made, name, key, text, row, units)
            for key, text in (("from", made.low), ("to", made.high))]  # fmt: skip
    number = _count(made, most)
    if made.errors or ends[0] is None or ends[1] is None:
        return made
    values = spread(ends[0], ends[1], number, whole=row.whole)
    for key, value in (("from", values[0]), ("to", values[-1])):
        refused = refused_words(project, row, value, units)
        if refused:
            made.errors[f"{name}_{key}"] = refused
    if not made.errors:
        made.vary = Vary(row.path, values)
    return made


def _text(value: float | None, row: Parameter, units: UnitSystem) -> str:
    return "" if value is None else shown(value, row.style, units, 2)


def _usual(row: Parameter) -> tuple[float | None, float | None]:
    """Give a range around what a figure is today; nothing where nobody knows it."""
    if row.today is None:
        return None, None
    if row.style == "temperature":
        return row.today - 10.0, row.today + 10.0
    if row.style == "clock":
        return max(0.0, row.today - 3600.0), min(86_000.0, row.today + 3600.0)
    if row.style == "share":
        return 0.0, 1.0
    if row.today == 0.0:
        return None, None
    low, high = row.today * SPREAD[0], row.today * SPREAD[1]
    return (math.floor(low), math.ceil(high)) if row.whole else (low, high)


def _end(
    made: Read, name: str, key: str, text: str, row: Parameter, units: UnitSystem
) -> float | None:
    if not text:
        made.errors[f"{name}_{key}"] = f"Say {key} where it goes: nobody knows what it is today."
        return None
    try:
        return parse(text, row.style, units)
    except QuantityError as error:
        made.errors[f"{name}_{key}"] = error_words(error, units)
        return None


def _count(made: Read, most: int) -> int:
    text = made.count
    if text.isascii() and text.isdigit() and 1 <= int(text) <= most:
        return int(text)
    made.errors[f"{made.name}_n"] = f"“{text[:20]}” cannot be: say a number from 1 to {most}."
    return 0


def spread(low: float, high: float, count: int, *, whole: bool) -> tuple[float, ...]:
    """Spread values evenly, ends included; counts are rounded, and none is there twice."""
    values = np.linspace(low, high, count) if count > 1 else np.array([low])
    rounded = (float(f"{value:.9g}") for value in values)  # 0.1 + 0.2 is 0.3 to a reader
    return tuple(dict.fromkeys(float(round(value)) if whole else value for value in rounded))


def refused_words(project: Project, row: Parameter, value: float, units: UnitSystem) -> str:
    """Say why a figure cannot be a value; "" where it can, as far as it alone decides."""
    try:
        set_values(project, {row.path: value})
    except ValidationError as error:
        words = problem_words(error.errors(include_url=False)[0], row.style, units)
        return f"{words[:1].upper()}{words[1:]}."
    except CoreError as error:
        return error_words(error, units)
    return ""


def read_values(
    text: str, row: Parameter, units: UnitSystem, most: int = MOST_ACROSS
) -> tuple[float, ...]:
    """Read values one after the other, as “20L, 40L, 60L”; QuantityError where one cannot be.

    Where a semicolon stands, it parts them, and a comma may stand in a number.
    """
    pieces = text.split(";") if ";" in text else text.split(",")
    values = tuple(parse(piece, row.style, units) for piece in pieces)
    if len(values) > most:
        raise QuantityError(text=text[:60], dimension=row.style, reason="too_many_values",
                            example=str(most))  # fmt: skip
    return values


def read_varies(
    names: Sequence[str], texts: Mapping[str, str], known: Parameters,
    project: Project, units: UnitSystem,
) -> tuple[Read, ...]:  # fmt: skip
    """Read several figures; the same one twice is wrong at the second."""
    found: list[Read] = []
    for name in names:
        made = read_vary(
            name, texts, known, project, units, MOST_UP if name == "y" else MOST_ACROSS
        )
        if made.row is not None and any(made.row is other.row for other in found):
            made.errors[name] = "It is varied already; choose another figure."
            made.vary = None
        found.append(made)
    return tuple(found)
