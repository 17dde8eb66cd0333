"""Faults: what is seen and read is kept, suspects and tests shown, one change at a time."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import curlew, drover
from isotherma.catalogue.fault_table import fault_table
from isotherma.core import editing
from isotherma.core.faults.evidence import Evidence
from isotherma.core.faults.readings import Reading
from isotherma.core.system import System
from isotherma.services.guess_edits import counted
from tests.web.test_pages import soup, text

HTMX = {"HX-Request": "true"}


@pytest.fixture
def box(client) -> str:
    number = client.app.state.services.vehicles.create(drover(), "Demo vehicle")
    return f"/vehicles/{number}/ten-litres"


def look(client, path, **asked):
    return soup(client.get(f"{path}/faults", params={"now": "1", **asked}))


def say(client, path, key, says="seen"):
    return client.post(f"{path}/faults/symptom", data={"key": key, "says": says}, headers=HTMX)


def read(client, path, quantity, value, **more):
    data = {"quantity": quantity, "value": value, **more}
    return client.post(f"{path}/faults/reading", data=data, headers=HTMX)


def tell(client, path, test, outcome, **more):
    return client.post(f"{path}/faults/test",
                       data={"test": test, "outcome": outcome, **more}, headers=HTMX)  # fmt: skip


def suspects(page):
    return [text(one) for one in page.select("#suspects-title ~ .fault-list .fault-name")]


def test_before_anything_is_said_it_asks_what_is_seen(client, box):
    page = look(client, box)
    assert len(page.select("#symptoms li")) == len(fault_table().symptoms)
    assert suspects(page) == []
    assert page.select_one('a[href$="/faults/practice"]')


def test_a_search_narrows_what_people_see(client, box):
    rows = [text(one) for one in look(client, box, find="pump loud").select("#symptoms li")]
    assert len(rows) == 1 and "louder" in rows[0]
    nothing = look(client, box, find="zzzz")
    assert "Nothing is called that" in text(nothing.select_one("#symptoms"))


def test_what_is_seen_stays_and_names_suspects(client, box):
    answer = soup(say(client, box, "flow_low"))
    assert "Less comes than before" in text(answer.select_one(".fault-said"))
    assert answer.select_one('[aria-busy="true"]')  # suspects come by themselves
    page = look(client, box)
    assert len(suspects(page)) >= 3
    assert any("%" in words for words in suspects(page))
    assert page.select("#fault-next-title ~ .fault-list li")
    again = soup(say(client, box, "flow_low", "nothing"))
    assert again.select(".fault-said") == []


def test_what_is_denied_counts_against(client, box):
    say(client, box, "no_hot")
    before = suspects(look(client, box))
    say(client, box, "cutout_trips", "denied")
    assert suspects(look(client, box)) != before
    assert "not so:" in text(look(client, box).select_one(".fault-said"))


def test_a_reading_is_judged_beside_what_a_sound_one_gives(client, box):
    answer = read(client, box, "flow.head", "2.1")
    assert answer.status_code == 200
    page = look(client, box)
    words = " ".join(text(one) for one in page.select("#read-title ~ .said"))
    assert "2.1 L/min" in words and "a sound system gives" in words
    read(client, box, "flow.head", "2.4")  # the last one counts
    assert len(look(client, box).select(".fault-said li")) == 1


def test_us_units_are_typed_and_shown(client, box):
    client.cookies.set("units", "us")
    read(client, box, "flow.head", "0.5")
    assert "0.5 gal/min" in text(look(client, box).select_one(".fault-said"))
    client.cookies.set("units", "metric")
    assert "1.89 L/min" in text(look(client, box).select_one(".fault-said"))


@pytest.mark.parametrize(
    ("quantity", "value", "words"),
    [
        ("flow.head", "", "Type for example"),
        ("flow.head", "quick", "Type for example"),
        ("flow.head", "-3", "below nothing"),
        ("flow.nowhere", "3", "There is no part"),
        ("flwo.head", "3", "There is no quantity"),
        ("heat_up.store", "45", None),
        ("flow.head", "9" * 60, None),
    ],
)
def test_a_figure_that_cannot_be_is_said_and_kept(client, box, quantity, value, words):
    answer = read(client, box, quantity, value)
    page = soup(answer)
    if words is None:
        assert answer.status_code in (200, 422)
        return
    assert answer.status_code == 422
    assert words in text(page.select_one("#fault-error"))
    assert page.select_one("#fault-value")["value"] == value


def test_zero_is_a_reading(client, box):
    assert read(client, box, "flow.head", "0").status_code == 200
    page = look(client, box)
    assert "0 L/min" in text(page.select_one(".fault-said"))
    assert suspects(page)


def test_a_test_that_changes_something_wants_it_put_back_first(client, box):
    say(client, box, "flow_low")
    answer = soup(tell(client, box, "strainer_look", "dirty", part="strainer",
                       found="cup half full of grit", left="clean"))  # fmt: skip
    change = answer.select_one(".fault-change")
    assert "seal and cup back" in text(change) and "as found: cup half full of grit" in text(change)
    page = look(client, box)
    assert page.select("#fault-next-title") == []  # nothing else before that
    read(client, box, "flow.head", "3.9")
    assert "does not count" in text(look(client, box).select(".fault-said")[-1])
    refused = client.post(f"{box}/faults/change", data={"number": 0, "act": "keep"}, headers=HTMX)
    assert refused.status_code == 422 and "Say why it stays" in refused.text
    open_end = client.post(f"{box}/faults/end", data={"outcome": "dirt"}, headers=HTMX)
    assert open_end.status_code == 422 and "still stands changed" in open_end.text
    client.post(f"{box}/faults/change", data={"number": 0, "act": "back"}, headers=HTMX)
    after = look(client, box)
    assert after.select(".fault-change") == []
    assert "Strainer clogged" in suspects(after)[0]


def test_what_is_kept_changed_says_why(client, box):
    say(client, box, "flow_low")
    tell(client, box, "flow_no_head", "better", part="head")
    client.post(f"{box}/faults/change", headers=HTMX,
                data={"number": 0, "act": "keep", "because": "head is in vinegar"})  # fmt: skip
    kept = text(look(client, box).select_one(".fault-change"))
    assert "Kept changed" in kept and "head is in vinegar" in kept


def test_smell_of_gas_stops_everything(client, box):
    say(client, box, "no_hot")
    say(client, box, "gas_smell")
    page = look(client, box)
    assert "get everybody out" in text(page.select_one(".fault-stop"))
    assert page.select("#fault-next-title") == []


def test_what_licensed_people_test_is_referred_to_them(client, box):
    say(client, box, "breaker_trips")
    say(client, box, "trips_at_once")
    page = look(client, box)
    assert "licensed" in text(page.select_one(".fault-stop"))
    titles = [text(one) for one in page.select("#fault-next-title ~ .fault-list strong")]
    assert not any("licensed" in one for one in titles)


def test_an_ended_case_is_kept_and_the_next_begins_empty(client, box):
    say(client, box, "flow_low")
    client.post(f"{box}/faults/end", headers=HTMX,
                data={"outcome": "Strainer clogged", "note": "leaves ‹ß›"})  # fmt: skip
    page = look(client, box)
    assert page.select(".fault-said") == []
    assert "Strainer clogged: leaves ‹ß›" in text(page.select_one("#ended-title ~ ul"))


def test_taking_back_a_reading_and_a_test(client, box):
    read(client, box, "flow.head", "2")
    tell(client, box, "open_cap", "recovers", part="tank")
    for what in ("reading", "test"):
        client.post(f"{box}/faults/unsay", data={"what": what, "number": 0}, headers=HTMX)
    assert look(client, box).select(".fault-said") == []


@pytest.mark.parametrize(
    "data",
    [{"test": "nothing", "outcome": "x"}, {"test": "open_cap", "outcome": ""},
     {"test": "flow_bucket", "outcome": "4", "part": "head"},
     {"test": "open_cap", "outcome": "recovers", "part": "gone"}],
)  # fmt: skip
def test_a_test_that_is_none_is_refused(client, box, data):
    answer = client.post(f"{box}/faults/test", data=data, headers=HTMX)
    assert answer.status_code == 422
    assert soup(answer).select_one("#fault-error")


def test_a_part_that_went_leaves_its_reading_out(client, box):
    service = client.app.state.services.fault_cases
    number = int(box.split("/")[2])
    from isotherma.services.fault_cases import SaidReading

    service.change(number, "ten-litres", lambda case: case.readings.append(
        SaidReading(kind="flow", part="long-gone", value=3.0)))  # fmt: skip
    assert client.get(f"{box}/faults", params={"now": "1"}).status_code == 200


def test_without_scripts_a_form_leads_back_to_the_page(client, box):
    answer = client.post(f"{box}/faults/symptom", data={"key": "no_hot", "says": "seen"})
    assert answer.status_code == 303
    assert suspects(soup(client.get(answer.headers["location"])))


def test_an_empty_design_says_where_to_begin(client):
    from isotherma.core.brief import Brief
    from isotherma.core.project import Project, Variant
    from isotherma.core.system import System

    bare = Project(name="Bare", brief=Brief(), variants=(
        Variant(id="first", name="First", system=System()),))  # fmt: skip
    number = client.app.state.services.vehicles.create(bare, "x")
    page = soup(client.get(f"/vehicles/{number}/first/faults"))
    assert "nearest to your vehicle" in text(page)


class TestPractice:
    def test_the_same_number_is_the_same_fault(self, client, box):
        pages = [client.get(f"{box}/faults/practice", params={"seed": "12"}) for _ in range(2)]
        first, second = (text(soup(page).select_one("#case-title").parent) for page in pages)
        assert first == second
        other = client.get(f"{box}/faults/practice", params={"seed": "13"})
        assert text(soup(other).select_one("#case-title").parent) != first

    def test_tests_answer_and_cost_until_the_fault_is_named(self, client, box):
        page = soup(client.get(f"{box}/faults/practice", params={"seed": "5"}))
        link = page.select_one("#try-title ~ ul a")["href"]
        after = soup(client.get(link))
        assert "Spent:" in text(after)
        assert len(after.select("#try-title ~ ul li")) == len(
            page.select("#try-title ~ ul li")) - 1  # fmt: skip
        option = after.select_one("#named option")["value"]
        path = link.split("?")[1]
        ended = soup(client.get(f"{box}/faults/practice?{path}&named={option}"))
        said = text(ended.select_one("#case-title").parent)
        assert "it was" in said and "Our order from the same start" in said
        assert ended.select("#try-title") == []

    def test_the_mean_of_many_draws_is_told_when_asked(self, client, box, monkeypatch):
        monkeypatch.setattr("isotherma.services.practising.DRAWS", 3)
        page = client.get(f"{box}/faults/practice", params={
            "seed": "5", "named": "strainer_clogged", "mean": "1"})  # fmt: skip
        assert "on the mean of 200 draws" in page.text

    def test_the_vehicle_stays_as_it_is(self, client, box):
        services, number = client.app.state.services, int(box.split("/")[2])
        before = services.vehicles.open(number)
        client.get(f"{box}/faults/practice", params={"seed": "3", "did": "open_cap@tank"})
        assert services.vehicles.open(number).head_id == before.head_id
        assert services.fault_cases.case(number, "ten-litres").tried == []

    @pytest.mark.parametrize(
        "query",
        [
            "seed=abc",
            "seed=99999999",
            "seed=-1",
            "did=nothing@x",
            "named=nonsense",
            "seed=1&did=open_cap@tank&did=open_cap@tank",
        ],
    )
    def test_strange_addresses_show_an_exercise(self, client, box, query):
        assert client.get(f"{box}/faults/practice?{query}").status_code == 200


def test_another_vehicle_has_its_own_case(client, box):
    say(client, box, "flow_low")
    number = client.app.state.services.vehicles.create(curlew(), "Other")
    path = f"/vehicles/{number}/{curlew().variants[0].id}"
    assert look(client, path).select(".fault-said") == []


def test_a_fault_on_one_of_many_runs_is_one_line_with_their_sum(client, box):
    """A pipe that froze or leaks may be any: the page gives it one name, and what it sums to."""
    say(client, box, "water_at_joint")
    page = look(client, box)
    listed = [text(one) for one in page.select(".fault-name strong")]
    somewhere = [words for words in listed if "on one of" in words]
    assert somewhere and len(listed) <= 5
    assert len(set(listed)) == len(listed)
    shares = [int(text(one).removesuffix("%").strip()) for one in page.select(".fault-share")]
    assert shares == sorted(shares, reverse=True) and sum(shares) <= 101


def test_twins_are_named_beside_each_other(client, box):
    say(client, box, "no_hot")
    page = look(client, box)
    assert "No test of yours tells it from: Element" in text(page)


def test_a_vehicle_nobody_drew_is_a_guess_and_readings_wait_for_figures(client):
    services = client.app.state.services
    project = drover()
    bare = project.variants[0].model_copy(update={"system": System(), "state": None})
    number = services.vehicles.create(project.model_copy(update={"variants": (bare,)}), "x")
    path = f"/vehicles/{number}/ten-litres"
    page = look(client, path)
    form = page.select_one("form[action$='/system/guess']")
    assert form.select_one("option[value=two-tank-storage]") is not None
    answer = client.post(form["action"], data={"layout": "two-tank-storage", "_page": "faults"})
    assert answer.status_code in (200, 303)
    say(client, path, "flow_low")
    before = suspects(look(client, path))
    assert "stands for a vehicle nobody drew" in text(look(client, path))
    data = {"quantity": "flow.head", "value": "9"}
    client.post(f"{path}/faults/reading", data=data)
    assert suspects(look(client, path)) == before  # held against nothing but a guess
    opened = services.vehicles.open(number).project
    where = "variants.ten-litres.system.parts.head.flow_factor_si"
    mine = editing.set_values(opened, {where: 5e-7})
    assert counted(mine.variants[0], Evidence(readings=(Reading("flow", "head", 9.0),))).readings
    client.post(f"{path}/system/known", data={"_page": "faults"})
    after = look(client, path)
    assert "nobody drew" not in text(after) and suspects(after) != before
