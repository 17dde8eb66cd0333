"""Building: tasks ticked and kept, one at a time, stages, licensed work."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.system import System
from tests.web.test_pages import soup, text


@pytest.fixture
def library(client) -> str:
    number = client.app.state.services.vehicles.create(folio(), "Demo vehicle")
    return f"/vehicles/{number}/button"


def view(client, path, **asked):
    return soup(client.get(f"{path}/build", params=asked))


def tick(client, path, task, state="done", **more):
    return client.post(
        f"{path}/build/tick", data={"task": task, "state": state, **more},
        headers={"HX-Request": "true"},
    )  # fmt: skip


def test_the_next_task_stands_first_and_the_rest_by_day(client, library):
    page = view(client, library)
    assert text(page.select_one("#tasks-title")).startswith("0 of ")
    first = page.select_one("#now-title")
    assert first is not None and "Drill for" in text(first)
    days = [text(one) for one in page.select(".task-day summary")]
    assert days[0].startswith("Day 1") and len(days) > 3
    assert len(page.select(".task-day[open]")) == 1
    assert "Look behind and below before you drill" in text(page.select_one(".task-now"))


def test_a_task_is_done_with_a_note_and_the_next_comes(client, library):
    page = view(client, library)
    task = page.select_one(".task-now input[name=task]")["value"]
    after = soup(tick(client, library, task, note="  looked   twice ", by="Ruth",
                      as_found="precharge 0.9 bar", as_left="1.5  bar"))  # fmt: skip
    assert text(after.select_one("#tasks-title")).startswith("1 of ")
    row = after.select_one(f'[id="task-{task}"]')
    assert "done," in text(row) and "Ruth: looked twice" in text(row)
    assert "found: precharge 0.9 bar; left: 1.5 bar" in text(row)
    assert after.select_one(".task-now input[name=task]")["value"] != task
    alone = view(client, library, task=task)
    assert "Open again" in text(alone.select_one(".task-now"))
    client.post(f"{library}/build/open", data={"task": task})
    assert text(view(client, library).select_one("#tasks-title")).startswith("0 of ")


def test_what_was_ticked_outlives_an_edit_and_says_that_it_was_before(client, library):
    tick(client, library, "mount.pump")
    tick(client, library, "mount.strainer", state="left out")
    client.post(f"{library}/end/set", data={"part": "pump", "port": "inlet", "end": "run"})
    page = view(client, library)
    assert "before a change" in text(page.select_one('[id="task-mount.pump"]'))
    assert "before a change" not in text(page.select_one('[id="task-mount.strainer"]'))
    assert "left out" in text(page.select_one('[id="task-mount.strainer"]'))
    client.post(f"{library}/part/remove", data={"part": "kitchen"})
    tick(client, library, "mount.tank")
    assert text(view(client, library).select_one("#tasks-title")).startswith("2 of ")


def test_a_task_that_waits_says_for_what_and_one_left_out_keeps_it_waiting(client, library):
    page = view(client, library, task="lay.strainer-pump")
    assert "Waits for" in text(page.select_one(".task-now"))
    assert "Mount Pressure pump" in text(page.select_one(".task-now"))
    tick(client, library, "mount.pump", state="left out")
    tick(client, library, "mount.strainer")
    waits = text(view(client, library, task="lay.strainer-pump").select_one(".task-now"))
    assert "Mount Pressure pump" in waits and "Mount Strainer" not in waits


def test_a_task_that_is_gone_or_strange_is_refused(client, library):
    gone = tick(client, library, "mount.castle")
    assert gone.status_code == 422 and "not in the plan any more" in text(soup(gone))
    assert tick(client, library, "castle").status_code == 422
    assert tick(client, library, "mount.pump", state="perhaps").status_code == 422


def test_stages_open_one_valve_and_say_what_to_expect(client, library):
    page = view(client, library, view="stages")
    rows = {one["id"]: text(one) for one in page.select(".stage-list > li")}
    assert "Takes" in rows["stage-fill.pump"] and "Air leaves at" in rows["stage-fill.pump"]
    assert "run-on, Pressure pump, 12 V: 5.97 s to 9.33 s" in rows["stage-pump.pump"]
    assert "mL an hour and more" in rows["stage-hold.pump"]
    assert "flow, Hand set: 4.1 L/min to 6.91 L/min" in rows["stage-flow.head"]
    assert "from cold to its setting" in rows["stage-heat_electric.back-up"]
    assert "wait" in rows["stage-mix.mixer"]
    client.cookies.set("units", "us")
    us = {one["id"]: text(one) for one in view(client, library, view="stages").select("li")
          if one.get("id")}  # fmt: skip
    assert "gal" in us["stage-fill.pump"]


def test_licensed_work_is_grouped_into_visits(client, library):
    page = view(client, library, view="visits")
    heads = [text(one) for one in page.select("h3")]
    assert "Mains, visit 1" in heads and "Flue, visit 1" in heads
    assert "local rules decide" in text(page)


def test_a_phase_is_planned_alone(client, library):
    page = view(client, library, phase="second")
    every = len(view(client, library).select(".task-row"))
    assert 0 < len(page.select(".task-row")) < every
    assert page.select_one("#build-phase option[selected]")["value"] == "second"


def test_a_circle_is_said_and_an_empty_design_leads_on(client):
    project = layouts()["gas-combi"].project()
    variant = project.variants[0]
    parts = [part.model_dump() for part in variant.system.parts]
    first, second = [one["id"] for one in parts if one["fitted_in"] is None][:2]
    for one in parts:
        if one["id"] in (first, second):
            one["behind"] = second if one["id"] == first else first
    data = {**variant.system.model_dump(), "parts": parts}
    services = client.app.state.services
    for system, words in ((System.model_validate(data), "in a circle"), (System(), "laid out yet")):
        made = project.model_copy(
            update={"variants": (variant.model_copy(update={"system": system}),)}
        )
        path = f"/vehicles/{services.vehicles.create(made, 'x')}/{variant.id}"
        assert words in text(view(client, path))


def stage_read(client, path, stage, quantity, value):
    data = {"stage": stage, "quantity": quantity, "value": value}
    headers = {"HX-Request": "true", "HX-Current-URL": f"http://testserver{path}/build?view=stages"}
    return client.post(f"{path}/build/stage", data=data, headers=headers)


def row_of(client, path, stage):
    return next(one for one in view(client, path, view="stages").select(".stage-list > li")
                if one["id"] == f"stage-{stage}")  # fmt: skip


def test_what_is_read_in_a_stage_is_judged_and_a_miss_says_what_it_may_be(client, library):
    assert stage_read(client, library, "flow.head", "flow.head", "5.5").status_code == 200
    assert "Read: 5.5 L/min, as it should be" in text(row_of(client, library, "flow.head"))
    assert "It may be" not in text(row_of(client, library, "flow.head"))
    stage_read(client, library, "flow.head", "flow.head", "1.2")
    row = row_of(client, library, "flow.head")
    assert "Read: 1.2 L/min, off" in text(row)
    assert "It may be:" in text(row) and "%" in text(row) and "Next:" in text(row)
    follow = row.select_one("form.inline")
    data = {one["name"]: one["value"] for one in follow.select("input")}
    client.post(follow["action"], data=data)
    case = client.app.state.services.fault_cases.case(int(library.split("/")[2]), "button")
    assert case.readings[0].value == pytest.approx(1.2, rel=0.01)


def test_half_an_hour_without_a_kick_passes(client, library):
    stage_read(client, library, "hold.pump", "kick_every.pump", "45")
    assert "as it should be" in text(row_of(client, library, "hold.pump"))
    stage_read(client, library, "hold.pump", "kick_every.pump", "4")
    assert "off" in text(row_of(client, library, "hold.pump"))


@pytest.mark.parametrize("value", ["", "fast", "5 bar"])
def test_a_figure_of_a_stage_that_is_none_is_said(client, library, value):
    answer = stage_read(client, library, "flow.head", "flow.head", value)
    assert answer.status_code == 422
    assert "Type for example" in text(soup(answer).select_one(".error"))


def test_stages_speak_us_units(client, library):
    client.cookies.set("units", "us")
    assert "gal/min" in text(row_of(client, library, "flow.head"))
    stage_read(client, library, "flow.head", "flow.head", "1")
    client.cookies.set("units", "metric")
    assert "Read: 3.79 L/min" in text(row_of(client, library, "flow.head"))


def test_a_test_that_was_not_read_passes_by_hand_only_with_a_reason_and_a_name(client, library):
    pump = "test.pump.pump"
    for more in ({}, {"note": "heard it stop"}, {"by": "Ruth"}):
        answer = client.post(f"{library}/build/tick", data={"task": pump, "state": "done", **more})
        assert answer.status_code == 422
        page = soup(answer)
        assert "say why" in text(page.select_one("[role=alert]"))
        for name, typed in more.items():
            assert page.select_one(f"#now-{name}-test\\.pump\\.pump")["value"] == typed
    more = {"note": "heard it stop", "by": "Ruth"}
    assert client.post(
        f"{library}/build/tick", data={"task": pump, "state": "done", **more}
    ).is_redirect
    kept = client.app.state.services.plan_keeping.ticked(int(library.split("/")[2]), "button")
    assert kept[pump].note == "heard it stop" and kept[pump].by == "Ruth"


def test_a_test_may_be_left_out_without_a_word(client, library):
    data = {"task": "test.pump.pump", "state": "left out"}
    assert client.post(f"{library}/build/tick", data=data).is_redirect


TIGHT = {"by": "Ida Berg", "number": "G-4471", "on": "2026-11-20", "method": "50 mbar, 10 min",
         "result": "no fall"}  # fmt: skip


def test_first_fire_waits_for_the_record_of_a_licensed_person(client):
    number = client.app.state.services.vehicles.create(drover(), "Demo vehicle")
    path = f"/vehicles/{number}/ten-litres"
    shut = tick(client, path, "test.first_fire.burner", note="lit", by="me")
    assert shut.status_code == 422 and "First fire stays shut" in text(soup(shut))
    for missing in ("by", "number", "method", "result"):
        told = tick(client, path, "test.gas_tightness", **{**TIGHT, missing: " "})
        assert told.status_code == 422 and "Say who tested it" in text(soup(told))
    kept = soup(told)  # what was typed is kept
    assert kept.select_one("#licence-number")["value"] == "G-4471"
    for day in ("", "yesterday", "2126-01-01"):
        assert tick(client, path, "test.gas_tightness", **{**TIGHT, "on": day}).status_code == 422
    done = tick(client, path, "test.gas_tightness", **TIGHT)
    assert done.status_code == 200
    row = text(soup(done).select_one('[id="task-test.gas_tightness"]'))
    assert "tested 2026-11-20 by Ida Berg, licence G-4471: 50 mbar, 10 min; no fall" in row
    assert tick(client, path, "test.first_fire.burner", note="lit", by="me").status_code == 200
    left = tick(client, path, "test.gas_tightness", state="left out")
    assert left.status_code == 200
    client.post(f"{path}/build/open", data={"task": "test.first_fire.burner"})
    assert tick(client, path, "test.first_fire.burner", note="x", by="y").status_code == 422


def test_what_is_covered_without_a_photograph_says_so(client):
    project = folio()
    kept = project.variant("button")
    parts = [part.model_copy(update={"reach": "behind another part"})
             if part.id == "store" else part for part in kept.system.parts]  # fmt: skip
    system = kept.system.model_copy(update={"parts": tuple(parts)})
    own = kept.model_copy(update={"system": system})
    project = project.model_copy(update={"variants": (own,)})
    number = client.app.state.services.vehicles.create(project, "Demo vehicle")
    library = f"/vehicles/{number}/button"
    page = view(client, library, task="mount.store")
    assert "Before it is covered" in text(page.select_one(".task-now"))
    done = soup(tick(client, library, "mount.store"))
    assert "no photograph" in text(done.select_one('[id="task-mount.store"]'))


def test_a_gauge_is_read_at_each_tenth_and_the_log_learns_from_it(client):
    project = folio()
    kept = project.variant("button")
    made = layouts()["two-tank-storage"].system
    own = kept.model_copy(update={"system": made, "state": None})
    project = project.model_copy(update={"variants": (own,)})
    number = client.app.state.services.vehicles.create(project, "Demo vehicle")
    library = f"/vehicles/{number}/button"
    page = view(client, library, view="stages")
    asked = [form for form in page.select(".stage-read")
             if form.select_one("[name=quantity]")["value"].startswith("level.")]  # fmt: skip
    assert len(asked) >= 11
    steps = [one.select_one("[name=step]")["value"] for one in asked[:11]]
    assert steps == [str(step) for step in range(11)]
    data = {one["name"]: one["value"] for one in asked[3].select("input[type=hidden]")}
    answer = client.post(f"{library}/build/stage", data={**data, "value": "31"})
    assert answer.status_code == 303
    rows = client.app.state.services.logbook.readings(number, "button")
    read = {one.row.quantity: (one.row.time_s, one.row.value) for one in rows}
    (gauge,) = [key for key in read if key.startswith("level.")]
    (tank,) = [key for key in read if key.startswith("litres.")]
    assert read[gauge] == (180.0, 31.0)
    assert read[tank] == (180.0, pytest.approx(float(data["metered"])))
    assert "Read:" in text(soup(client.get(f"{library}/build?view=stages")))
