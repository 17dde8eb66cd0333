"""Lead times off the engine's curve, a warm shower today, what to shut first."""

from __future__ import annotations

import pytest

from isotherma import catalogue
from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.bench_sums.base import capacity_j_per_k
from isotherma.core.simulate import simulate
from isotherma.core.system.kinds.heat import Store
from isotherma.core.system.nominal import computed
from isotherma.core.thermal.estimates import time_to_heat
from isotherma.core.using.lead import Lead, at_will, lead_of, quiet_day, sources_of, with_sources
from isotherma.core.using.now import Today, now_of
from isotherma.core.using.shutting import TROUBLES, shuts_for
from isotherma.core.using.tap import RINSES, openings_of, recommended


def parts_of(make, variant_id):
    project = make()
    variant = project.variant(variant_id).built

    def run(brief, system, state):
        return simulate(brief, system, catalogue.climate(brief), state=state)

    return project, variant, run


@pytest.mark.parametrize(
    ("make", "variant_id", "on"),
    [
        (drover, "ten-litres", ("element",)),
        (drover, "ten-litres", ("element", "burner")),
        (curlew, "store", ("element",)),
        (folio, "button", ("heater",)),
    ],
)
def test_a_forward_run_finds_the_store_as_hot_as_the_curve_says(make, variant_id, on):
    """The curve is read backwards; a draw begun then meets that temperature within 1 %."""
    project, variant, run = parts_of(make, variant_id)
    lead = lead_of(run, project.brief, variant.system, variant.standing, on,
                   month=project.brief.month)  # fmt: skip
    takes = lead.takes_s
    assert takes is not None and lead.target_c is not None and takes > 0.0
    draw = project.brief.draws[0].model_copy(update={
        "start_s": takes, "state": None, "duration_s": 60.0, "waits_hot": False})  # fmt: skip
    brief = quiet_day(project.brief, project.brief.month, None)
    outcome = run(brief.model_copy(update={"draws": (draw,)}), at_will(variant.system, on),
                  with_sources(variant.system, variant.standing, on))  # fmt: skip
    rows = outcome.timeline.rows
    before = rows.layers_c[rows.end_s <= takes + 1.0][-1].max()
    risen = lead.target_c - lead.cold_c
    assert before - lead.cold_c == pytest.approx(risen, rel=0.01, abs=0.2)


def test_an_element_alone_takes_as_long_as_a_mixed_store_would():
    """Its coil sits at the bottom: the whole store is one body, and the closed form holds."""
    project, variant, run = parts_of(drover, "ten-litres")
    lead = lead_of(run, project.brief, variant.system, variant.standing, ("element",),
                   month=project.brief.month)  # fmt: skip
    known = next(part for part in computed(variant.system).parts if part.id == "store")
    assert isinstance(known, Store) and lead.target_c is not None
    assert known.volume_m3 is not None and known.loss_w_per_k is not None
    body = capacity_j_per_k(known.volume_m3, lead.cold_c, lead.target_c)
    alone = time_to_heat(
        capacity_j_per_k=body, power_w=800.0, start_c=lead.cold_c, target_c=lead.target_c,
        loss_w_per_k=known.loss_w_per_k, ambient_c=18.0,
    )  # fmt: skip
    assert lead.takes_s == pytest.approx(alone, rel=0.05)


def test_more_heat_is_sooner_and_colder_water_later():
    project, variant, run = parts_of(drover, "ten-litres")

    def takes(on, **more):
        return lead_of(run, project.brief, variant.system, variant.standing, on,
                       **{"month": 5, **more}).takes_s  # fmt: skip

    assert takes(("element", "burner")) < takes(("burner",)) < takes(("element",))
    assert takes(("element",), cold_c=5.0) > takes(("element",), cold_c=20.0)
    assert takes(("element",), month=1) > takes(("element",), month=8)
    assert takes(()) is None  # nothing is on: a store as warm as its space is not hot


def test_the_curve_is_read_between_its_points():
    lead = Lead(("x",), 5, 10.0, (100.0, 200.0), (30.0, 50.0), 50.0)
    assert lead.after_s(20.0) == 50.0 and lead.after_s(40.0) == 150.0
    assert lead.after_s(10.0) == 0.0 and lead.after_s(51.0) is None
    assert Lead((), 5, 10.0, (), (), None).takes_s == 0.0


def test_what_feeds_an_element_is_on_for_it_and_nothing_else_heats():
    _, variant, _ = parts_of(folio, "button")
    state = with_sources(variant.system, variant.standing, ("back-up",))
    at = {one.part: one.at for one in state.positions}
    assert at["hook-up"] == "plugged" and at["heater"] == "off" and at["back-up"] != "off"
    other = {one.part: one.at for one in
             with_sources(variant.system, variant.standing, ("heater",)).positions}  # fmt: skip
    assert other["back-up"] == "off" and other["circulator"] != "off"


def test_a_shower_takes_what_it_takes_and_leaves_the_rest():
    project, variant, run = parts_of(drover, "ten-litres")
    draw = project.brief.draws[0]
    on = sources_of(variant.system)
    now = now_of(run, project.brief, variant.system, variant.standing, draw,
                 Today(on, 7.5 * 3600.0, fresh_m3=0.06, grey_m3=0.01))  # fmt: skip
    assert now is not None and now.lead.takes_s is not None
    assert now.switch_on_s == pytest.approx(7.5 * 3600.0 - now.lead.takes_s)
    assert now.fresh_left_m3 == pytest.approx(0.06 - now.used_m3)
    assert now.grey_then_m3 == pytest.approx(0.01 + now.used_m3)
    assert now.used_m3 == pytest.approx(now.flow_m3_per_s * draw.duration_s, rel=0.25)
    assert now.good_s is not None and now.wait_s is not None and now.good_s > now.wait_s
    soon = now_of(run, project.brief, variant.system, variant.standing, draw, Today(on))
    assert soon is not None and soon.switch_on_s is None and soon.fresh_left_m3 is None


@pytest.mark.parametrize("name", layouts())
def test_every_layout_says_what_to_shut(name):
    system = layouts()[name].system
    parts = {part.id: part for part in system.parts}
    for trouble in TROUBLES:
        rows = shuts_for(system, trouble)
        assert len({one.part for one in rows}) == len(rows)
        for one in rows:
            assert not parts[one.part].positions or one.to in parts[one.part].positions
    gas = any(part.kind == "gas_bottle" for part in system.parts)
    assert bool([one for one in shuts_for(system, "gas_smell")
                 if parts[one.part].kind == "gas_bottle"]) == gas  # fmt: skip


def test_less_open_is_longer_warm_and_the_mark_is_where_it_is_longest():
    project, variant, run = parts_of(drover, "ten-litres")
    rows = openings_of(run, project.brief, variant.system, variant.standing,
                       project.brief.draws[0], sources_of(variant.system))  # fmt: skip
    assert rows[0].opening == pytest.approx(1.0)
    flows = [one.flow_m3_per_s for one in rows]
    assert flows == sorted(flows, reverse=True)
    lasts = [1800.0 if one.good_s is None else one.good_s for one in rows if one.warm]
    assert lasts == sorted(lasts)
    best = recommended(rows)
    assert best is not None and best.warm and not best.pulses
    assert all(best.good_s is None or (one.good_s is not None and one.good_s <= best.good_s)
               for one in rows if one.warm and not one.pulses
               and one.flow_m3_per_s >= RINSES)  # fmt: skip
    assert recommended(()) is None
    assert openings_of(run, project.brief, variant.system, variant.standing,
                       project.brief.draws[0], ()) == ()  # fmt: skip


def test_hours_of_a_source_are_the_hands_and_the_suns_are_its_own():
    """A burner with hours of its own is switched on when it is; an element on panels never is."""
    made = layouts()["pitch-store"].project()
    variant = made.variants[0].built

    def run(brief, system, state):
        return simulate(brief, system, catalogue.climate(brief), state=state)

    on = sources_of(variant.system)
    lead = lead_of(run, made.brief, variant.system, variant.standing, on, month=5)
    assert lead.takes_s is not None and lead.takes_s < 2.0 * 3600.0
    assert sources_of(layouts()["panel-store"].system) == ()
    bag = layouts()["sun-bag"].project()
    built = bag.variants[0].built
    sun = now_of(run, bag.brief, built.system, built.standing, bag.brief.draws[0], Today(()))
    assert sun is None or (sun.lead.by_clock and sun.switch_on_s is None)
