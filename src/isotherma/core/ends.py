"""Ends of parts and tubes as words, and which of them meet without an adapter."""

from __future__ import annotations

import re
from dataclasses import dataclass
from difflib import get_close_matches
from fractions import Fraction
from functools import cache
from typing import Final, Literal

INCH_MM: Final = 25.4
SAME_MM: Final = 0.1  # outsides that a push-in or compression takes for one
BARB_SHARE: Final = (-0.05, 0.09)  # of a barb over its hose
NOMINAL_MM: Final = 3.175  # inch plastic and nominal copper are an eighth of an inch more outside

Word = Literal[
    "male", "female", "nut", "compression", "cone", "push-in", "stem", "barb", "hose", "crimp",
    "solder", "tube", "plug", "socket", "waste spigot", "waste push", "waste weld", "open", "wire",
    "ring", "blade",
]  # fmt: skip
BOUGHT_SO: Final = "run"  # of a part: in joint and size of the run that ends there
THREADED: Final = ("male", "female", "nut")
FAMILIES: Final = ("us parallel", "us taper", "parallel", "taper", "garden", "flare", "gas left")
TUBES: Final = ("inch plastic", "plastic", "copper", "steel", "multilayer")
CRIMPED: Final = ("inch plastic", "plastic", "multilayer")
NOT_FOR_GAS: Final = frozenset({
    "push-in", "stem", "barb", "hose", "crimp", "compression", "solder",
})  # fmt: skip

_SIZE: Final = r"(?P<size>\d+(?:\.\d+)?\s*mm|(?:\d+\s+)?\d+/\d+\s*in|\d+(?:\.\d+)?\s*in)"
_THREAD: Final = re.compile(
    rf"(?P<gender>male|female|nut)\s+(?:{_SIZE}\s+(?:in\s+)?(?P<family>{'|'.join(FAMILIES)})"
    r"|(?P<metric>M\d+(?:\.\d+)?x\d+(?:\.\d+)?)|(?P<gas>W21\.8)\s+gas\s+left)"
)
_SIZED: Final = re.compile(
    rf"(?P<word>compression|cone|push-in|stem|barb|hose|solder|waste\sspigot|waste\spush|waste\sweld"
    rf"|blade)\s+{_SIZE}(?:\s+(?P<basis>nominal|od))?"
)
_CRIMP: Final = re.compile(rf"crimp\s+{_SIZE}\s+(?P<family>{'|'.join(CRIMPED)})")
_TUBE: Final = re.compile(
    rf"(?P<family>{'|'.join(TUBES)})\s+tube\s+{_SIZE}(?:\s+(?P<basis>nominal|od))?"
)
_PLUG: Final = re.compile(r"(?P<word>plug|socket)\s+(?P<family>click|gas\squick)")
_RING: Final = re.compile(r"ring\s+(?P<size>M\d+)")


@dataclass(frozen=True, slots=True)
class End:
    """An end: what it is, its size, its family of threads or tubes.

    `basis` tells inch tubes by outside from those by name; `material` is empty where nobody said.
    """

    word: Word
    size: str = ""
    family: str = ""
    basis: str = ""
    material: Literal["", "plastic", "metal"] = ""

    @property
    def name(self) -> str:
        """Give it in words, without its material."""
        match self.word:
            case "male" | "female" | "nut":
                if self.family == "metric":
                    return f"{self.word} {self.size}"
                return f"{self.word} {self.size} {self.family}"
            case "crimp":
                return f"crimp {self.size} {self.family}"
            case "tube":
                words = f"{self.family} tube {self.size}"
                return f"{words} {self.basis}" if self.basis else words
            case "plug" | "socket":
                return f"{self.word} {self.family}"
            case _:
                return " ".join(filter(None, (self.word, self.size, self.basis)))

    @property
    def size_mm(self) -> float:
        """Give its size in millimetres; 0 of what has none."""
        return size_mm(self.size)

    @property
    def outside_mm(self) -> float:
        """Give the outside of the tube it takes or is [mm]."""
        inches = self.size.endswith("in")
        by_name = self.basis == "nominal" or (self.word == "tube" and self.basis != "od")
        return self.size_mm + NOMINAL_MM if inches and by_name else self.size_mm

    @property
    def of_gas(self) -> bool:
        """Whether only gas goes through it."""
        left = self.family in ("gas left", "flare", "gas quick")
        return left or self.word == "cone"

    @property
    def of_waste(self) -> bool:
        """Whether only waste goes through it."""
        return self.word.startswith("waste")


def read_or_run(text: str) -> str | None:
    """Read an end of a part as a file may say it.

    Parameters
    ----------
    text : str
        An end in words, or "run": bought in joint and size of the run that ends there. [-]

    Returns
    -------
    str or None
        In the words of our tables, a plastic or metal thread with its material; None where it is
        no end known. [-]

    Examples
    --------
    >>> read_or_run("Plastic  MALE 1/2 in parallel")
    'plastic male 1/2 in parallel'
    """
    if text.strip().lower() == BOUGHT_SO:
        return BOUGHT_SO
    end = read_end(text)
    return None if end is None else f"{end.material} {end.name}".strip()


@cache
def usual_wordings() -> tuple[str, ...]:
    """Give ends as they are written, to find what somebody may have meant.

    Returns
    -------
    tuple of str
        Most that are sold. [-]
    """
    inches = ("1/8 in", "1/4 in", "3/8 in", "1/2 in", "5/8 in", "3/4 in", "1 in", "1 1/4 in",
              "1 1/2 in")  # fmt: skip
    metric = ("6 mm", "8 mm", "10 mm", "12 mm", "13 mm", "15 mm", "16 mm", "19 mm", "22 mm",
              "25 mm", "28 mm", "32 mm", "40 mm")  # fmt: skip
    threads = [f"{gender} {size} {family}" for gender in THREADED for size in inches
               for family in FAMILIES]  # fmt: skip
    sized = [f"{word} {size}" for word in (
        "compression", "cone", "push-in", "stem", "barb", "hose", "solder", "waste spigot",
        "waste push", "waste weld") for size in metric]  # fmt: skip
    barbs = [f"{word} {size}" for word in ("barb", "hose", "compression") for size in inches]
    named = [f"{word} {size} nominal" for word in ("push-in", "stem") for size in inches]
    tubes = [f"{family} tube {size}" for family in TUBES
             for size in (inches if family == "inch plastic" else metric)]  # fmt: skip
    crimps = [f"crimp {size} {family}" for family in CRIMPED
              for size in (inches if family == "inch plastic" else metric)]  # fmt: skip
    screws = [f"{gender} {size}" for gender in THREADED for size in (
        "M12x1.5", "M14x1.5", "M16x1.5", "M22x1", "M24x1")]  # fmt: skip
    rest = ("plug click", "socket click", "plug gas quick", "socket gas quick", "open", "wire",
            "ring M5", "ring M8", "blade 6.3 mm", BOUGHT_SO)  # fmt: skip
    return (*threads, *sized, *barbs, *named, *tubes, *crimps, *screws, *rest)


def nearest_wordings(text: str, most: int = 3) -> tuple[str, ...]:
    """Give the ends whose wording is nearest to what somebody wrote.

    Parameters
    ----------
    text : str
        What was no end. [-]
    most : int
        How many at most. [-]

    Returns
    -------
    tuple of str
        Nearest first; none where nothing is near. [-]

    Examples
    --------
    >>> nearest_wordings("male 1/2 in paralel")[0]
    'male 1/2 in parallel'
    """
    words = " ".join(text.lower().replace('"', " in ").split())
    return tuple(get_close_matches(words, usual_wordings(), n=most, cutoff=0.6))


@cache
def size_mm(size: str) -> float:
    """Read a size as it stands in an end.

    Parameters
    ----------
    size : str
        "12 mm", "1 1/2 in"; others have no length. [-]

    Returns
    -------
    float
        0 where it is no length. [mm]

    Examples
    --------
    >>> round(size_mm("1 1/2 in"), 3)
    38.1
    """
    number, _, unit = size.rpartition(" ")
    if unit == "mm":
        return float(number)
    if unit != "in":
        return 0.0
    return float(sum(Fraction(piece) for piece in number.split())) * INCH_MM


def read_end(text: str) -> End | None:
    """Read an end.

    Parameters
    ----------
    text : str
        As "male 1/2 in parallel", "push-in 12 mm", "plastic male 3/4 in garden". [-]

    Returns
    -------
    End or None
        None where it is no end known. [-]

    Examples
    --------
    >>> read_end("nut 3/4 in garden").name
    'nut 3/4 in garden'
    """
    words = " ".join(text.lower().split())
    words = re.sub(r"\bm(\d)", r"M\1", words).replace("w21.8", "W21.8")
    material: Literal["", "plastic", "metal"] = ""
    first, _, rest = words.partition(" ")
    if first in ("plastic", "metal") and rest.split(" ")[0] in THREADED:
        material = "plastic" if first == "plastic" else "metal"
        words = rest
    if words in ("open", "wire"):
        return End("open" if words == "open" else "wire")
    thread = _THREAD.fullmatch(words)
    if thread is not None:
        gender: Word = thread["gender"]  # type: ignore[assignment]
        if thread["metric"]:
            return End(gender, thread["metric"], "metric", "", material)
        if thread["gas"]:
            return End(gender, thread["gas"], "gas left", "", material)
        return End(gender, _size(thread["size"]), thread["family"], "", material)
    for pattern in (_CRIMP, _TUBE, _SIZED):
        found = pattern.fullmatch(words)
        if found is None:
            continue
        word: Word = found.groupdict().get("word") or ("crimp" if pattern is _CRIMP else "tube")  # type: ignore[assignment]
        basis = found.groupdict().get("basis") or ""
        if basis == "nominal" and word == "tube":
            basis = ""  # as inch tubes are, unless said
        if word in ("push-in", "stem") and found["size"].endswith("in") and not basis:
            return None  # 12.7 or 15.88 mm?
        return End(word, _size(found["size"]), found.groupdict().get("family") or "", basis)
    plug = _PLUG.fullmatch(words)
    if plug is not None:
        return End("plug" if plug["word"] == "plug" else "socket", "", plug["family"])
    ring = _RING.fullmatch(words)
    return End("ring", ring["size"]) if ring is not None else None


def _size(text: str) -> str:
    """Write a size with one blank before its unit."""
    number, unit = text[:-2].strip(), text[-2:]
    return f"{' '.join(number.split())} {unit}"


def meets(one: End, other: End) -> bool:
    """Say whether two ends go together without an adapter.

    Parameters
    ----------
    one, other : End
        In either order. [-]

    Returns
    -------
    bool
        Never: a parallel male in a taper female, a metal taper male in a plastic female, two
        families of threads though they start. [-]
    """
    return _takes(one, other) or _takes(other, one)


def _takes(one: End, other: End) -> bool:
    """Say whether the first goes into, or takes, the second."""
    if one.word == "male":
        return _male_in(one, other)
    tube = other.word == "tube"
    match one.word:
        case "push-in":
            fits = other.word == "stem" or (
                tube and other.family in ("plastic", "inch plastic", "copper")
            )
            return fits and _near(one, other)
        case "compression":
            return tube and other.family in ("copper", "plastic") and _near(one, other)
        case "cone":
            return tube and other.family in ("copper", "steel") and _near(one, other)
        case "solder":
            return tube and other.family == "copper" and _near(one, other)
        case "crimp":
            return tube and other.family == one.family and one.size == other.size
        case "barb":
            if other.word != "hose" or other.size_mm <= 0.0:
                return False
            over = (one.size_mm - other.size_mm) / other.size_mm
            return BARB_SHARE[0] - 1e-9 <= over <= BARB_SHARE[1] + 1e-9
        case "plug":
            return other.word == "socket" and one.family == other.family
        case "waste spigot":
            return other.word in ("waste push", "waste weld") and one.size == other.size
        case _:
            return False


def _near(one: End, other: End) -> bool:
    """Say whether two outsides are the same but for how they are made."""
    return abs(one.outside_mm - other.outside_mm) <= SAME_MM + 1e-9


def _male_in(male: End, other: End) -> bool:
    """Say whether a male end goes into another."""
    if male.family == "flare" and other.word == "tube":
        od = other.family == "copper" and (other.basis == "od" or other.size.endswith("mm"))
        return od and abs(male.size_mm - other.outside_mm) <= SAME_MM
    if other.word not in ("female", "nut") or male.size != other.size:
        return False
    if male.family == other.family:
        tapers = male.family.endswith("taper")
        if tapers and other.word == "nut":
            return False
        cracks = tapers and male.material == "metal" and other.material == "plastic"
        return not cracks
    tradition = {"taper": "parallel", "us taper": "us parallel"}.get(male.family)
    if tradition != other.family:
        return False
    if other.word == "nut":  # the flat washer has no face to seal on: but a shower arm's
        return (male.size, male.family) == ("1/2 in", "us taper")
    return not (male.material == "metal" and other.material == "plastic")


def unsaid(one: End, other: End) -> tuple[str, ...]:
    """Name the ends whose material would decide whether a taper cracks them.

    Parameters
    ----------
    one, other : End
        That meet. [-]

    Returns
    -------
    tuple of str
        Paths of what is not known: "material of male 1/2 in taper". [-]
    """
    for male, female in ((one, other), (other, one)):
        taper = male.word == "male" and male.family.endswith("taper") and female.word == "female"
        if not taper or male.material == "plastic" or female.material == "metal":
            continue
        return tuple(f"material of {end.name}" for end in (male, female) if not end.material)
    return ()


Seal = Literal["tape", "washer", "clamp", "insert", "solder", "solvent", "own"]


def seal_of(one: End, other: End) -> Seal:
    """Say what makes a joint tight.

    Parameters
    ----------
    one, other : End
        That meet. [-]

    Returns
    -------
    str
        Tape on a taper, a washer or O-ring on a parallel thread, a clamp on a hose. [-]
    """
    words = {one.word, other.word}
    families = {one.family, other.family}
    if words & set(THREADED):
        if families & {"flare", "gas left"} or "tube" in words:
            return "own"
        taper = any(end.word == "male" and end.family.endswith("taper") for end in (one, other))
        return "washer" if "nut" in words or not taper else "tape"
    if "hose" in words:
        return "clamp"
    if "compression" in words:
        return "insert" if "plastic" in families else "own"
    if "solder" in words:
        return "solder"
    return "solvent" if "waste weld" in words else "own"
