"""As entered → as computed: every figure of a piece, with its doubt and its reason.

There are two kinds of document. A `System` is as entered: any figure may be missing. A
`ComputedSystem` is as computed: every figure that can be known or assumed is written in, each with
low, likely, high and where it comes from, and what nobody can assume is a named list beside it.
Whatever computes takes the second; `figure` reads from it and never gives a number of its own.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache

from pydantic import PrivateAttr

from isotherma.core.errors import MissingValue
from isotherma.core.fields import style_of
from isotherma.core.system import System
from isotherma.core.system.pieces import Around, Figure, PartBase
from isotherma.core.system.runs import RunBase


@dataclass(frozen=True, slots=True)
class Missing:
    """A figure that nobody entered and that cannot be assumed: whose, which, how to know it."""

    piece_id: str
    group: str
    name: str
    title: str
    because: str

    @property
    def path(self) -> str:
        """Give where it stands in the document."""
        return f"{self.group}.{self.piece_id}.{self.name}"


class ComputedSystem(System):
    """A system with its nominal values written in; only `computed` makes one."""

    _figures: Mapping[str, tuple[Figure, ...]] = PrivateAttr(default_factory=dict)

    def figures(self, piece_id: str) -> tuple[Figure, ...]:
        """Give every figure of a piece with its band and origin; none of a piece not here."""
        return self._figures.get(piece_id, ())

    @property
    def missing(self) -> tuple[Missing, ...]:
        """List the figures that stay unknown, part by part and run by run."""
        parts = {part.id for part in self.parts}
        return tuple(
            Missing(piece_id, "parts" if piece_id in parts else "runs",
                    item.name, item.title, item.because)
            for piece_id, figures in self._figures.items()
            for item in figures
            if item.likely is None
        )  # fmt: skip


def figure(piece: PartBase | RunBase, name: str) -> float:
    """Read a figure of a piece as computed; there is no other number in its place.

    Parameters
    ----------
    piece : PartBase or RunBase
        Of a `ComputedSystem`. [-]
    name : str
        A property that holds a number. [-]

    Returns
    -------
    float
        As entered, derived or assumed; an entered 0 is 0. [SI]

    Raises
    ------
    MissingValue
        If nobody knows it; it names the piece and the property.
    """
    value = getattr(piece, name)
    if value is None:
        title = type(piece).model_fields[name].title or name
        group = "parts" if isinstance(piece, PartBase) else "runs"
        raise MissingValue(
            path=f"{group}.{piece.id}.{name}", part_name=piece.label, label=title.lower()
        )
    assert isinstance(value, float | int)
    return value


def known_figure(piece: PartBase | RunBase, name: str) -> float | None:
    """Read a figure that means something by its absence: a limit that is not there.

    Parameters
    ----------
    piece : PartBase or RunBase
        Of a `ComputedSystem`. [-]
    name : str
        A property that some kinds have. [-]

    Returns
    -------
    float or None
        None where its kind has none or nobody said one. [SI]
    """
    value = getattr(piece, name, None)
    assert value is None or isinstance(value, float | int)
    return value


def _names(piece: PartBase | RunBase, derived: Iterable[str]) -> tuple[str, ...]:
    """Figures of a piece: what it needs, what can be derived, what is usual for its kind."""
    wanted = (*piece.needs, *derived, *piece.lacking(), *piece.usual)
    return tuple(dict.fromkeys(wanted))


@cache
def _style(kind: type[PartBase] | type[RunBase], name: str) -> tuple[str, str]:
    info = kind.model_fields[name]
    return info.title or name, style_of(info) or "number"


def understand(piece: PartBase | RunBase, around: Around) -> tuple[Figure, ...]:
    """Give every figure the engine takes from a piece.

    Parameters
    ----------
    piece : PartBase or RunBase
        A part or a run. [-]
    around : Around
        What it sits in and what sits in it. [-]

    Returns
    -------
    tuple of Figure
        Given figures win over derived ones, those over what is usual; a figure nobody
        knows has no value and says what to enter. [SI]
    """
    derived = piece.worked_out(around)
    lacking = piece.lacking()
    found = []
    for name in _names(piece, derived):
        title, style = _style(type(piece), name)
        band = derived.get(name) or piece.usual.get(name)
        given = getattr(piece, name)
        if given is not None:
            found.append(
                Figure(name, title, style, given, given, given, "as entered", "given", band)
            )
        elif band is not None:
            found.append(
                Figure(
                    name, title, style, band.low, band.likely, band.high, band.because,
                    "derived" if name in derived else "assumed",
                )
            )  # fmt: skip
        else:
            words = f"enter {lacking[name]}" if name in lacking else "nothing printed says it"
            found.append(Figure(name, title, style, None, None, None, words, "unknown"))
    return tuple(found)


def computed(system: System) -> ComputedSystem:
    """Write every likely figure into the document, as the engine reads it.

    Parameters
    ----------
    system : System
        As entered; never changed. [-]

    Returns
    -------
    ComputedSystem
        The same network with no derivable figure left empty; what is unknown stays so and is
        listed. [SI]
    """
    if isinstance(system, ComputedSystem):
        return system
    figures = {part.id: understand(part, system.around(part)) for part in system.parts}
    figures |= {run.id: understand(run, system.between(run)) for run in system.runs}
    values = {name: getattr(system, name) for name in System.model_fields} | {
        "parts": tuple(
            part.model_copy(update=_lacked(part, figures[part.id])) for part in system.parts
        ),
        "runs": tuple(run.model_copy(update=_lacked(run, figures[run.id])) for run in system.runs),
    }
    made = ComputedSystem.model_construct(**values)
    made._figures = figures
    return made


def _lacked(piece: PartBase | RunBase, figures: tuple[Figure, ...]) -> dict[str, float | None]:
    """Give the figures nobody entered and that can be known or assumed."""
    return {
        item.name: item.likely
        for item in figures
        if item.likely is not None and getattr(piece, item.name) is None
    }
