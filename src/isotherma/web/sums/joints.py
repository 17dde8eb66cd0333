"""Which thread? Do these meet? Asked at the bench with a wet hand; no vehicle needed."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Final

from isotherma.core.errors import QuantityError
from isotherma.core.joints.resolver import Asked, Use
from isotherma.core.joints.threads import Measured
from isotherma.core.quantity import UnitSystem, parse, with_unit
from isotherma.services.joints import Joined, end_names, join, which_thread
from isotherma.wording import (
    MEASURE_WORDS,
    REFUSED_JOINT_WORDS,
    SEAL_WORDS,
    error_words,
)

MM: Final = 1000.0
INCH_MM: Final = 25.4
# what is asked with keys: name, question, keys of value and words; the first is not looked at yet
KEYS: Final[tuple[tuple[str, str, tuple[tuple[str, str], ...]], ...]] = (
    ("side", "It is", (("male", "a male thread"), ("female", "a female one"))),
    ("by", "Measured with", (("caliper", "a caliper"), ("ruler", "a ruler"))),
    ("taper", "Along a straight edge", (("", "not looked"), ("seen", "it tapers"),
                                        ("none", "it is straight"))),
    ("hand", "It goes in", (("", "not tried"), ("right", "to the right"),
                            ("left", "to the left"))),
    ("flank", "Angle of its flanks", (("", "no gauge"), ("55", "55°"), ("60", "60°"))),
)  # fmt: skip
USES: Final[dict[str, Use]] = {
    "drinking": "drinking", "hot": "hot", "gas": "gas", "waste": "waste",
}  # fmt: skip
USE_WORDS: Final = (
    ("", "as the ends say"), ("drinking", "drinking water"), ("hot", "hot water"), ("gas", "gas"),
    ("waste", "waste water"),
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Keys:
    """A question answered by pressing one of a few keys."""

    name: str
    question: str
    keys: tuple[tuple[str, str, bool], ...]


@dataclass(frozen=True, slots=True)
class Typed:
    """A field: its name, question, what was typed, an example, what is wrong with it."""

    name: str
    question: str
    text: str
    example: str
    error: str = ""


@dataclass(frozen=True, slots=True)
class ThreadRow:
    """A thread it may be, the likeliest first."""

    name: str
    share: str
    figures: str


@dataclass(frozen=True, slots=True)
class ThreadPage:
    """Which thread was measured."""

    template: ClassVar[str] = "thread.html"
    fields: tuple[Typed, ...]
    keys: tuple[Keys, ...]
    rows: tuple[ThreadRow, ...] = ()
    no_thread: str = ""
    decide: str = ""


@dataclass(frozen=True, slots=True)
class ChainStep:
    """A fitting of a chain, with the joint before it."""

    seal: str
    first: str
    second: str
    only: str


@dataclass(frozen=True, slots=True)
class MeetPage:
    """Whether two ends meet, and by what."""

    template: ClassVar[str] = "meet.html"
    fields: tuple[Typed, ...]
    uses: tuple[tuple[str, str, bool], ...]
    ends: tuple[str, ...]
    asked: bool = False
    said: str = ""
    one: str = ""
    other: str = ""
    steps: tuple[ChainStep, ...] = ()
    last: str = ""
    unknown: str = ""
    nearest: tuple[str, ...] = ()


class _Reader:
    """Reads what was typed; what cannot be read is kept with what is wrong."""

    def __init__(self, texts: Mapping[str, str], units: UnitSystem) -> None:
        self.texts, self.units = texts, units
        self.fields: list[Typed] = []

    def number(self, name: str, question: str, style: str, example: str) -> float | None:
        text = self.texts.get(name, "").strip()
        error, value = "", None
        if text:
            try:
                value = parse(text, style, self.units)
            except QuantityError as problem:
                error = error_words(problem, self.units)
        self.fields.append(Typed(name, question, text, example, error))
        return value

    def pitch_mm(self) -> tuple[float | None, float | None]:
        """Read a pitch in threads an inch, in millimetres, or counted: with threads counted."""
        text = self.texts.get("pitch", "").strip()
        error, pitch, threads = "", None, None
        counted = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s+over\s+(.+)", text)
        tpi = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*tpi", text)
        try:
            if counted is not None:
                threads = float(counted[1].replace(",", "."))
                length = parse(counted[2], "bore", self.units) * MM
                pitch = length / threads if threads else 0.0
            elif tpi is not None:
                per_inch = float(tpi[1].replace(",", "."))
                pitch = INCH_MM / per_inch if per_inch else 0.0
            elif text:
                pitch = parse(text, "bore", self.units) * MM
        except QuantityError as problem:
            error = error_words(problem, self.units)
        if pitch is not None and pitch <= 0.0:
            error, pitch = "A pitch is more than 0: write 14 tpi, 1.81 mm or 7 over 12.7 mm.", None
        self.fields.append(Typed("pitch", "Its pitch", text, "14 tpi, 1.81 mm, 7 over 12.7 mm",
                                 error))  # fmt: skip
        return pitch, threads


def thread_page(texts: Mapping[str, str], units: UnitSystem) -> ThreadPage:
    """Say which thread was measured, and what to measure next."""
    reader = _Reader(texts, units)
    across = reader.number("across", "Outside, or the bore of a female one", "bore", "20.9 mm")
    pitch, threads = reader.pitch_mm()
    chosen = {name: texts.get(name, "") for name, _, _ in KEYS}
    keys = tuple(
        Keys(name, question, tuple(
            (key, words, key == chosen[name] or (chosen[name] not in dict(rows) and at == 0))
            for at, (key, words) in enumerate(rows)
        ))
        for name, question, rows in KEYS
    )  # fmt: skip
    if across is None or any(field.error for field in reader.fields):
        return ThreadPage(tuple(reader.fields), keys)
    found = which_thread(Measured(
        across * MM, chosen["side"] == "female", pitch, threads,
        {"seen": True, "none": False}.get(chosen["taper"]),
        {"left": True, "right": False}.get(chosen["hand"]),
        {"55": 55, "60": 60}.get(chosen["flank"]), chosen["by"] == "ruler",
    ))  # fmt: skip
    rows = tuple(
        ThreadRow(one.thread.name, f"{one.score:.0%}",
                  f"outside {with_unit(one.thread.high_mm / MM, 'bore', units, 4)}, "
                  f"{INCH_MM / one.thread.pitch_mm:.3g} threads an inch")
        for one in found.candidates if one.score >= 0.005
    )  # fmt: skip
    decide = "" if found.decide is None else MEASURE_WORDS[found.decide]
    return ThreadPage(tuple(reader.fields), keys, rows, f"{found.none:.0%}",
                      decide[:1].upper() + decide[1:])  # fmt: skip


def meet_page(texts: Mapping[str, str], units: UnitSystem) -> MeetPage:
    """Say whether two ends meet, and by which fittings."""
    reader = _Reader(texts, units)
    ends = [texts.get(name, "").strip() for name in ("one", "other")]
    at_c = reader.number("at", "How hot", "temperature", "60 °C")
    pressure = reader.number("pressure", "Under what pressure", "pressure", "3 bar")
    use = texts.get("use", "")
    uses = tuple((key, words, key == use) for key, words in USE_WORDS)
    fields = (
        Typed("one", "One end", ends[0], "male 1/2 in parallel"),
        Typed("other", "The other", ends[1], "push-in 12 mm"), *reader.fields,
    )  # fmt: skip
    page = MeetPage(fields, uses, end_names())
    if not all(ends) or any(field.error for field in fields):
        return page
    joined = join(ends[0], ends[1], Asked(USES.get(use), at_c, pressure))
    return _joined(page, joined, texts)


def _joined(page: MeetPage, joined: Joined, texts: Mapping[str, str]) -> MeetPage:
    one, other = joined.ends
    found = joined.chain
    if joined.reason is not None:
        words = REFUSED_JOINT_WORDS[joined.reason].format(
            end=", ".join(joined.about),
            at=texts.get("at") or "20 °C",
            pressure=texts.get("pressure") or "it",
        )
        fields = tuple(
            Typed(field.name, field.question, field.text, field.example,
                  f"{words[:1].upper()}{words[1:]}." if field.text in joined.about else field.error)
            for field in page.fields
        )  # fmt: skip
        return MeetPage(
            fields, page.uses, page.ends, True, f"They do not meet: {words}.", one, other,
            nearest=found.nearest,
        )  # fmt: skip
    steps = tuple(
        ChainStep(SEAL_WORDS[seal], link.first.name, link.second.name,
                  "" if link.adapter.everywhere else "not sold everywhere")
        for seal, link in zip(found.seals, found.links, strict=False)
    )  # fmt: skip
    count = len(steps)
    said = "They meet as they are." if not count else (
        "One fitting joins them." if count == 1 else f"{count} fittings join them.")  # fmt: skip
    return MeetPage(
        page.fields, page.uses, page.ends, True, said, one, other, steps,
        SEAL_WORDS[found.seals[-1]], ", ".join(found.unknown),
    )  # fmt: skip
