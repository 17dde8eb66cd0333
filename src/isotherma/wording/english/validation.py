"""What is wrong with a value, in a sentence: what, where, how to mend."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from isotherma.core.quantity import UnitSystem, duration_words, with_unit

_BOUNDS = {
    "greater_than": ("gt", "must be more than"),
    "greater_than_equal": ("ge", "must be at least"),
    "less_than": ("lt", "must be less than"),
    "less_than_equal": ("le", "must be at most"),
}


# why a document is refused, by the code its validator raised; braces take the values with it
PROBLEMS: Final[Mapping[str, str]] = {
    "hidden_character": "the hidden character {character} is not allowed; retype the text",
    "angle_signs": "the signs < and > are not allowed; use words instead",
    "line_break": "a name is one line; remove the line break",
    "empty_name": "must not be empty; give it a name",
    "warmest_is_colder": "the warmest month must not be colder than the coldest",
    "window_shut": "“too hot above” must be at least 1 K over “warm enough from”",
    "rise_missing": "“above the tank” needs by how much; enter “above the tank by”",
    "same_id": "two {what} have the id “{id}”; give one another id",
    "draws_too_long": "the draws of one day come to more than four hours; shorten or remove some",
    "named_twice": "the same thing is named twice; name it once",
    "not_in_brief": "the days name the {what} “{id}”, which is not there; there is: {known}",
    "not_there": "{who} names the {what} “{id}”, which is not there; add the {what}, or leave it "
    "empty",
    "own_neighbour": "space “{id}” is its own neighbour; name another",
    "sits_in_itself": "part “{id}” sits in itself, by way of what it sits in; a thing can sit in "
    "one other, not in a circle",
    "no_such_part": "run “{run}” joins the part “{part}”, which is not there; add the part or mend "
    "the run",
    "no_such_port": "run “{run}” joins the port “{port}” of “{part}”, which has only {names}",
    "two_ends": "two ends meet at port “{port}” of “{part}” (runs “{other}” and “{run}”); put a "
    "split between them",
    "media_differ": "run “{run}” is a {kind} from {start} ({first}) to {end} ({second}); join "
    "openings for the same, with the kind of run that carries it",
    "no_end": "“{text}” is no end known here; {nearest}",
    "no_port_for_end": "“{part}” has no port “{port}” to state an end of; it has {names}",
    "two_said_ends": "two ends are stated for port “{port}” of “{part}”; keep one",
    "turn_after_last": "{turns} turns stand in {legs} legs; a turn stands between two legs, the "
    "last leg has none after it",
    "no_such_position": "{who} puts “{part}” to “{at}”; it may be {may}",
}
_NONE: Final = {"names": "none", "may": "none: it does not move"}


def _refused(code: str, context: Mapping[str, str]) -> str:
    values = {key: value or _NONE.get(key, value) for key, value in context.items()}
    if code == "media_differ":
        values["kind"] = values["kind"].lower()
    if code == "no_end":
        near = values["nearest"]
        perhaps = f"perhaps “{near.replace(' / ', '”, “')}”"
        example = "write it as “male 1/2 in parallel” or “push-in 12 mm”"
        values["nearest"] = perhaps if near else example
    return PROBLEMS[code].format(**values)


def problem_words(error: ErrorDetails, style: str | None, units: UnitSystem) -> str:
    """Say what is wrong with one value, without saying where.

    Parameters
    ----------
    error : ErrorDetails
        One error of the validation. [-]
    style : str or None
        The property's quantity style; None speaks in plain numbers. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        A clause: "must be more than 0 L". [-]
    """
    kind, context = error["type"], error.get("ctx", {})
    if kind in _BOUNDS:
        key, words = _BOUNDS[kind]
        bound = float(context[key])
        if style == "minutes":
            return f"{words} {duration_words(bound)}"
        return f"{words} {with_unit(bound, style, units) if style else f'{bound:g}'}"
    if kind == "string_pattern_mismatch" and r"\d{4}-" in str(context.get("pattern")):
        return "must be a day, written as 2026-03-31"
    if kind in PROBLEMS:
        return _refused(kind, context)
    if kind == "value_error":
        return str(context["error"])
    fixed = {
        "missing": "is missing; put it in",
        "extra_forbidden": "is not known here; take it out",
        "finite_number": "must be a finite number",
        "string_too_short": "must not be empty",
        "float_parsing": "must be a number",
        "float_type": "must be a number",
        "int_parsing": "must be a whole number",
        "int_type": "must be a whole number",
        "int_from_float": "must be a whole number",
        "bool_parsing": "must be true or false",
        "string_pattern_mismatch": "may hold only small letters, digits and hyphens",
        "union_tag_invalid": "is of a kind this version does not know",
        "union_tag_not_found": "has no kind",
    }
    if kind in fixed:
        return fixed[kind]
    if kind == "string_too_long":
        return f"must have at most {context['max_length']} characters"
    if kind in {"too_long", "too_short"}:
        limit = context.get("max_length", context.get("min_length"))
        return f"must have at {'most' if kind == 'too_long' else 'least'} {limit} items"
    if kind == "literal_error":
        return f"must be one of {context['expected']}"
    return error["msg"][:1].lower() + error["msg"][1:]


def validation_sentences(error: ValidationError) -> list[str]:
    """Turn a failed validation into sentences with their paths.

    Parameters
    ----------
    error : ValidationError
        What the document refused. [-]

    Returns
    -------
    list of str
        One sentence per error; texts of the input are not repeated. [-]
    """
    sentences = []
    for item in error.errors(include_url=False, include_input=False):
        where = ".".join(str(step)[:40] for step in item["loc"]) or "the document"
        sentences.append(f"{where}: {problem_words(item, None, UnitSystem.METRIC)}.")
    return sentences
