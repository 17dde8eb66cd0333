"""How far the kernels are compiled, which everything that computes waits for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.errors import KernelsCompiling
from isotherma.core.quantity import UnitSystem
from isotherma.wording import error_words


@dataclass(frozen=True, slots=True)
class KernelsPage:
    """Whether they are done, how far they are in words, and where to go back to."""

    template: ClassVar[str] = "kernels.html"
    done: bool
    words: str
    back: str


def kernels_page(waits: KernelsCompiling | None, back: str, units: UnitSystem) -> KernelsPage:
    """Say how far they are; nothing in the place of that once they are done."""
    return KernelsPage(waits is None, "" if waits is None else error_words(waits, units), back)
