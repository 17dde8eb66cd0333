"""Legs of a run as they are written: "300 mm; 90; 450 mm"."""

from __future__ import annotations

import re
from dataclasses import dataclass
from math import radians, sin
from typing import Final, Literal

from isotherma.core.errors import ChangeRefused, QuantityError
from isotherma.core.quantity import parse

MM: Final = 1000.0
_TURN: Final = re.compile(r"(\d+(?:[.,]\d+)?)\s*(?:°|deg)?\s*(elbow|formed)?")
_OFFSET: Final = re.compile(r"offset\s+(.+?)\s+(\d+(?:[.,]\d+)?)\s*°?")
By = Literal["formed", "elbow"]


@dataclass(frozen=True, slots=True)
class Written:
    """Legs with the turns between them, and how each turn is made [mm, °]."""

    legs_mm: tuple[float, ...]
    turns_deg: tuple[float, ...]
    by: tuple[By, ...]


def read_length_mm(text: str, path: str = "") -> float:
    """Read a length; a bare number is millimetres.

    Parameters
    ----------
    text : str
        As somebody writes it. [-]
    path : str
        Where it stands, for what is refused. [-]

    Returns
    -------
    float
        Not below 0. [mm]

    Raises
    ------
    ChangeRefused
        If it is no length.
    """
    bare = re.fullmatch(r"\s*[\d.,]+\s*", text)
    try:
        found = parse(f"{text} mm" if bare else text, "bore") * MM
    except QuantityError as error:
        raise ChangeRefused(path=path, reason="no_length", text=text,
                            example=error.example) from None  # fmt: skip
    if found < 0.0:
        raise ChangeRefused(path=path, reason="no_length", text=text, example="300 mm")
    return found


def read_legs(text: str, path: str = "") -> Written:
    """Read legs and turns by turns; "offset 80 mm 45" may stand between two legs.

    Parameters
    ----------
    text : str
        As "300 mm; 90; 450 mm"; "90 elbow" is a turn by a fitting. [-]
    path : str
        Where it stands, for what is refused. [-]

    Returns
    -------
    Written
        One leg more than turns. [mm, °]

    Raises
    ------
    ChangeRefused
        If a leg or turn cannot be read, or the last leg is missing.
    """
    legs: list[float] = []
    turns: list[float] = []
    made: list[By] = []
    wants_leg = True
    for piece in (one.strip() for one in text.split(";")):
        offset = _OFFSET.fullmatch(piece)
        if wants_leg:
            legs.append(read_length_mm(piece, path))
        elif offset is not None:
            turn = _turn(offset[2], path)
            turns += [turn, turn]
            made += ["formed", "formed"]
            legs.append(read_length_mm(offset[1], path) / sin(radians(turn)))
        else:
            found = _TURN.fullmatch(piece)
            if found is None:
                raise ChangeRefused(path=path, reason="no_turn", text=piece)
            turns.append(_turn(found[1], path))
            made.append("elbow" if found[2] == "elbow" else "formed")
        wants_leg = not wants_leg
    if wants_leg:
        raise ChangeRefused(path=path, reason="last_leg_missing")
    return Written(tuple(legs), tuple(turns), tuple(made))


def _turn(text: str, path: str) -> float:
    turn = float(text.replace(",", "."))
    if not 0.0 < turn < 180.0:
        raise ChangeRefused(path=path, reason="no_turn", text=text)
    return turn
