"""The state of the day is chosen once, on any page, and everything follows it."""

from __future__ import annotations

import json

import pytest
from fastapi.testclient import TestClient

from isotherma.catalogue.demo import curlew, folio
from isotherma.core.brief import Draw
from isotherma.core.cache import Caches
from isotherma.core.project import Project
from isotherma.core.results.outcome import Outcome
from isotherma.services.computing import ResultService, stands_key
from isotherma.services.runs import compute
from tests.web.test_pages import HTMX, fields_of, soup, text

PAGES = ("brief", "layout", "parts", "spaces", "flow", "shower")


@pytest.fixture
def library(client):
    made = folio()
    number = client.app.state.services.vehicles.create(made, "x")
    return f"/vehicles/{number}/{made.variants[0].id}"


def stand(client, path, state, page="shower"):
    return client.post(f"{path}/state/day", headers=HTMX, data={"state": state, "_page": page})


def chosen(answer):
    box = soup(answer).find(id="day-state")
    return next(option["value"] for option in box.find_all("option") if option.has_attr("selected"))


def test_it_is_chosen_on_every_page_and_kept(client, library):
    for page in PAGES:
        assert chosen(client.get(f"{library}/{page}")) == "pitch"
    assert stand(client, library, "hook-up").status_code == 200
    for page in PAGES:
        assert chosen(client.get(f"{library}/{page}")) == "hook-up"


def test_the_figures_follow(client, library):
    before = text(soup(client.get(f"{library}/shower")).find(id="verdict"))
    cells = text(soup(client.get(f"{library}/shower")).select_one(".strip"))
    after = stand(client, library, "hook-up")
    assert text(soup(after).select_one(".strip")) != cells
    back = stand(client, library, "pitch")
    assert text(soup(back).find(id="verdict")) == before


def test_it_can_be_undone(client, library):
    answer = stand(client, library, "driving")
    button = soup(answer).select_one("#undo button")
    assert button["title"] == "State of the day"
    head = soup(answer).find(id="design")["data-head"]
    undone = client.post(f"{library}/undo", headers=HTMX, data={"_base": head, "_page": "flow"})
    assert chosen(undone) == "pitch"


def test_a_state_that_is_not_there_is_refused_or_counts_as_the_first(client, library):
    gone = stand(client, library, "gone-away")
    assert gone.status_code in (200, 422)
    assert chosen(client.get(f"{library}/brief")) == "pitch"
    assert stand(client, library, "Not a slug!").status_code == 422
    assert chosen(client.get(f"{library}/brief")) == "pitch"


def test_flow_and_layout_begin_in_it(client, library):
    stand(client, library, "driving")
    page = soup(client.get(f"{library}/flow"))
    box = page.find(id="flow-state")
    assert box.find("option", selected=True)["value"] == "driving"
    other = soup(client.get(f"{library}/flow?state=pitch"))
    assert other.find(id="flow-state").find("option", selected=True)["value"] == "pitch"


def test_one_state_needs_no_choice(client):
    made = curlew()
    single = [
        variant for variant in made.variants if len(variant.system.states) < 2
    ]  # fmt: skip
    system = made.variants[0].system.model_copy(update={"states": ()})
    bare = made.variants[0].model_copy(update={"system": system})
    assert single or bare.standing is None
    number = client.app.state.services.vehicles.create(
        made.model_copy(update={"variants": (bare,)}), "x"
    )
    assert soup(client.get(f"/vehicles/{number}/{bare.id}/brief")).find(id="day-state") is None


# --- what is computed ---


def outcome_of(project, variant, state=None):
    found = compute(project, variant, state=state)
    assert isinstance(found, Outcome)
    return found


def standing_id(thing):
    assert thing.standing is not None
    return thing.standing.id


def on(project, state):
    variant = project.variants[0].model_copy(update={"state": state})
    return project.model_copy(update={"variants": (variant,)}), variant


def test_a_day_runs_in_its_state_and_draws_inherit_it():
    project, variant = on(folio(), "hook-up")
    outcome = outcome_of(project, variant)
    assert standing_id(outcome.setup) == "hook-up"
    told = outcome_of(project, variant, state=variant.system.states[0])
    assert standing_id(told.setup) == "pitch"
    assert outcome.ledger != told.ledger


def test_a_draw_with_a_state_of_its_own_keeps_it():
    project, variant = on(folio(), "hook-up")
    draws = list(project.brief.draws)
    draws[0] = Draw.model_validate({**draws[0].model_dump(), "state": "driving"})
    asked = project.brief.model_copy(update={"draws": tuple(draws)})
    outcome = outcome_of(project.model_copy(update={"brief": asked}), variant)
    assert standing_id(outcome.setup) == "hook-up"
    assert outcome.draws[0].draw.state == "driving" and outcome.draws[1].draw.state is None


def test_what_is_kept_hangs_on_the_state():
    computing = ResultService(Caches(10**8))
    project, here = on(folio(), "pitch")
    _, there = on(folio(), "hook-up")
    _, unsaid = on(folio(), None)
    assert stands_key(project, here) != stands_key(project, there)
    assert stands_key(project, here) == stands_key(project, unsaid)  # the first is meant
    first = computing.result(project, here)
    assert computing.peek(project, there) is None
    assert computing.result(project, unsaid) is first


def test_a_removed_state_leaves_the_first(client, library):
    stand(client, library, "driving")
    answer = client.post(f"{library}/piece/remove", headers=HTMX, data={
        "group": "states", "piece": "driving", "_page": "spaces",
    })  # fmt: skip
    assert answer.status_code == 200
    assert chosen(answer) == "pitch"


def test_the_file_has_it(client, library):
    stand(client, library, "hook-up")
    number = library.split("/")[2]
    data = json.loads(client.get(f"/vehicles/{number}/export").content)
    assert data["variants"][0]["state"] == "hook-up"
    kept = {key: value for key, value in data.items() if not key.startswith("format")}
    assert standing_id(Project.model_validate(kept).variants[0]) == "hook-up"


# --- how sure, how far ---


def test_work_that_nobody_does_says_how_to_start_a_worker(client, library):
    page = soup(client.get(f"{library}/certainty"))
    box = page.select_one(".under-way")
    assert "bin/isotherma work" in text(box) and box.has_attr("data-under-way")
    assert page.find("button", string=lambda words: words and "Cancel" in words)
    again = soup(client.get(f"{library}/certainty"))
    one, other = (item.select_one(".under-way input[name=job]")["value"] for item in (page, again))
    assert one == other  # asked twice, it waits once


def test_work_is_cancelled_by_who_asked_for_it_and_begun_again(client, library):
    page = soup(client.get(f"{library}/certainty"))
    form = fields_of(page.select_one(".under-way form"))
    someone = TestClient(client.app, follow_redirects=False)
    assert someone.post("/work/cancel", data=form).status_code == 404
    done = client.post("/work/cancel", data=form, headers=HTMX)
    assert "Stopped." in done.text and "data-under-way" not in done.text
    still = client.get(f"{library}/certainty", headers=HTMX)
    assert "Stopped." in still.text
    link = soup(still).find("a", string="Begin again")["href"]
    assert "data-under-way" in client.get(link, headers=HTMX).text
    assert client.post("/work/cancel", data={**form, "part": "<b>"}).status_code == 422
    assert client.post("/work/cancel", data={"job": "x"}).status_code == 422


def test_heat_damp_and_frost_stand_on_the_page(client, library):
    page = soup(client.get(f"{library}/shower"))
    words = text(page.find(id="heat"))
    for said in ("hottest water in the store", "Mains element", "at least", "Of full power",
                 "Vapour", "A fan clears it in", "below freezing"):  # fmt: skip
        assert said in words
    cards = text(page.select_one(".cards"))
    assert "mean at the chest" in cards and "mean at the tray" in cards
    client.cookies.set("units", "us")
    assert "°F" in text(soup(client.get(f"{library}/shower")).find(id="heat"))
