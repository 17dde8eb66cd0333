"""As printed → as computed: every figure of a piece, with its doubt and its reason."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache

from isotherma.core.fields import style_of
from isotherma.core.system import AnyKind, AnyRun, System
from isotherma.core.system.pieces import Around, Figure, PartBase
from isotherma.core.system.runs import RunBase

Piece = AnyKind | AnyRun


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


def settled(system: System) -> System:
    """Write every likely figure into the document, as the engine reads it.

    Parameters
    ----------
    system : System
        As entered; never changed. [-]

    Returns
    -------
    System
        The same network with no derivable figure left empty; what is unknown stays so. [SI]
    """
    parts = tuple(_settled(part, system.around(part)) for part in system.parts)
    runs = tuple(_settled(run, Around()) for run in system.runs)
    return system.model_copy(update={"parts": parts, "runs": runs})


def _settled(piece: Piece, around: Around) -> Piece:
    figures = understand(piece, around)
    values = {
        figure.name: figure.likely
        for figure in figures
        if figure.likely is not None and getattr(piece, figure.name) is None
    }
    return piece.model_copy(update=values)
