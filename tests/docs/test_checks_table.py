"""docs/checks.md is what the code says; every check has words and a limit in every rule set."""

from __future__ import annotations

import tomllib
from importlib.resources import files

import pytest

import isotherma.wording.english as english
from isotherma.catalogue.rules import rule_sets
from isotherma.core.checks import run
from isotherma.core.checks.found import CHECKS
from scripts.checks_of_layouts import PATH as LAYOUTS_PATH
from scripts.checks_of_layouts import made as layouts_made
from scripts.checks_table import PATH, made

WORDS = tomllib.loads(files(english).joinpath("checks.toml").read_text(encoding="utf-8"))


def test_the_table_is_up_to_date():
    assert PATH.read_text(encoding="utf-8") == made(), "run scripts/checks_table.py"


def test_every_limit_is_there_in_every_rule_set():
    for rules in rule_sets().values():
        assert all(one.value is not None and one.source for one in rules.limits.values())


@pytest.mark.parametrize("of", sorted(CHECKS))
def test_a_check_has_its_words_and_group(of):
    assert set(WORDS[of]) == {"says", "mend"} and of.partition(".")[0] in run.GROUPS
    assert not {"safe", "compliant", "passed"} & set(WORDS[of]["says"].lower().split())


def test_words_are_of_checks_that_are():
    assert {key.partition(":")[0] for key in WORDS} == set(CHECKS)


def test_what_is_found_in_layouts_is_up_to_date_and_judged():
    assert LAYOUTS_PATH.read_text(encoding="utf-8") == layouts_made(), (
        "run scripts/checks_of_layouts.py"
    )
