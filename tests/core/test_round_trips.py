"""Any valid document survives file, form, database and command line without loss."""

from __future__ import annotations

import json
from random import Random

import pytest
from typer.testing import CliRunner

from isotherma.catalogue.layouts import layouts
from isotherma.cli import app
from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.editing import new_part
from isotherma.core.errors import CoreError
from isotherma.core.project import Project, canonical_json
from isotherma.core.quantity import UnitSystem
from isotherma.core.simulate import last_day, simulate
from isotherma.core.system import System
from isotherma.core.system.configuration import fitted_by
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.moves import moves
from isotherma.core.system.nominal import computed, understand
from isotherma.core.system.pieces import Around, PartBase
from isotherma.core.system.remarks import remarks
from isotherma.core.system.route import not_computed, reading_order
from isotherma.files.project_file import read_project, write_project
from isotherma.files.report_json import report
from isotherma.files.run_table import read_runs, write_runs
from isotherma.services.forms import as_typed, properties, read_form
from isotherma.services.runs import compute
from isotherma.wording import error_words, remark_words
from isotherma.wording.reader import Reader
from tests.documents import project, system, values
from tests.support import system as usual_system


@pytest.mark.parametrize("tens", range(20))
def test_two_hundred_documents_come_back_byte_for_byte(tens):
    for seed in range(10 * tens, 10 * tens + 10):
        made = project(seed)
        data = write_project(made)
        again = read_project(data)
        assert again == made
        assert write_project(again) == data
        assert canonical_json(again) == canonical_json(made)
        # another order of keys is the same document
        turned = json.dumps(json.loads(data), sort_keys=True).encode()
        assert write_project(read_project(turned)) == data
        # as the database keeps it
        assert Project.model_validate_json(canonical_json(made)) == made


@pytest.mark.parametrize("units", list(UnitSystem))
@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_round_trips_through_its_form(kind, units):
    """Shown and sent back it is unchanged; typed into an empty form it is the same to 4 digits."""
    refs = {"part": ["a"], "space": ["b"], "phase": ["c"]}
    for seed in range(4):
        part = new_part(kind, values(Random(seed), KINDS[kind], refs, filled=0.8))
        items = properties(type(part))
        names = [item.name for item in items]
        typed = {item.name: as_typed(item, getattr(part, item.name), units) for item in items}
        assert read_form(part, names, typed, units).values == {}
        empty = new_part(kind)
        read = read_form(empty, names, typed, units)
        assert read.errors == {}
        filled = type(part).model_construct(**{**empty.__dict__, **read.values})
        again = {item.name: as_typed(item, getattr(filled, item.name), units) for item in items}
        assert again == typed


@pytest.mark.parametrize("units", list(UnitSystem))
def test_the_run_table_pasted_back_changes_nothing(units):
    for built in (system(seed) for seed in range(60)):
        if not built.runs:
            continue
        pasted = read_runs(write_runs(built, units), built, UnitSystem.METRIC)
        for first, second in zip(pasted, built.runs, strict=True):
            assert type(first) is type(second)
            for name, value in second.model_dump().items():
                other = first.model_dump()[name]
                if isinstance(value, float):
                    assert other == pytest.approx(value, rel=1e-5, abs=1e-9)
                else:
                    assert other == value


def test_texts_and_figures_of_a_run_table_come_back_as_they_were():
    """Lines of a note stay, a formula stays a text, and a fall of half a metre stays a number."""
    base = usual_system()
    run_id = next(run.id for run in base.runs if run.kind == "pipe")
    runs = tuple(
        run.model_copy(update={"note": "first\nsecond “third”", "name": "=1+1", "rise_m": -0.5})
        if run.id == run_id else run
        for run in base.runs
    )  # fmt: skip
    built = base.model_copy(update={"runs": runs})
    table = write_runs(built, UnitSystem.METRIC)
    assert "\t-0.5\t" in table and "\t=1+1" not in table
    again = next(run for run in read_runs(table, built, UnitSystem.METRIC) if run.id == run_id)
    assert again == next(run for run in runs if run.id == run_id)


@pytest.mark.parametrize("seed", range(60))
def test_whatever_is_entered_is_understood_and_nothing_hangs(seed):
    built = system(seed, most=14)
    plain = computed(built)
    assert [part.id for part in plain.parts] == [part.id for part in built.parts]
    for piece in (*built.parts, *built.runs):
        around = built.around(piece) if isinstance(piece, PartBase) else Around()
        for figure in understand(piece, around):
            if figure.origin in {"derived", "assumed"}:
                assert figure.low is not None and figure.likely is not None
                assert figure.high is not None
                assert figure.low <= figure.likely <= figure.high, (piece, figure)
            assert figure.because
    for units in UnitSystem:
        reader = Reader.of(built, units)
        for item in remarks(built):
            words = remark_words(item, reader)
            assert words.what and words.why and words.mend and "{" not in words.mend
    assert set(not_computed(built)) <= {part.id for part in built.parts}
    order = [piece.id for piece in reading_order(built)]
    assert sorted(order) == sorted(piece.id for piece in (*built.parts, *built.runs))
    ids = {part.id for part in built.parts}
    for phase in built.phases:
        there = {part.id for part in fitted_by(built, phase.id).parts}
        assert {part_id for part_id in there if not part_id.startswith("cap-")} <= ids
    assert fitted_by(built, None) == built
    for first in built.states:
        assert moves(built, first, first) == ()
        for second in built.states:
            assert all(step.before != step.after for step in moves(built, first, second))


def test_the_engine_answers_or_names_what_it_cannot():
    air = Climate(region="river-plain", month=6, air_c=15.0, swing_k=8.0)
    for seed in range(80):
        try:
            simulate(Brief(), system(seed), air)
        except CoreError as error:
            assert error.code


# what a builder may mistype: figures with a unit, and the choices that change what a part does
FIGURES = ("m3", "w", "k", "c", "s", "pa", "j", "kg", "share", "a", "v", "ohm", "si")
CHOICES = ("layers", "rule", "fuel", "nature", "control", "runs", "count", "refill")


def mistyped(seed: int) -> Project:
    """A starting layout with a few figures of a few parts at random, absurd ones among them."""
    random = Random(seed)
    names = sorted(layouts())
    base = layouts()[names[seed % len(names)]].project()
    variant = base.variants[0]
    data = variant.system.model_dump()
    for _ in range(random.randint(1, 6)):
        at = random.randrange(len(data["parts"]))
        new = values(random, type(variant.system.parts[at]), {}, 0.9)
        keys = [k for k in new if k.rsplit("_", 1)[-1] in FIGURES or k in CHOICES]
        for key in random.sample(keys, min(3, len(keys))):
            data["parts"][at][key] = new[key]
    built = variant.model_copy(update={"system": System.model_validate(data)})
    days, month = random.choice([1, 3, 30]), random.randint(1, 12)
    asked = base.brief.model_copy(update={"days": days, "month": month})
    return base.model_copy(update={"brief": asked, "variants": (built,)})


@pytest.mark.parametrize("tens", range(6))
def test_a_mistyped_layout_is_answered_in_whole_numbers_or_refused(tens):
    """Every number of the report is finite, the last day and the expansion with it."""
    for seed in range(10 * tens, 10 * tens + 10):
        project = mistyped(seed)
        found = compute(project, project.variants[0])
        if isinstance(found, CoreError):
            assert error_words(found, UnitSystem.METRIC)
            continue
        data = report(found, last_day(found), name="x", variant="y", units=UnitSystem.US)
        json.dumps(data, allow_nan=False)
        assert found.timeline.balance.energy_error_share < 1e-3


def test_the_command_line_keeps_it(tmp_path):
    """A layout printed, simulated or refused with a reason, is the file the pages import."""
    runner = CliRunner()
    listed = runner.invoke(app, ["layout", "--list"])
    assert listed.exit_code == 0
    names = listed.stdout.split()
    assert len(names) >= 16
    for name in names:
        printed = runner.invoke(app, ["layout", name])
        assert printed.exit_code == 0
        assert write_project(read_project(printed.stdout.encode())).decode() == printed.stdout
    unknown = runner.invoke(app, ["layout", "castle"])
    assert unknown.exit_code == 2
    assert "tap-canister" in unknown.output
    assert runner.invoke(app, ["layout"]).exit_code == 2


def test_an_empty_system_has_nothing_to_say():
    assert remarks(System()) == ()
    assert not_computed(System()) == {}
