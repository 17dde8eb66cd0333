"""What `check` does: what could hurt somebody in a file's design, in words or as an object."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import NoReturn

from isotherma.catalogue.rules import rule_sets
from isotherma.core.checks.found import Found
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.system.states import State
from isotherma.files.check_json import check_object
from isotherma.services.checking import check_variant, titles
from isotherma.wording import SEVERITY_WORDS, check_remedy, check_sentence

Fail = Callable[[str, int], NoReturn]


def checked(
    project: Project, chosen: Variant, only: State | None, rules: str | None, on_date: str,
    units: UnitSystem, fail: Fail, *, as_json: bool,
) -> None:  # fmt: skip
    """Check a design, and print what was found."""
    if rules is not None and rules not in rule_sets():
        fail(f"There is no rule set “{rules}”. There are: {', '.join(rule_sets())}.", 2)
    if not chosen.built.system.parts:
        fail("Nothing to check: this variant has no parts yet.", 3)
    result = check_variant(project, chosen, on_date, rules=rules, only=only)
    labels = titles(project, chosen, result.found)
    names = {state.id: state.name for state in chosen.system.states}

    def sentence(found: Found) -> str:
        return check_sentence(found, units, names.get(found.state or "", ""), labels, every=True)

    if as_json:
        made = check_object(
            result.found, result.acknowledged, result.rules.name, sentence,
            lambda found: check_remedy(found, units),
        )  # fmt: skip
        print(json.dumps(made, ensure_ascii=False, indent=2, allow_nan=False))
        return
    counts = {severity: sum(one.severity is severity for one in result.found)
              for severity in SEVERITY_WORDS}  # fmt: skip
    print(f"{result.rules.title}; limits as known to us: check the current text.")
    print(", ".join(f"{count} {severity.value}" for severity, count in counts.items()))
    for place, one in enumerate(result.found):
        by = result.acknowledged.get(place)
        print(f"{one.severity.value:8}{one.id}: {sentence(one)}")
        if by is not None:
            print(f"        acknowledged by {by.name}: {by.reason}")
        else:
            print(f"        {check_remedy(one, units)}")
