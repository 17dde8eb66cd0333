"""A line of the list of what is to be bought."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Line:
    """A line of the list; what nobody knows is None and named in `unknown`.

    `net` is what is needed, `quantity` what is to be bought: less what is there, in whole packs.
    """

    item: str
    size: str = ""
    quantity: float = 1.0
    unit: str = "piece"
    end_a: str | None = None
    end_b: str | None = None
    net: float | None = None
    packs: int | None = None
    about: tuple[str, ...] = ()
    why: str = ""
    approval: str | None = None
    phase: str | None = None
    spare: bool = False
    price: float | None = None
    mass_kg: float | None = None
    have: float = 0.0
    ordered: float = 0.0
    priced_on: str | None = None
    unknown: tuple[str, ...] = ()

    @property
    def key(self) -> str:
        """Name the line: the same while it is the same thing."""
        first = self.about[0] if self.about else ""
        return "|".join((self.item, self.size, "spare" if self.spare else "", first))


UNPRICED = ("price",)
