"""How far it is built is chosen once, on any page; figures and drawing follow, nothing is lost."""

from __future__ import annotations

import pytest

from isotherma.catalogue.layouts import layouts
from isotherma.core.results.outcome import Outcome
from isotherma.core.simulate import simulate
from isotherma.core.system.configuration import fitted_by
from isotherma.services.computing import stands_key
from isotherma.services.runs import compute
from tests.web.test_pages import HTMX, act, soup, text

PAGES = ("brief", "layout", "parts", "spaces", "flow", "power", "shower", "budgets")


@pytest.fixture
def seat(client):
    made = layouts()["seat-store"].project()
    number = client.app.state.services.vehicles.create(made, "x")
    return f"/vehicles/{number}/{made.variants[0].id}"


def build(client, path, phase, page="shower"):
    return client.post(f"{path}/phase/day", headers=HTMX, data={"phase": phase, "_page": page})


def parts_of(client, path):
    number, variant = int(path.split("/")[2]), path.split("/")[3]
    opened = client.app.state.services.vehicles.open(number)
    return len(opened.project.variant(variant).system.parts)


def test_it_is_chosen_on_every_page_and_kept(client, seat):
    assert build(client, seat, "first").status_code == 200
    for page in PAGES:
        answer = client.get(f"{seat}/{page}")
        assert answer.status_code == 200
        box = soup(answer).find(id="day-phase")
        [chosen] = [option for option in box.find_all("option") if option.has_attr("selected")]
        assert chosen["value"] == "first" and text(chosen) == "First trip"


def test_drawing_and_verdict_follow_and_nothing_is_lost(client, seat):
    count = parts_of(client, seat)
    whole = client.get(f"{seat}/layout")
    assert "Bucket pump" in whole.text.split("route-wide")[1].split("</svg>")[0]
    answer = build(client, seat, "first", "layout")
    assert "Bucket pump" not in answer.text.split("route-wide")[1].split("</svg>")[0]
    assert text(soup(answer).find(id="verdict")).startswith("Built as far as “First trip”: ")
    # what is later is still there to be edited, and an edit leaves it there
    assert "Bucket pump" in client.get(f"{seat}/parts").text
    act(client, seat, "state.position", state="bucket", part="join", at="first", _page="spaces")
    assert parts_of(client, seat) == count
    back = build(client, seat, "", "layout")
    assert not text(soup(back).find(id="verdict")).startswith("Built")


def test_a_phase_that_is_gone_is_refused(client, seat):
    answer = build(client, seat, "someday")
    assert answer.status_code == 422
    assert "no such phase" in answer.text


def test_it_can_be_undone(client, seat):
    answer = build(client, seat, "first")
    assert soup(answer).select_one("#undo button")["title"] == "Built as far as"


def test_what_is_computed_is_what_is_fitted():
    project = layouts()["seat-store"].project()
    variant = project.variants[0].model_copy(update={"phase": "first"})
    there = {part.id for part in variant.built.system.parts}
    assert "dip" not in there and "pump" in there and "join" in there
    assert variant.built.built is variant.built
    assert stands_key(project, variant) == stands_key(project, variant.built)
    assert stands_key(project, variant) != stands_key(project, project.variants[0])
    found = compute(project, variant)
    assert isinstance(found, Outcome)
    alone = simulate(
        project.brief, fitted_by(variant.system, "first"), found.setup.climate,
        state=variant.standing,
    )  # fmt: skip
    assert [draw.mean_c for draw in found.draws] == [draw.mean_c for draw in alone.draws]
    renamed = variant.model_copy(update={"phase": None})
    assert renamed.built is renamed  # a copy works its own out


def test_a_cap_of_the_phase_is_drawn_and_is_no_piece_to_edit(client):
    made = layouts()["open-sun-box"].project()
    number = client.app.state.services.vehicles.create(made, "x")
    path = f"/vehicles/{number}/open-sun-box"
    build(client, path, "first", "layout")
    variant = client.app.state.services.vehicles.open(number).project.variants[0]
    caps = [part.id for part in variant.built.system.parts if part.id.startswith("cap-")]
    assert caps
    page = client.get(f"{path}/layout?piece=part-{caps[0]}")
    assert page.status_code == 200
    assert soup(page).select_one(".chosen-piece") is None


def test_a_variant_that_is_gone_is_told(client, seat):
    gone = seat.rsplit("/", 1)[0] + "/[]"
    assert build(client, gone, "first").status_code in (404, 422)
