"""A number, opened: formula, values with the paths they came from, range, source."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Input:
    """One value in a formula; `path` names the document's property it came from."""

    symbol: str
    words: str
    value: float
    style: str
    path: str = ""


@dataclass(frozen=True, slots=True)
class Trace:
    """A number, opened."""

    id: str
    title: str
    value: float | None
    style: str
    formula: str
    words: str
    inputs: tuple[Input, ...]
    valid: str
    source: str
