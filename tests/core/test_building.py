"""Plans: tasks with who and how long, what comes before what, visits, sections, stages."""

from __future__ import annotations

import json

import pytest
from typer.testing import CliRunner

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.joints import adapters, assumed_ends, threads
from isotherma.catalogue.layouts import layouts
from isotherma.cli import app
from isotherma.core.building.air import air_of
from isotherma.core.building.expectations import Computed
from isotherma.core.building.order import plan_of
from isotherma.core.building.sections import sections_of
from isotherma.core.building.stages import stages_of
from isotherma.core.building.tasks import LOOSE, Task, on_mains, tasks_of
from isotherma.core.errors import PlanCircle
from isotherma.core.joints.holes import holes_of
from isotherma.core.joints.piping import joints_of
from isotherma.core.system import System
from isotherma.core.system.nominal import computed
from isotherma.files.project_file import write_project
from isotherma.services.building import planned
from tests.core.checks.designs import cable, doc, gas_pipe, part, pipe

RUN = CliRunner()
TUBE = {"family": "semi-rigid plastic", "nominal": "15 mm", "joint": "push-in"}
BUILT = doc(
    part("tank", "fresh_tank", volume_m3=0.05), part("shut", "shut_off"),
    part("pump", "pump", open_flow_m3_per_s=2e-4, cut_out_pa=2.4e5, cut_in_pa=1.7e5),
    part("store", "store", volume_m3=0.01, nature="closed", dry_mass_kg=30.0),
    part("burner", "burner", fitted_in="store", rated_w=1500.0),
    part("tap", "tap", reach="behind another part", behind="box"), part("box", "battery"),
    part("bottle", "gas_bottle", space="locker"), part("flue", "flue"),
    part("can", "loose_container", volume_m3=0.01),
    pipe("tank.outlet", "shut.inlet", **TUBE), pipe("shut.outlet", "pump.inlet", **TUBE),
    pipe("pump.outlet", "store.inlet", elbows=1, board="rubber foam", **TUBE),
    pipe("store.outlet", "tap.inlet", **TUBE),
    gas_pipe("bottle.outlet", "burner.gas"),
    cable("box.power", "pump.power", length_m=2.0),
)  # fmt: skip


def made(document=BUILT, lined=(), phase=None):
    system = System.model_validate(document)
    ends = assumed_ends("metric")
    holes = holes_of(system, threads(), ends)
    tasks = tasks_of(system, joints_of(system, adapters(), ends, {}), holes, lined)
    stages = stages_of(system, sections_of(system, computed(system), {}), Computed())
    return plan_of(system, tasks, stages, holes, phase)


def by_id(plan):
    return {one.task.id: one for one in plan.tasks}


def test_each_part_and_run_has_its_task_by_the_right_hands():
    tasks = by_id(made())
    assert "mount.can" not in tasks  # a loose can is not fixed
    licensed = {key for key, one in tasks.items() if one.task.who == "licensed"}
    assert licensed == {"gas.bottle-burner", "flue.flue", "test.gas_tightness",
                        "test.first_fire.burner"}  # fmt: skip
    assert tasks["mount.store"].task.two_people and tasks["mount.store"].task.minutes == 60.0
    assert "lifting" in tasks["mount.store"].task.cautions
    assert tasks["fit.burner"].task.trade == "water" and tasks["fit.burner"].task.minutes == 15.0
    assert tasks["mount.tap"].task.before_closing and not tasks["mount.pump"].task.before_closing
    assert tasks["pull.box-pump"].task.minutes == 10.0 + 5.0 * 2.0 + 6.0 * 2


def test_minutes_follow_the_table_with_their_band():
    """By hand: a metre of pipe, an elbow, an adapter at each end: 8 + 6 + 4·4 + 6."""
    task = by_id(made())["lay.pump-store"].task
    assert task.minutes == pytest.approx(8.0 + 6.0 + 4.0 * 4 + 6.0)
    assert task.band == pytest.approx((0.6 * 36.0, 36.0, 72.0))
    vague = [{**run, "length_m": None} if run["id"] == "pump-store" else run
             for run in BUILT["runs"]]  # fmt: skip
    unknown = by_id(made({**BUILT, "runs": vague}))["lay.pump-store"].task
    assert unknown.minutes is None and unknown.band is None


def test_nothing_waits_for_what_comes_later():
    plan = made()
    place = {one.task.id: at for at, one in enumerate(plan.tasks)}
    for one in plan.tasks:
        assert all(place[key] < place[one.task.id] for key in one.task.after)
    after = {one.task.id: one.task.after for one in plan.tasks}
    assert "mount.pump" in after["lay.pump-store"]  # mounting before runs that end there
    assert "mount.tap" in after["mount.box"]  # what stands behind goes in first
    assert "mount.store" in after["fit.burner"]
    assert "test.gas_tightness" in after["test.first_fire.burner"]
    assert "test.fill.pump" in after["insulate.pump-store"]
    assert "hole.tank-outlet" in after["mount.tank"]
    assert "lay.pump-store" in after["insulation.living"]


def test_a_lining_covers_what_was_filled_before():
    after = {one.task.id: one.task.after for one in made(lined={"living"}).tasks}
    assert "test.fill.pump" in after["lining.living"]
    assert {"insulation.living"} <= after["lining.living"] <= after.keys()
    assert "lining.living" in after["furniture.living"]
    closing = by_id(made(lined={"living"}))
    assert closing["lay.pump-store"].task.before_closing
    assert closing["mount.pump"].task.before_closing


def test_one_builder_has_two_hands_and_the_licensed_work_beside():
    plan = made()
    mine = [one for one in plan.tasks if one.task.who == "builder"]
    hands = sum(one.task.minutes or 0.0 for one in mine)
    assert plan.minutes >= hands - 1e-6
    ends = 0.0
    for one in sorted(mine, key=lambda one: one.start_min):
        assert one.start_min >= ends - 1e-6
        ends = one.start_min + (one.task.minutes or 0.0)
    critical = [one for one in plan.tasks if one.critical]
    assert critical and max(one.start_min + (one.task.minutes or 0.0)
                            for one in critical) == pytest.approx(plan.minutes)  # fmt: skip


def test_licensed_work_comes_in_as_few_visits_as_it_can():
    visits = made().visits
    assert {visit.trade for visit in visits} == {"gas", "flue", "test"}
    assert [len(visit.tasks) for visit in visits if visit.trade == "gas"] == [1]
    twice = [visit for visit in visits if visit.trade == "test"]
    assert all(visit.because for visit in twice[1:])


def test_a_circle_names_its_tasks():
    other = {"tap": "box", "box": "tap"}
    circle = [{**one, "reach": "behind another part", "behind": other[one["id"]]}
              if one["id"] in other else one for one in BUILT["parts"]]  # fmt: skip
    with pytest.raises(PlanCircle) as caught:
        made({**BUILT, "parts": circle})
    assert {"mount.tap", "mount.box"} <= set(caught.value.tasks)


def test_sections_end_at_what_can_be_shut_and_are_filled_along_the_flow():
    system = System.model_validate(BUILT)
    sections = sections_of(system, computed(system), {})
    assert [(one.opened, one.source) for one in sections] == [
        (None, "tank"), ("shut", None), ("pump", None)]  # fmt: skip
    assert [one.runs for one in sections] == [
        ("tank-shut",), ("shut-pump",), ("pump-store", "store-tap")]  # fmt: skip
    bore = 3.14159265 / 4 * 0.0117**2
    assert sections[0].litres_m3 == pytest.approx(bore, rel=1e-3)  # a metre
    assert sections[2].litres_m3 == pytest.approx(2 * bore + 0.01 + 0.08e-3, rel=1e-3)
    assert sections[1].borders == ("pump",) and sections[2].borders == ("tap",)


def test_each_fill_opens_one_closer_and_a_vessels_air_is_found():
    system = System.model_validate(BUILT)
    sections = sections_of(system, computed(system), {})
    heights = {("store", "outlet"): 0.6, ("store", "inlet"): 0.1, ("tap", "inlet"): 0.4}
    stages = stages_of(system, sections, Computed(
        flows={"tap": (8e-5, 1e-4, 1.1e-4)}, run_on_s={"pump": (2.4, 3.0, 3.8)},
        cut_out_pa={"pump": 2.4e5}, kept_m3={"pump": (2e-4, 3e-4, 4e-4)}, heights=heights,
        heights_said=True,
    ))  # fmt: skip
    found = {stage.id: stage for stage in stages}
    fills = [stage for stage in stages if stage.kind == "fill"]
    assert [len(stage.opens) for stage in fills] == [0, 1, 1]
    assert fills[0].part == "tank" and fills[0].shuts == ("shut",)
    assert fills[2].purge_at == ("tap",) and fills[2].air_at == ("store",)
    assert fills[2].air_left == ("store",)  # the tap stands lower
    assert fills[2].litres_m3 is not None
    assert fills[2].minutes == pytest.approx(fills[2].litres_m3 / 1e-4 / 60.0)
    above = {**heights, ("tap", "inlet"): 0.7}
    higher = stages_of(system, sections, Computed(heights=above, heights_said=True))
    assert higher[2].purge_at == ("tap",) and higher[2].air_left == ()
    hold = found["hold.pump"].expect[0]
    assert hold.low == 30.0 and hold.high is None
    assert hold.finds_l_per_h == pytest.approx(0.6)  # 0.3 L in half an hour
    out = next(one for one in found["pump.pump"].expect if one.quantity == "cut_out.pump")
    assert out.low == pytest.approx(2.16) and out.high == pytest.approx(2.64)
    assert found["flow.tap"].expect[0].likely == pytest.approx(6.0)
    assert found["sanitise"].dose_ml == pytest.approx(
        1000 * (0.05 + sum(one.litres_m3 or 0.0 for one in sections)))  # fmt: skip


def test_what_cannot_be_computed_says_so():
    system = System.model_validate(BUILT)
    stages = stages_of(system, sections_of(system, computed(system), {}), Computed())
    assert {stage.id: stage.not_computed for stage in stages if stage.kind in ("pump", "hold")} == {
        "pump.pump": "pump", "hold.pump": "kept"}  # fmt: skip


@pytest.mark.parametrize("name", layouts())
def test_every_starting_layout_can_be_planned(name):
    project = layouts()[name].project()
    variant = project.variants[0]
    plan = planned(project, variant)
    ids = {one.task.id for one in plan.tasks}
    for each in variant.system.parts:
        if each.kind not in LOOSE:
            assert any(f"{row}.{each.id}" in ids for row in ("mount", "fit", "mains", "flue")), each
    gas = {one.task.id for one in plan.tasks if one.task.trade == "gas" and one.task.row == "gas"}
    assert all(by_id(plan)[key].task.who == "licensed" for key in gas)
    for stage in plan.stages:
        assert len(stage.opens) <= 1 or stage.kind == "drain_down"
        assert all(earlier in {one.id for one in plan.stages} for earlier in stage.after)


@pytest.mark.parametrize("make", [folio, curlew, drover])
def test_a_phase_is_part_of_the_whole(make):
    project = make()
    variant = project.variants[0]
    for phase in variant.system.phases:
        plan = planned(project, variant, phase=phase.id)
        assert all(one.task.phase == phase.id for one in plan.tasks)
        inside = {one.task.id for one in plan.tasks}
        assert all(one.task.after <= inside for one in plan.tasks)


def test_mains_ends_at_batteries_and_chargers():
    system = System.model_validate(doc(
        part("hook", "hook_up"), part("breaker", "circuit"), part("charger", "charger"),
        part("battery", "battery"), part("fuse", "circuit"), part("pump", "pump"),
        cable("hook.load", "breaker.feed"), cable("breaker.load", "charger.feed"),
        cable("charger.load", "battery.power"), cable("battery.power", "fuse.feed"),
        cable("fuse.load", "pump.power"),
    ))  # fmt: skip
    assert on_mains(system) == {"hook", "breaker", "charger"}
    tasks = {task.id: task for task in tasks_of(system, (), ())}
    assert tasks["mains.breaker"].who == "licensed" and tasks["mount.fuse"].who == "builder"
    assert tasks["pull.hook-breaker"].who == "licensed"
    assert tasks["pull.charger-battery"].who == "builder"
    assert isinstance(tasks["mount.pump"], Task)


def test_the_command_gives_every_key_and_refuses_strange_words(tmp_path):
    path = tmp_path / "folio.isotherma.json"
    path.write_bytes(write_project(folio()))
    done = RUN.invoke(app, ["plan", str(path), "--json"])
    made_object = json.loads(done.stdout)
    assert made_object["format"] == "isotherma-plan-1" and made_object["state"] == "pitch"
    assert set(made_object["tasks"][0]) == {
        "id", "phase", "trade", "who", "title", "about", "space", "minutes", "tools",
        "consumables", "cautions", "before_closing", "after", "critical", "start_min"}  # fmt: skip
    assert set(made_object["stages"][0]) == {
        "id", "kind", "who", "title", "part", "opens", "shuts", "runs", "parts", "litres",
        "minutes", "purge_at", "air_at", "look_at", "dose_ml", "expect", "on_miss", "after",
        "not_computed"}  # fmt: skip
    hold = next(one for one in made_object["stages"] if one["id"] == "hold.pump")
    assert hold["expect"][0]["finds_l_per_h"] > 0.0
    assert "for one builder" in RUN.invoke(app, ["plan", str(path)]).output
    for words, says in ((["--phase", "never"], "no phase"), (["--state", "x"], "no state")):
        refused = RUN.invoke(app, ["plan", str(path), *words])
        assert refused.exit_code == 2 and says in refused.output


def test_air_gathers_where_nothing_rises_and_leaves_by_what_stands_over_it():
    system = System.model_validate(doc(
        part("tank", "fresh_tank", volume_m3=0.05), part("pump", "pump"), part("tee", "split"),
        part("high", "tap"), part("low", "tap"), part("hump", "filter"),
        pipe("tank.outlet", "pump.inlet", **TUBE), pipe("pump.outlet", "tee.inlet", **TUBE),
        pipe("tee.outlet", "hump.inlet", **TUBE), pipe("hump.outlet", "low.inlet", **TUBE),
        pipe("tee.branch", "high.inlet", **TUBE),
    ))  # fmt: skip
    section = next(one for one in sections_of(system, computed(system), {}) if "tee" in one.parts)
    parts = {one.id: one for one in system.parts}
    pipes = {run.id: run for run in system.pipes}
    heights = {("pump", "outlet"): 0.0, ("tee", "inlet"): 0.0, ("tee", "outlet"): 0.0,
               ("tee", "branch"): 0.0, ("high", "inlet"): 0.8, ("hump", "inlet"): 0.5,
               ("hump", "outlet"): 0.5, ("low", "inlet"): 0.2}  # fmt: skip
    air = air_of(section, pipes, parts, heights, said=True)
    assert (air.gathers, air.leaves_by, air.left) == (("hump",), ("high",), ())
    drooping = {**heights, ("high", "inlet"): 0.3}
    sunk = air_of(section, pipes, parts, drooping, said=True)
    assert sunk.left == ("hump",) and sunk.leaves_by == ("high",)
    flat = air_of(section, pipes, parts, dict.fromkeys(heights, 0.0), said=False)
    assert flat.leaves_by == ("low", "high") and flat.gathers == ()


def test_stages_expect_what_hangs_on_how_things_lie():
    """A suction with no outlet takes as long as its tank; five litres, drains, tenths, pairs."""
    more = [part("tray", "tray"), part("sender", "float_sender")]
    system = System.model_validate({**BUILT, "parts": [*BUILT["parts"], *more]})
    sections = sections_of(system, computed(system), {})
    stages = {one.id: one for one in stages_of(system, sections, Computed(
        fills_s={"tank": 600.0}, trays={"tray": (90.0, 0.004)}, stays_m3=2e-4,
        drains=("tap", "out"), drained_m3={"out": 3.1e-3}, rests_pa={"pump": (2.1e5, 2.4e5, 2.6e5)},
        levels={"sender": ((0.005, 8.0, 12.0),)},
        pairs={("head", "tap"): {"head": (3e-5, 5e-5, 6e-5), "tap": (1e-5, 2e-5, 3e-5)}},
    ))}  # fmt: skip
    assert stages["fill.tank"].minutes == 10.0
    assert stages["waste.tray"].minutes == 1.5 and stages["waste.tray"].stands_m == 0.004
    drained = stages["drain_down"]
    assert drained.opens == ("tap", "out") and drained.stays_m3 == 2e-4
    (litres,) = drained.expect
    assert (litres.quantity, litres.unit) == ("litres.out", "L")
    assert litres.low == pytest.approx(2.48) and litres.high == pytest.approx(3.72)
    (level,) = stages["gauge.sender"].expect
    assert (level.low, level.likely, level.high, level.at_m3) == (8.0, 10.0, 12.0, 0.005)
    both = stages["flow.head.tap"]
    assert both.opens == ("head", "tap")
    assert [one.likely for one in both.expect] == pytest.approx([3.0, 1.2])
    rests = stages["hold_pressure.pump"]
    assert rests.after == ("hold.pump",) and rests.watch_min == 30.0
    assert rests.expect[0].low == pytest.approx(2.1)
    nothing = {one.id: one for one in stages_of(system, sections, Computed())}
    flat = stages_of(system, sections, Computed(flows={"tap": (8e-5, 1e-4, 1.1e-4)}))
    assert flat[2].not_computed == "heights" and flat[2].purge_at == ("tap",)
    assert nothing["waste.tray"].not_computed == "tray"
    assert nothing["gauge.sender"].not_computed == "gauge"
    assert "hold_pressure.pump" not in nothing  # its air is not known
