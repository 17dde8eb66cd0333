"""A number, opened: which, its inputs with the paths they came from; the words are elsewhere."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Input:
    """One value in a formula: its symbol, what it is, of whom or of what.

    `code` says what kind of input it is, `subject` its draw's, part's or use's name; `path` names
    the document's property it came from.
    """

    symbol: str
    code: str
    value: float
    style: str
    path: str = ""
    subject: str = ""


@dataclass(frozen=True, slots=True)
class Trace:
    """A number, opened: `code` says which formula it is, `subject` of which draw or budget."""

    id: str
    code: str
    value: float | None
    style: str
    inputs: tuple[Input, ...]
    subject: str = ""
