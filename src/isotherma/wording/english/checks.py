"""Findings of the checks in words: what is wrong, what mends it, what is not known."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from typing import Any, Final

from isotherma.core.checks.found import Found, Severity
from isotherma.core.findings import Quantity, Value
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.wording.reader import few, in_units

SEVERITY_WORDS: Final[Mapping[Severity, str]] = {
    Severity.STOP: "Stop: do not use it",
    Severity.FIX: "Fix before use",
    Severity.UNKNOWN: "Not known",
    Severity.WATCH: "Know this",
}
WHO_WORDS: Final[Mapping[str, str]] = {
    "builder": "whoever builds it",
    "gas": "a licensed gas fitter",
    "electrical": "a licensed electrician",
    "flue": "a licensed flue fitter",
    "pressure": "a licensed plumber",
}
GROUP_WORDS: Final[Mapping[str, str]] = {
    "scald": "Scald", "bacteria": "Bacteria", "air": "Carbon monoxide and air", "gas": "Gas",
    "diesel": "Diesel and hot surfaces", "pressure": "Pressure", "dry": "Dry and overheating",
    "electric": "Electricity", "tubes": "Tubes", "holes": "Holes", "states": "States",
    "settings": "Settings", "frost": "Frost", "backflow": "Backflow", "material": "Materials",
    "flood": "Flood", "weight": "Weight",
}  # fmt: skip


# what checks say by a word of their own
CLAUSES: Final[Mapping[str, str]] = {
    "no_own_valve": "has no valve of its own",
    "turned_round": "has its supply half away from the bottle",
    "seals_neither": "seals on neither side",
    "stands_loose": "stands loose",
    "lies": "lies on its side",
    "pumps_off": "A state in which pumps are off",
    "the_day": "What the day brings",
    "half_heated_dry": "heat on where it stands empty",
    "half_heated_shut_in": "heat on where it is shut in",
    "half_lit_but_shut": "a flame with its water shut",
    "half_gas_open_apart": "gas open to a coupling apart",
    "half_pump_on_open_end": "a pump on with an end open",
    "half_burns_without_circuit": "a flame with its coolant standing",
    "half_outdoors_only_inside": "a flame inside that is made for outdoors",
    "half_half_joined_twice": "one supply half joined twice",
    "half_two_places": "a thing in two places",
    "half_two_suctions": "one pump open to two waters",
}


@cache
def _table() -> Mapping[str, Mapping[str, str]]:
    text = files(__package__).joinpath("checks.toml").read_text(encoding="utf-8")
    return tomllib.loads(text)


@cache
def _how() -> Mapping[str, Mapping[str, Any]]:
    text = files(__package__).joinpath("checks_how.toml").read_text(encoding="utf-8")
    return tomllib.loads(text)


def check_how(of: str, units: UnitSystem = UnitSystem.METRIC) -> str:
    """Say how a check is judged.

    Parameters
    ----------
    of : str
        Its id. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        Formula and bands in words. [-]
    """
    return in_units(str(_how()[of]["how"]), units)


def check_reads(of: str) -> tuple[str, ...]:
    """Name the properties a check reads of what it is about.

    Parameters
    ----------
    of : str
        Its id. [-]

    Returns
    -------
    tuple of str
        Names of properties. [-]
    """
    return tuple(_how()[of]["reads"])


class _Values(dict[str, str]):
    """Values of a sentence; what nobody computed is said to be so."""

    def __missing__(self, key: str) -> str:
        return "a figure not known"


def _said(value: Value, units: UnitSystem) -> str:
    if isinstance(value, Quantity):
        if value.style == "seconds":
            return duration_words(value.value) if value.value >= 1.0 else "under 1 s"
        return with_unit(value.value, value.style, units, 3)
    if isinstance(value, tuple):
        return ", ".join(value)
    return CLAUSES.get(str(value), str(value))


def _row(found: Found) -> Mapping[str, str]:
    key = f"{found.id}:{found.variant}" if found.variant else found.id
    return _table().get(key) or _table()[found.id]


def check_sentence(
    found: Found, units: UnitSystem, state: str = "", labels: Mapping[str, str] | None = None,
    *, every: bool = False,
) -> str:  # fmt: skip
    """Say what a check found.

    Parameters
    ----------
    found : Found
        Of a check. [-]
    units : UnitSystem
        Units to speak in. [-]
    state : str
        Name of the state it holds in; "" where it holds in all. [-]
    labels : mapping of str to str or None
        Titles of properties by their paths, for what is not known. [-]
    every : bool
        Name everything of which it is not known; else three and how many more. [-]

    Returns
    -------
    str
        One sentence with its full stop. [-]
    """
    if found.severity is Severity.UNKNOWN and not found.variant:
        titles = dict.fromkeys(
            (labels or {}).get(path, path.rpartition(".")[2].replace("_", " ")).lower()
            for path in found.needs
        )
        subject = found.values["subject"]
        if isinstance(subject, tuple) and not every:
            subject = few(subject)
        return f"{_said(subject, units)} not known: needs {', '.join(titles)}."
    values = _Values({key: _said(value, units) for key, value in found.values.items()})
    words = _row(found)["says"].format_map(values)
    return f"In {state}: {words}." if state else f"{words}."


def check_remedy(found: Found, units: UnitSystem) -> str:
    """Say what mends what a check found.

    Parameters
    ----------
    found : Found
        Of a check. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        A clause; of what is not known, to say it. [-]
    """
    if found.severity is Severity.UNKNOWN and not found.variant:
        return "say it, or have it looked at"
    values = _Values({key: _said(value, units) for key, value in found.values.items()})
    return _row(found)["mend"].format_map(values)
