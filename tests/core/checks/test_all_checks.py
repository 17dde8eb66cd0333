"""What holds of every check, whatever the design."""

from __future__ import annotations

import pytest

from isotherma.catalogue.layouts import layouts
from isotherma.catalogue.rules import rule_sets
from isotherma.core.checks.found import CHECKS, Found, Severity
from isotherma.core.checks.run import check_design
from isotherma.core.climate import Climate
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.system import System
from isotherma.services.shopping import run_ends
from isotherma.wording import check_remedy, check_sentence
from tests.core.checks.test_each_check import FLAWS as EACH
from tests.core.checks.test_more_checks import FLAWS as MORE
from tests.documents import project as made_up

FROSTY = Climate(region="hills", month=1, air_c=-2.0, swing_k=6.0)
SERIOUS = (Severity.STOP, Severity.FIX, Severity.WATCH)
SETS = [name for name in rule_sets() if name != "strictest"]


def looked(project: Project, variant: Variant, rules: str = "strictest") -> tuple[Found, ...]:
    return check_design(project, variant.built, rule_sets()[rules], FROSTY, "2026-11-27",
                        joints=run_ends(variant.built.system))  # fmt: skip


@pytest.mark.parametrize("seed", range(300))
def test_any_document_is_checked_and_said(seed):
    project = made_up(seed)
    for variant in project.variants:
        found = looked(project, variant)
        assert found == looked(project, variant)  # the same again
        for one in found:
            for units in UnitSystem:
                words = check_sentence(one, units)
                assert words.endswith(".") and "{" not in words and check_remedy(one, units)
            assert one.severity is not Severity.UNKNOWN or one.needs
            assert all(key in {part.id for part in variant.system.parts} for key in one.parts)


def test_of_many_things_three_are_named_and_all_where_that_is_asked():
    found = Found("pressure.clips", Severity.UNKNOWN, "builder", (), (), needs=("runs.a.clip",),
                  values={"subject": ("One", "Two", "Three", "Four", "Five")})  # fmt: skip
    short = check_sentence(found, UnitSystem.METRIC)
    assert short == "One, Two, Three and 2 more not known: needs clip."
    whole = check_sentence(found, UnitSystem.METRIC, every=True)
    assert whole == "One, Two, Three, Four, Five not known: needs clip."


def weights_of(found: tuple[Found, ...]) -> dict[object, int]:
    rank = {Severity.WATCH: 1, Severity.FIX: 2, Severity.STOP: 3}
    return {(one.id, one.parts, one.runs, one.state): rank[one.severity]
            for one in found if one.severity in SERIOUS}  # fmt: skip


@pytest.mark.parametrize("name", ["gas-combi", "cupboard-through-flow", "pitch-store"])
@pytest.mark.parametrize("rules", SETS)
def test_the_strictest_rules_find_all_that_others_find(name, rules):
    project = layouts()[name].project()
    strict = weights_of(looked(project, project.variants[0]))
    for place, weight in weights_of(looked(project, project.variants[0], rules)).items():
        assert strict.get(place, 0) >= weight, place


@pytest.mark.parametrize("name", list(layouts()))
def test_a_part_more_takes_no_finding_from_another(name):
    project = layouts()[name].project()
    variant = project.variants[0]
    before = weights_of(looked(project, variant))
    more = [*variant.system.model_dump()["parts"], {"id": "another-can", "kind": "loose_container"}]
    system = System.model_validate({**variant.system.model_dump(), "parts": more})
    after = weights_of(looked(project, variant.model_copy(update={"system": system})))
    assert before.items() <= after.items()


@pytest.mark.parametrize("name", list(layouts()))
def test_no_starting_layout_has_a_stop(name):
    project = layouts()[name].project()
    stops = [one.id for one in looked(project, project.variants[0])
             if one.severity is Severity.STOP]  # fmt: skip
    assert stops == []


@pytest.mark.parametrize(("name", "path", "of"), [
    ("gas-combi", "bottle.space", "air.bottle-inside"), ("gas-combi", "relief.outside",
                                                         "pressure.relief-outlet"),
    ("seat-store", "cutout.opens_c", "dry.cutout-setting"),
    ("gas-combi", "terminal.to_opening_m", "air.terminal-opening"),
])  # fmt: skip
def test_what_is_taken_out_is_not_green(name, path, of):
    """A figure nobody says leaves a finding, never an empty place."""
    key, _, prop = path.partition(".")
    project = layouts()[name].project()
    data = project.variants[0].system.model_dump()
    next(part for part in data["parts"] if part["id"] == key)[prop] = None
    system = System.model_validate(data)
    variant = project.variants[0].model_copy(update={"system": system})
    assert [one for one in looked(project, variant)
            if one.id == of and one.severity is Severity.UNKNOWN]  # fmt: skip


# the outcome of these is only ever “not known”, or is tried by a test of its own
APART = {"air.altitude", "gas.tested", "weight.payload"}


def test_every_check_has_a_flawed_design_that_it_finds():
    tried = {row[0] for row in (*EACH, *MORE)}
    assert set(CHECKS) == tried | APART
    assert not tried & APART
