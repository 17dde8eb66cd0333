"""What of a dossier is asked for: chapters, paper, which version, and an offer's terms."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, Final

from starlette.datastructures import QueryParams

from isotherma.core.errors import QuantityError
from isotherma.core.quantity import UnitSystem, parse
from isotherma.web.dossier.work_chapters import Terms
from isotherma.web.rendering import whole_number
from isotherma.wording import error_words

CHAPTERS: Final[Mapping[str, str]] = {
    "verdict": "What it does", "brief": "Brief", "route": "Route",
    "spaces": "Spaces and states", "day": "The day", "budgets": "Budgets", "checks": "Checks",
    "parts": "Parts, cutting and holes", "tests": "Tests and work done",
    "card": "A warm shower, and if something is wrong",
    "cards": "Cards for the door, all of them", "assumed": "What was assumed",
    "sign": "For licensed people", "offer": "Offer",
}  # fmt: skip
SETS: Final[Mapping[str, tuple[str, ...]]] = {
    "whole": tuple(key for key in CHAPTERS if key not in ("offer", "card")),
    "short": ("verdict", "route", "parts", "card"),
    "offer": ("verdict", "route", "parts", "offer"),
}
PAPERS: Final[Mapping[str, str]] = {"a4": "A4", "letter": "US letter"}
MOST_MONEY: Final = 1e6
MOST_HOURS: Final = 1e4
MOST_NOTE: Final = 400


@dataclass(frozen=True, slots=True)
class Asked:
    """A dossier that is asked for; `errors` are what cannot be read, by field."""

    chapters: tuple[str, ...]
    paper: str
    revision: int
    terms: Terms
    texts: Mapping[str, str]
    errors: Mapping[str, str]
    wanted: bool

    def payload(self) -> dict[str, Any]:
        """Write it for a worker."""
        return {"chapters": self.chapters, "paper": self.paper, "revision": self.revision,
                "terms": asdict(self.terms)}  # fmt: skip


def read_asked(query: QueryParams, units: UnitSystem) -> Asked:
    """Read the address; what it does not say is the whole, on A4, of now."""
    named = SETS.get(query.get("set", ""), ())
    chosen = tuple(key for key in CHAPTERS if key in {*query.getlist("chapter"), *named})
    texts = {name: query.get(name, "").strip()[:40] for name in ("rate", "hours", "visit")}
    errors: dict[str, str] = {}
    figures: dict[str, float | None] = {}
    for name, most in (("rate", MOST_MONEY), ("hours", MOST_HOURS), ("visit", MOST_MONEY)):
        figures[name] = None
        if not texts[name]:
            continue
        try:
            value = parse(texts[name], "number", units)
        except QuantityError as error:
            errors[name] = error_words(error, units)
            continue
        if not 0.0 <= value <= most:
            errors[name] = f"Say a number from 0 to {most:g}."
        else:
            figures[name] = value
    note = " ".join(query.get("note", "").split())[:MOST_NOTE]
    revision = query.get("revision", "")
    paper = query.get("paper", "")
    return Asked(
        chosen or SETS["whole"], paper if paper in PAPERS else "a4",
        max(0, whole_number(revision)),
        Terms(figures["rate"], figures["hours"], figures["visit"], note),
        {**texts, "note": note}, errors, query.get("ask") == "1",
    )  # fmt: skip
