"""Typed forms ↔ documents: which values changed, and what is wrong with the others.

A field that still shows what it was given is left alone, so that showing a value in
other units and saving the form never rounds it.
"""

from __future__ import annotations

import re
import types
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from itertools import groupby
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import ValidationError
from pydantic.fields import FieldInfo

from isotherma.catalogue.kept_for import kept_for
from isotherma.core.errors import QuantityError
from isotherma.core.fields import Document, in_order, list_of, pairs_of, refers_to, style_of
from isotherma.core.quantity import STYLES, UnitSystem, parse, shown
from isotherma.wording import error_words, problem_words

Kind = Literal[
    "quantity", "whole", "text", "long", "choice", "many", "switch", "pairs", "figures", "order"
]


@dataclass(frozen=True, slots=True)
class Property:
    """One property of a document as a form field."""

    name: str
    title: str
    help: str
    kind: Kind
    style: str
    optional: bool
    choices: tuple[str, ...]
    refers: str = ""
    second_style: str = ""
    values: tuple[object, ...] = ()


def _unpacked(annotation: Any) -> tuple[Any, bool, list[Any]]:  # noqa: ANN401 - any object annotates
    """Strip None and Annotated: give the inner type, whether None is allowed, metadata."""
    optional = False
    metadata: list[Any] = []
    while True:
        origin = get_origin(annotation)
        if origin in (Union, types.UnionType):
            inner = [arg for arg in get_args(annotation) if arg is not type(None)]
            optional = optional or len(inner) < len(get_args(annotation))
            if len(inner) != 1:
                return annotation, optional, metadata
            annotation = inner[0]
        elif hasattr(annotation, "__metadata__"):
            metadata += list(annotation.__metadata__)
            annotation = annotation.__origin__
        else:
            return annotation, optional, metadata


def _help(name: str, info: FieldInfo) -> str:
    """Say what a property means, and of one that nothing reads yet what will."""
    reader = kept_for().get(name)
    said = [info.description] if info.description else []
    return " ".join([*said, *([f"Kept for {reader}."] if reader else [])])


def property_of(name: str, info: FieldInfo) -> Property | None:
    """Describe a field for a form; None for what no field can show (lists, documents)."""
    inner, optional, _ = _unpacked(info.annotation)
    style, refers, pairs = style_of(info), refers_to(info) or "", pairs_of(info)
    values: tuple[object, ...] = ()
    figures = list_of(info)
    kind: Kind
    if figures is not None:
        kind, style = "figures", figures.style
    elif pairs is not None:
        kind, style = "pairs", pairs.first
    elif style is not None:
        kind = "quantity"
    elif in_order(info):
        kind = "order"
    elif get_origin(inner) is tuple and refers:
        kind = "many"
    elif refers:
        kind = "choice"
    elif get_origin(inner) is Literal:
        kind, values = "choice", get_args(inner)
    elif get_origin(inner) is tuple and get_origin(get_args(inner)[0]) is Literal:
        kind, values = "many", get_args(get_args(inner)[0])
    elif inner is bool and optional:
        kind, values = "choice", (True, False)
    elif inner is bool:
        kind = "switch"
    elif inner is int:
        kind = "whole"
    elif inner is float:
        kind, style = "quantity", "number"
    elif inner is str:
        kind = "long" if name == "note" else "text"
    else:
        return None
    return Property(
        name=name,
        title=info.title or name,
        help=_help(name, info),
        kind=kind,
        style=style or "",
        optional=optional,
        choices=tuple(_said(value) for value in values),
        refers=refers,
        second_style=pairs.second if pairs is not None else "",
        values=values,
    )


@cache
def _all_properties(document: type[Document]) -> tuple[Property, ...]:
    """List what a form of a document can show; kept, since classes do not change."""
    found = (
        property_of(name, info)
        for name, info in document.model_fields.items()
        if name not in {"id", "kind"}
    )
    return tuple(item for item in found if item is not None)


def properties(document: type[Document], leave_out: Sequence[str] = ()) -> tuple[Property, ...]:
    """List the properties of a document that a form can show, in their order."""
    return tuple(item for item in _all_properties(document) if item.name not in leave_out)


def as_typed(item: Property, value: object, units: UnitSystem) -> list[str]:
    """Write a value the way its field shows it; several strings for several choices."""
    if item.kind == "many":
        return [str(choice) for choice in value] if isinstance(value, tuple) else []
    if value is None:
        return [""]
    if item.kind == "switch":
        return ["yes"] if value else []
    if item.kind == "pairs":
        assert isinstance(value, tuple)
        return ["; ".join(_pair(item, pair, units) for pair in value)]
    if item.kind == "figures":
        assert isinstance(value, tuple)
        return ["; ".join(shown(float(figure), item.style, units) for figure in value)]
    if item.kind == "order":
        assert isinstance(value, tuple)
        rows = [(str(key), len(tuple(row))) for key, row in groupby(value)]
        return [", ".join(f"{key} × {count}" if count > 1 else key for key, count in rows)]
    if item.kind == "quantity":
        assert isinstance(value, float | int)
        return [shown(float(value), item.style, units)]
    return [_said(value)]


def _said(value: object) -> str:
    """Write a value that is chosen: yes or no where it is either."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value)


def _pair(item: Property, pair: tuple[float, float], units: UnitSystem) -> str:
    """Write one pair with its units: "1.5 bar 6 L/min"."""
    both = zip(pair, (item.style, item.second_style), strict=True)
    return " ".join(
        f"{shown(value, style, units)} {STYLES[style].symbol(units)}" for value, style in both
    )


_PAIR = re.compile(r"\s*([\d.,/ ]*\d\s*[^\d\s]\S*)\s+([\d.,/ ]*\d\s*\S+)\s*")


# what is typed, by the style of the first of a pair
PAIRS_LIKE = {"pressure": "0 bar 11 L/min; 2 bar 6 L/min", "share": "25 % 20 L; 50 % 45 L"}


def _read_pairs(item: Property, text: str, units: UnitSystem) -> tuple[tuple[float, float], ...]:
    """Read "0 bar 11 L/min; 2 bar 6 L/min" as pairs in SI."""
    found = []
    for piece in filter(None, (part.strip() for part in text.split(";"))):
        match = _PAIR.fullmatch(piece)
        if match is None:
            raise QuantityError(
                text=piece[:60], dimension="pair", reason="no_pair",
                example=PAIRS_LIKE[item.style],
            )  # fmt: skip
        first = parse(match[1].strip(), item.style, units)
        found.append((first, parse(match[2].strip(), item.second_style, units)))
    return tuple(found)


_TIMES = re.compile(r"(?P<what>.+?)\s*(?:[×*]|\bx)\s*(?P<count>\d{1,3})|"
                    r"(?P<before>\d{1,3})\s*(?:[×*x])?\s+(?P<after>\D.*)")  # fmt: skip


def _read_order(text: str) -> tuple[str, ...]:
    """Read "drive, stay × 3, hook-up" as ids one after the other; "3 stay" does as well."""
    found: list[str] = []
    for piece in filter(None, (part.strip() for part in re.split(r"[,;\n]", text))):
        match = _TIMES.fullmatch(piece)
        what, count = piece, 1
        if match is not None:
            what, count = match["what"] or match["after"], int(match["count"] or match["before"])
        found += [re.sub(r"[^a-z0-9]+", "-", what.lower()).strip("-")[:40]] * count
    return tuple(found)


@dataclass(slots=True)
class Read:
    """What a form said: values that changed, and what is wrong, by property name."""

    values: dict[str, object] = field(default_factory=dict)
    errors: dict[str, str] = field(default_factory=dict)


def _value(item: Property, typed: list[str], units: UnitSystem) -> object:
    text = typed[0].strip() if typed else ""
    if item.kind == "many":
        return tuple(choice for choice in typed if choice)
    if item.kind == "switch":
        return "yes" in typed
    if item.kind == "order":
        return _read_order(text)
    if item.optional and not text:
        return None
    if item.kind == "pairs":
        return _read_pairs(item, text, units)
    if item.kind == "figures":
        # by semicolons, or by spaces: a comma may be the point of a figure
        pieces = text.split(";") if ";" in text else text.split()
        return tuple(parse(piece.strip(), item.style, units) for piece in pieces if piece.strip())
    if item.kind == "quantity":
        return parse(text, item.style, units)
    if item.kind == "choice" and item.values:
        return next((value for value in item.values if _said(value) == text), text)
    if item.kind == "whole":
        try:
            return int(text)
        except ValueError:
            raise QuantityError(
                text=text[:60], dimension="number", reason="no_whole_number",
                example="3",
            ) from None  # fmt: skip
    return typed[0].replace("\r\n", "\n") if typed else ""


def read_form(
    base: Document, fields: Sequence[str], typed: Mapping[str, list[str]], units: UnitSystem
) -> Read:
    """Read the typed fields of a document as it was shown at its base revision.

    Parameters
    ----------
    base : Document
        What the form was made from. [-]
    fields : sequence of str
        Which properties the form held; others are left alone. [-]
    typed : mapping of str to list of str
        What came back, by property. [-]
    units : UnitSystem
        The units the form was shown in. [-]

    Returns
    -------
    Read
        Changed values in SI, and a sentence for each that cannot be read. [SI]
    """
    read = Read()
    for item in properties(type(base)):
        if item.name not in fields:
            continue
        text = typed.get(item.name, [])
        before = getattr(base, item.name)
        if text == as_typed(item, before, units):
            continue
        try:
            read.values[item.name] = _value(item, text, units)
        except QuantityError as error:
            read.errors[item.name] = error_words(error, units)
    return read


def field_errors(error: ValidationError, scope: Document, units: UnitSystem) -> dict[str, str]:
    """Put the errors of a whole project beside the fields of one scope; "" for the rest."""
    by_name = {item.name: item for item in properties(type(scope))}
    found: dict[str, str] = {}
    for item in error.errors(include_url=False, include_input=False):
        steps = [str(step) for step in item["loc"]]
        name = next((step for step in reversed(steps) if step in by_name), "")
        style = by_name[name].style or None if name else None
        words = problem_words(item, style, units)
        found.setdefault(name, f"{words[:1].upper()}{words[1:]}.")
    return found
