"""Ledger, verdict, traces and words: the numbers a person reads."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from math import sqrt

import pytest

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core import errors
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.ledger import TITLES
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.kinds.heat import Burner
from isotherma.core.system.layouts import usual_route
from isotherma.services.runs import compute
from isotherma.wording import (
    TRACES,
    cautions,
    error_words,
    input_words,
    ready_words,
    trace_title,
    verdict,
)
from tests.support import brief, changed, run, shower, system, use


def entry(outcome, budget):
    return next(row for row in outcome.ledger if row.budget == budget)


def test_fresh_and_grey_add_up():
    asked = brief(
        shower(), days=3, uses=[use(0.012, 8 / 12)], reserve=0.1,
        budgets={"grey_m3": 0.5},
    )  # fmt: skip
    outcome = run(asked, system(30.0, tank_l=200.0))
    used = outcome.draws[0].used_m3
    fresh, grey = entry(outcome, "fresh"), entry(outcome, "grey")
    assert fresh.used == pytest.approx(3 * (used + 0.012))
    assert fresh.limit == pytest.approx(0.2 * 0.9)
    assert fresh.margin == pytest.approx(fresh.limit - fresh.used)
    assert grey.used == pytest.approx(3 * (used + 0.008))
    assert fresh.used_per_day == pytest.approx(used + 0.012)


def test_gas_and_mains_come_from_the_sources():
    both = usual_route(
        tank_m3=0.2, store_m3=0.02, burner=Burner(id="burner", input_w=2000.0, efficiency=0.8)
    )
    outcome = run(brief(shower(), budgets={"gas_kg": 5.0}), both)
    burned = (
        outcome.timeline.balance.sources_j["burner"] / 0.8 / 46.34e6
    )  # net heating value of propane
    assert entry(outcome, "gas").used == pytest.approx(burned)
    assert entry(outcome, "gas").limit == 5.0
    assert entry(outcome, "mains").used == 0.0
    assert entry(outcome, "mains").limit is None
    assert entry(outcome, "mains").margin is None


def test_the_day_a_budget_ends():
    asked = brief(shower(), days=10, uses=[use(0.005)])
    outcome = run(asked, system(30.0, tank_l=70.0))
    fresh = entry(outcome, "fresh")
    assert fresh.ends_on_day == int(0.07 / fresh.used_per_day) + 1
    assert fresh.binds
    assert "fresh water is what ends the trip, on day" in verdict(outcome, UnitSystem.METRIC)


def test_a_tank_that_ran_dry_counts_what_was_still_wanted():
    dry = run(brief(shower()), system(30.0, tank_l=10.0))
    full = run(brief(shower()), system(30.0, tank_l=100.0))
    assert dry.draws[0].used_m3 < 0.0101
    assert entry(dry, "fresh").used == pytest.approx(entry(full, "fresh").used, rel=0.02)
    assert entry(dry, "fresh").margin < 0


def test_exactly_one_budget_binds_and_warmth_only_when_short():
    good = run(brief(shower()), system(30.0))
    assert [row.budget for row in good.ledger if row.binds] == ["fresh"]
    weak = run(brief(shower(duration_s=600.0)), system(5.0, tank_l=500.0))
    assert [row.budget for row in weak.ledger if row.binds] == ["warmth"]
    assert "warmth is what ends the day" in verdict(weak, UnitSystem.METRIC)


def test_every_budget_has_a_title_and_a_margin_that_is_limit_less_use():
    outcome = run(brief(shower()), system())
    assert [row.budget for row in outcome.ledger] == list(TITLES)
    for row in outcome.ledger:
        assert row.limit is None or row.margin == pytest.approx(row.limit - row.used)


@pytest.mark.parametrize(
    ("asked", "built", "words"),
    [
        (brief(month=3), system(), "No draw is described yet"),
        (brief(shower(), month=3), system(30.0), "One wash of 5 min in March, warm to the end"),
        (
            brief(shower(), shower(2, start_s=40000.0), month=3), system(30.0),
            "Two washes of 5 min in March, both warm to the end",
        ),
        (brief(shower(), month=3), system(3.0), "“Shower 1” runs cool after"),
        (
            brief(shower(), shower(2, start_s=25600.0, duration_s=360.0), month=3), system(9.0),
            "none of two as asked",
        ),
        (brief(shower()), changed(system(), "mixer", set_c=30.0), "never gets warm: 3"),
        (brief(shower()), system(10.0, tank_l=8.0), "stops when the fresh water runs out"),
        (brief(shower()), changed(system(), "pump", shut_pressure_pa=5e3), "gets no water"),
        (brief(shower(), budgets={"longest_wait_s": 1.0}), system(30.0), "was the limit"),
        (brief(shower()), system(30.0), "nothing runs out in the day"),
        (brief(shower()), system(9.0), "until the store is hot again"),
    ],
)  # fmt: skip
def test_the_sentence_of_truth(asked, built, words):
    sentence = verdict(run(asked, built), UnitSystem.METRIC)
    assert words in sentence
    assert sentence.endswith(".")
    assert "None" not in sentence and "nan" not in sentence


def test_the_sentence_speaks_the_units_of_the_reader():
    outcome = run(brief(shower()), system(30.0))
    assert "L to spare" in verdict(outcome, UnitSystem.METRIC)
    assert "gal to spare" in verdict(outcome, UnitSystem.US)


# --- every traced number can be worked out again from what its trace shows ---


@pytest.fixture
def outcome():
    return run(brief(shower(), shower(2, start_s=40000.0)), system())


def value(trace, words):
    return next(item.value for item in trace.inputs if input_words(item).startswith(words))


def test_trace_of_flow(outcome):
    trace = outcome.trace("flow")
    again = value(trace, "flow factor") * sqrt(value(trace, "pressure before"))
    assert trace.value == pytest.approx(again)
    before_pump = {"strainer", "shut-off", "main", "tank"}
    taken = sum(
        item.value for item in trace.inputs
        if item.code == "taken_by" and item.path.split(".")[1] not in before_pump
    )  # fmt: skip
    left = value(trace, "highest pressure") - value(trace, "taken to lift") - taken
    assert value(trace, "pressure before") == pytest.approx(left, rel=0.03)


def test_trace_of_wait(outcome):
    trace = outcome.trace("wait")
    assert trace.value == pytest.approx(value(trace, "start of the first") - value(trace, "tap"))
    assert trace.value == outcome.draws[0].wait_s
    pipes = value(trace, "water standing")
    assert trace.value > pipes / value(trace, "flow")


@pytest.mark.parametrize("trace_id", ["warm", "hot"])
def test_traces_that_are_sums(outcome, trace_id):
    trace = outcome.trace(trace_id)
    assert trace.value == pytest.approx(sum(item.value for item in trace.inputs))
    assert len(trace.inputs) == 2


def test_trace_of_energy(outcome):
    trace = outcome.trace("energy")
    again = sum(item.value for item in trace.inputs if item.symbol == "Qᵢ")
    assert trace.value == pytest.approx(again)
    assert value(trace, "from the mains") == pytest.approx(trace.value)


PLACES = [*layouts(), "folio", "curlew", "drover"]


@pytest.mark.parametrize("place", PLACES)
def test_every_budget_is_what_its_trace_adds_up_to(place):
    """The ledger sums a day's spending; the trace sums term by term."""
    demos = {"folio": folio, "curlew": curlew, "drover": drover}
    project = demos[place]() if place in demos else layouts()[place].project()
    found = compute(project, project.variants[0])
    assert isinstance(found, Outcome)
    for entry in found.ledger:
        trace = found.trace(f"used.{entry.budget}")
        assert trace.value == pytest.approx(entry.used, rel=1e-9, abs=1e-9), entry.budget
        assert trace.style == entry.style
    for draw in found.draws[1:]:
        assert found.trace(f"flow.{draw.draw.id}").value == pytest.approx(
            draw.flow_m3_per_s, rel=0.03
        )
        assert found.trace(f"wait.{draw.draw.id}").value == draw.wait_s


def test_traces_name_paths_that_exist(outcome):
    parts = {part.id for part in system().parts}
    for trace in outcome.traces:
        words = TRACES[trace.code]
        assert words.source and words.valid and words.words and trace_title(trace)
        for item in trace.inputs:
            assert "{" not in input_words(item)
            if item.path.startswith("parts."):
                assert item.path.split(".")[1] in parts
    with pytest.raises(KeyError):
        outcome.trace("nonsense")


# --- words ---


def test_cautions_name_the_hurt():
    hot = run(brief(shower(high_c=60.0)), changed(system(30.0), "mixer", set_c=50.0))
    assert any("with someone under it" in words for words in cautions(hot, UnitSystem.METRIC))
    refused = run(brief(shower(), will_not_have=["mains", "mixing valve"]), system())
    words = " ".join(cautions(refused, UnitSystem.METRIC))
    assert "will not have mains" in words and "will not have a mixing valve" in words
    slow = run(brief(shower(flow_m3_per_s=3e-5)), system())
    assert any("may not hold" in words for words in cautions(slow, UnitSystem.US))
    assert any("switches on and off" in words for words in cautions(slow, UnitSystem.US))
    assert not any("safe" in words.lower() for words in cautions(hot, UnitSystem.METRIC))


def test_ready_words(outcome):
    assert ready_words(outcome.draws[0]).endswith("min")


def test_every_error_of_the_core_has_words():
    made: dict[str, dict[str, object]] = {
        "QuantityError": {
            "text": "x",
            "dimension": "volume",
            "reason": "no_number",
            "example": "1 L",
        },
        "TargetNotReached": {"target_c": 60.0, "limit_c": 50.0},
        "KernelsCompiling": {"done": 3, "of": 97},
        "NotComputedYet": {"part_id": "tap", "part_name": "Basin", "reason": "not_joined"},
        "MissingValue": {"path": "parts.store.volume_m3", "part_name": "Store", "label": "volume"},
        "UnknownRegion": {"region": "x", "known": ("y",)},
        "ChangeRefused": {"path": "x", "reason": "gone"},
        "NoSuchOutlet": {"part_id": "tap", "opening": 2.0, "known": ("tap",)},
        "FlowNotSolved": {"part_id": "tap", "part_name": "Tap", "residual_pa": 9.0, "rounds": 250},
        "NotInTable": {"what": "symptom", "typed": "flow_lo", "nearest": ("flow_low",)},
        "PlanCircle": {"tasks": ("mount.a", "mount.b")},
        "CannotBe": {"reason": "hot_above_cold"},
        "NoPumpStarts": {"interval_s": 0.0, "leak_m3_per_s": None},
        "BalanceBroken": {"energy_error_share": 0.1, "water_error_share": 0.0},
    }
    fallback = error_words(errors.CoreError(), UnitSystem.METRIC)
    for name, kind in inspect.getmembers(errors, inspect.isclass):
        if not issubclass(kind, errors.CoreError) or kind is errors.CoreError:
            continue
        build: Callable[..., errors.CoreError] = kind
        error = build(**made[name])
        words = error_words(error, UnitSystem.METRIC)
        assert words != fallback, f"{name} has no sentence"
        assert words.rstrip().endswith((".", "?"))
        assert kind.code in (inspect.getdoc(errors) or "") or kind.__name__ in errors.__doc__
