"""The log: readings noted, imported, forgotten, held beside what is foretold, learned from."""

from __future__ import annotations

import json
from math import exp

import pytest

from isotherma.catalogue.demo import drover
from isotherma.catalogue.layouts import layouts
from isotherma.core.learning.rows import Row
from isotherma.files.readings_csv import HEADING
from isotherma.services.logbook import KEPT_MOST, thinned
from tests.web.test_pages import finished, soup, text

HTMX = {"HX-Request": "true"}


@pytest.fixture
def box(client) -> str:
    number = client.app.state.services.vehicles.create(drover(), "Demo vehicle")
    return f"/vehicles/{number}/ten-litres"


def note(client, path, quantity="flow.head", value="4", **more):
    data = {"quantity": quantity, "value": value, "session": "Sunday", **more}
    return client.post(f"{path}/log/note", data=data, headers=HTMX)


def send(client, path, body, name="log.csv"):
    return client.post(f"{path}/log/import", files={"file": (name, body, "text/csv")})


def view(client, path, shown="sessions", **asked):
    return soup(client.get(f"{path}/log", params={"view": shown, **asked}))


def table(*lines):
    return "\n".join([",".join(HEADING), *lines]).encode()


def night(loss_share=0.07):
    return table("n,cool_down,0,air,12,C,,,", *(
        f"n,cool_down,{hour * 3600},temp.store,{12 + 48 * exp(-loss_share * hour):.2f},C,0.4,,"
        for hour in range(9)))  # fmt: skip


def test_a_reading_is_kept_beside_what_a_sound_one_gives(client, box):
    answer = note(client, box, method="bucket", by="Ruth", note="wind ‹ß›", time="2")
    assert answer.status_code == 200
    row = text(view(client, box).select_one("tbody tr"))
    assert "4 L/min" in row and "bucket, wind ‹ß›, Ruth" in row and "2:00" in row
    assert any(word in row for word in ("as it should be", "near", "off"))


def test_what_is_far_off_is_said(client, box):
    note(client, box, value="0.5")
    assert "off" in text(view(client, box).select_one("tbody tr"))


def test_a_store_that_is_left_alone_is_not_held_against_a_hot_one(client, box):
    note(client, box, "temp.store", "30", kind="cool_down")
    assert "recorded" in text(view(client, box).select_one("tbody tr"))


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"value": ""}, "Type for example"),
        ({"value": "lots"}, "Type for example"),
        ({"value": "-1"}, "below nothing"),
        ({"quantity": "flow.gone"}, "There is no part"),
        ({"time": "soon"}, "Type for example"),
        ({"kind": "party"}, "no such kind"),
    ],
)
def test_what_cannot_be_is_said_and_what_was_typed_is_kept(client, box, data, words):
    answer = note(client, box, **{"note": "kept ✓", **data})
    assert answer.status_code == 422
    page = soup(answer)
    assert words in text(page.select_one("#log-error"))
    assert page.select_one("#log-note")["value"] == "kept ✓"
    if "value" in data:
        assert page.select_one("#log-value")["value"] == data["value"]
    assert client.app.state.services.logbook.sessions(int(box.split("/")[2]), "ten-litres") == ()


def test_zero_and_frost_are_readings(client, box):
    assert note(client, box, value="0").status_code == 200
    assert note(client, box, "air", "-12").status_code == 200
    assert len(view(client, box).select("tbody tr")) == 2


def test_us_units(client, box):
    client.cookies.set("units", "us")
    note(client, box, value="1")
    assert "1 gal/min" in text(view(client, box).select_one("tbody tr"))
    client.cookies.set("units", "metric")
    assert "3.79 L/min" in text(view(client, box).select_one("tbody tr"))


def test_what_arrives_twice_is_kept_once(client, box):
    for _ in range(2):
        assert note(client, box, sent="mark-1").status_code == 200
    note(client, box, sent="mark-2")
    note(client, box)
    note(client, box)
    assert len(view(client, box).select("tbody tr")) == 4


def test_a_file_is_imported_and_shown(client, box):
    assert send(client, box, night()).status_code == 303
    page = view(client, box)
    assert "10 readings in 1 session" in text(page.select_one("#sessions-title"))


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (b"", "Choose a file"),
        (b"nothing like a table", "There is no table in it"),
        (b"PK\x00\x01", "UTF-8"),
        (table("a,fill,0,litres.gone,100,L,,,"), "there is no part"),
        (table("a,fill,0,litres.tank,=SUM(A1),L,,,"), "Row 1"),
    ],
    ids=["none", "heading", "binary", "part", "formula"],
)
def test_a_file_that_cannot_be_read_keeps_nothing(client, box, body, words):
    answer = send(client, box, body)
    assert answer.status_code == 422
    assert words.lower() in answer.text.lower()
    assert view(client, box).select("tbody tr") == []


def test_all_bad_rows_are_counted_and_the_first_are_named(client, box):
    lines = [f"a,fill,0,litres.tank,much{number},L,,," for number in range(30)]
    answer = send(client, box, table(*lines))
    assert "Row 20:" in answer.text and "Row 21:" not in answer.text
    assert "and 10 more rows" in answer.text


def test_many_rows_are_thinned_evenly():
    from isotherma.core.faults.readings import Reading

    rows = [Row(n, "a", "day", float(n), Reading("air", None, 1.0)) for n in range(120_000)]
    kept = thinned(rows)
    assert len(kept) == KEPT_MOST
    assert (kept[0].number, kept[-1].number) == (0, 119_999)
    assert thinned(rows[:10]) == tuple(rows[:10])


def test_a_reading_and_a_session_are_forgotten(client, box):
    note(client, box)
    note(client, box, value="5")
    number = view(client, box).select_one("tbody [name=number]")["value"]
    client.post(f"{box}/log/forget", data={"number": number}, headers=HTMX)
    assert len(view(client, box).select("tbody tr")) == 1
    client.post(f"{box}/log/forget", data={"session": "Sunday"}, headers=HTMX)
    assert "Nothing was noted yet" in text(view(client, box))


def test_sessions_are_chosen_by_name(client, box):
    note(client, box, session="a & b")
    note(client, box, session="other", value="3")
    page = view(client, box, session="a & b")
    assert text(page.select_one("#rows-title")) == "a & b"
    assert len(page.select("tbody tr")) == 1


def learned(client, path):
    """The page of what readings teach, once a worker has put them together."""
    return soup(finished(client, f"{path}/log?view=learn"))


def test_learning_is_followed_and_cancelled(client, box):
    """Nobody works here: it waits, can be ended, and is begun anew only when asked to."""
    send(client, box, night())
    page = soup(client.get(f"{box}/log?view=learn"))
    form = page.select_one("#learned .under-way form")
    data = {one["name"]: one["value"] for one in form.select("input")}
    assert data["part"] == "#learned"
    assert "Stopped" in client.post(form["action"], data=data).text
    ended = soup(client.get(f"{box}/log?view=learn"))
    again = ended.select_one("#learned .under-way a.button")
    assert "Begin again" in text(again)
    assert soup(client.get(again["href"])).select_one("#learned [data-under-way]") is not None


@pytest.mark.usefixtures("worker")
class TestLearning:
    def test_nothing_noted_says_what_would_teach(self, client, box):
        assert "A cool-down over night" in text(learned(client, box))

    def test_a_night_offers_the_loss_and_taking_it_is_one_edit(self, client, box):
        send(client, box, night())
        page = learned(client, box)
        offer = page.select_one("#offers-title ~ .fault-list form")
        values = {one["name"]: one["value"] for one in offer.select("input")}
        assert values["path"] == "parts.store.loss_w_per_k"
        services, number = client.app.state.services, int(box.split("/")[2])
        before = services.vehicles.open(number).project.variant("ten-litres")
        assert client.post(offer["action"], data=values).status_code in (200, 303)
        opened = services.vehicles.open(number)
        variant = opened.project.variant("ten-litres")
        assert variant.measured[0].path == "parts.store.loss_w_per_k"
        assert variant.measured[0].sessions == ("n",)
        assert variant.system == before.system  # what was entered stays entered
        wins = variant.built.system.part("store").loss_w_per_k
        assert wins == pytest.approx(float(values["value"]))
        after = learned(client, box)
        assert "Taken already" in text(after)
        assert "standing loss" in text(after.select_one("#taken-title").parent)
        forget = after.select_one("#taken-title ~ ul form")
        data = {one["name"]: one["value"] for one in forget.select("input")}
        client.post(forget["action"], data=data)
        assert services.vehicles.open(number).project.variant("ten-litres").measured == ()

    def test_a_taken_figure_changes_what_is_computed(self, client, box):
        from isotherma.core import editing

        project = drover()
        worse = editing.take_measured(project, "ten-litres", {
            "path": "parts.store.loss_w_per_k", "value": 3.0})  # fmt: skip
        number = client.app.state.services.vehicles.create(worse, "x")
        path = f"/vehicles/{number}/ten-litres"
        assert client.get(f"{path}/shower").status_code == 200
        computing = client.app.state.services.computing
        one, other = (computing.result(made, made.variants[0].built) for made in (project, worse))
        assert one.ledger != other.ledger

    def test_one_bad_reading_is_listed(self, client, box):
        lines = night().decode().splitlines()
        lines[5] = lines[5].replace(lines[5].split(",")[4], "95")
        send(client, box, "\n".join(lines).encode())
        page = learned(client, box)
        assert "Readings that do not fit" in text(page)


def test_an_empty_design_says_where_to_begin(client):
    from isotherma.core.brief import Brief
    from isotherma.core.project import Project, Variant
    from isotherma.core.system import System

    bare = Project(name="Bare", brief=Brief(), variants=(
        Variant(id="first", name="First", system=System()),))  # fmt: skip
    number = client.app.state.services.vehicles.create(bare, "x")
    assert "Begin with a layout" in text(soup(client.get(f"/vehicles/{number}/first/log")))


@pytest.mark.parametrize("path", ["parts.gone.loss_w_per_k", "parts.store.nothing"])
def test_a_measured_figure_of_nothing_is_refused(path):
    from isotherma.core import editing
    from isotherma.core.errors import ChangeRefused

    with pytest.raises(ChangeRefused):
        editing.take_measured(drover(), "ten-litres", {"path": path, "value": 1.0})


def test_a_measured_figure_keeps_the_bounds_of_its_property():
    from pydantic import ValidationError

    from isotherma.core import editing

    for path, value in (("parts.store.loss_w_per_k", -1.0), ("brief.cold_water_c", 10.0)):
        with pytest.raises(ValidationError):
            editing.take_measured(drover(), "ten-litres", {"path": path, "value": value})


def test_a_measured_figure_is_marked_where_the_part_is_understood(client):
    from isotherma.core import editing

    said = {"path": "parts.store.loss_w_per_k", "value": 0.8, "low": 0.7, "on": "2026-11-28"}
    project = editing.take_measured(drover(), "ten-litres", said)
    number = client.app.state.services.vehicles.create(project, "x")
    page = soup(client.get(f"/vehicles/{number}/ten-litres/parts?piece=part-store"))
    row = next(text(one) for one in page.select(".origin-measured"))
    assert "0.8 W/K" in row and "measured, 2026-11-28" in row and "it wins over 0.52" in row


@pytest.fixture(scope="module")
def probes():
    from isotherma.core.results.outcome import Outcome
    from isotherma.services.runs import compute
    from isotherma.standins.probe_box import ProbeBox, channels_of

    outcome = compute(drover(), drover().variants[0].built)
    assert isinstance(outcome, Outcome)
    made = ProbeBox(channels_of(outcome, seed=5), speed=600)
    made.begin()
    yield made
    made.end()


def mean(client, path, address, **means):
    data = {"address": address, **{f"is.{key}": value for key, value in means.items()}}
    return client.post(f"{path}/log/probe/map", data=data)


def test_a_box_shows_its_channels_beside_what_a_sound_design_gives(client, box, probes):
    assert "bin/start --probe-box" in text(view(client, box, "probe"))
    answer = mean(client, box, probes.address, t0="temp.store", flow_l_per_min="flow.head")
    page = soup(client.get(answer.headers["location"]))
    chosen = {option.find_parent("select")["name"]: option["value"]
              for option in page.select("[data-probe] option[selected]")}  # fmt: skip
    assert chosen == {"is.t0": "temp.store", "is.flow_l_per_min": "flow.head"}
    row = text(page.find(string="Flow meter").find_parent("tr"))
    assert "L/min" in row and "not computed" not in row
    assert probes.address in text(view(client, box, "probe"))


def test_lines_of_a_box_are_kept_as_a_session(client, box, probes):
    asked = {"address": probes.address, "first": "5", "last": "30", "session": "n"}
    answer = client.post(f"{box}/log/probe/keep", data=asked)
    assert answer.status_code == 422 and "what the channels mean" in answer.text
    mean(client, box, probes.address, t0="temp.store")
    answer = client.post(f"{box}/log/probe/keep", data=asked)
    assert "of 26 lines" in text(soup(answer).select_one("[role=status]"))
    rows = client.app.state.services.logbook.readings(int(box.split("/")[2]), "ten-litres", "n")
    assert rows and {one.row.quantity for one in rows} == {"temp.store"}
    assert {one.row.method for one in rows} == {"probe box"}


@pytest.mark.parametrize("more", [
    {"address": "http://10.0.0.1:80"}, {"address": "http://127.0.0.1:1"}, {"kind": "party"},
    {"first": "9", "last": "3"}, {"last": "9999999"},
])  # fmt: skip
def test_what_a_box_cannot_give_is_said_with_the_address_as_typed(client, box, probes, more):
    mean(client, box, "http://127.0.0.1:1", t0="temp.store")
    mean(client, box, probes.address, t0="temp.store")
    asked = {"address": probes.address, "first": "5", "last": "30", "session": "n", **more}
    answer = client.post(f"{box}/log/probe/keep", data=asked)
    assert answer.status_code == 422
    page = soup(answer)
    assert page.select_one("#probe-error")
    assert page.select_one("#probe-address")["value"] == asked["address"]


def test_only_a_box_of_this_machine_is_listened_to(client, box):
    for address in ("http://8.8.8.8:80", "http://10.0.0.1:80", "file:///etc/passwd"):
        assert client.get(f"{box}/log/probe/live", params={"address": address}).status_code == 422

    def test_the_cold_water_is_taken_by_a_button(self, client, box):
        """Drawn water is colder than the brief says: what the readings say is taken as one edit."""
        rows = []
        for session in ("s1", "s2"):
            rows += [f"{session},flow,{60 * at},temp.tank,9.{at},C,,," for at in range(3)]
        send(client, box, table(*rows))
        services, number = client.app.state.services, int(box.split("/")[2])
        answer = client.post(f"{box}/measured/cold", data={"value": "9.5", "_page": "log"})
        assert answer.status_code in (200, 303)
        assert services.vehicles.open(number).project.brief.cold_water_c == 9.5

    def test_a_gauge_that_was_metered_is_taken_and_given_by_undo(self, client):
        project = drover()
        kept = project.variants[0]
        own = kept.model_copy(
            update={"system": layouts()["two-tank-storage"].system, "state": None}
        )
        project = project.model_copy(update={"variants": (own,)})
        number = client.app.state.services.vehicles.create(project, "x")
        path = f"/vehicles/{number}/ten-litres"
        rows = []
        for at, (level, litres) in enumerate(
            ((0, 2), (20, 20), (40, 31), (60, 42), (80, 55), (100, 70))
        ):
            rows.append(f"g,gauge,{60 * at},level.sender,{level},%,,,")
            rows.append(f"g,gauge,{60 * at},litres.grey,{litres},L,,,")
        send(client, path, table(*rows))
        page = learned(client, path)
        form = page.select_one("form[action$='/gauge/take']")
        data = {one["name"]: one["value"] for one in form.select("input")}
        assert client.post(form["action"], data=data).status_code in (200, 303)
        system = client.app.state.services.vehicles.open(number).project.variants[0].system
        points = system.part("sender").gauge_points
        assert points[0] == (0.0, pytest.approx(2e-3)) and points[-1][0] == 1.0
        assert "Taken already" in text(learned(client, path))


@pytest.mark.usefixtures("worker")
class TestWhatNext:
    def test_it_is_asked_for_and_a_change_is_kept(self, client, box):
        page = soup(client.get(f"{box}/log?view=next"))
        assert page.select_one("#what-next a[href$='ask=1']") is not None
        found = soup(finished(client, f"{box}/log?view=next&ask=1", within_s=120.0))
        said = text(found.select_one("#what-next"))
        assert "were tried on the design as it was entered" in said
        assert "Early shower is not as asked" in said
        forms = found.select("#what-next form[action$='/changes/make']")
        data = {one["name"]: one["value"] for one in forms[0].select("input")}
        services, number = client.app.state.services, int(box.split("/")[2])
        before = services.vehicles.open(number).project
        assert client.post(forms[0]["action"], data=data).status_code in (200, 303)
        assert services.vehicles.open(number).project != before
        # the design is another now: nothing is shown that was found of the one before
        assert client.get(f"{box}/log?view=next").text.count("Keep it") == 0


LOGGER = (
    b"Datum;Vorlauf;Tank\n28.03.2027 10:00;38,5;12,0\n28.03.2027 10:01;39,5;12,1\n"
    b"28.03.2027 10:02;40,5;12,2\n"
)
STREAM = {"accept": "application/x-ndjson"}


def fields(page):
    """All that a form would send."""
    form = page.select_one("form[action$='/log/columns']")
    data = {one["name"]: one.get("value", "") for one in form.select("input")
            if one.get("type") != "radio" or one.has_attr("checked")}  # fmt: skip
    for one in form.select("select"):
        chosen = one.select_one("option[selected]") or one.select_one("option")
        data[one["name"]] = chosen["value"]
    return data


class TestLoggersFile:
    def held(self, client, box, body=LOGGER):
        answer = send(client, box, body, "box 7.csv")
        assert answer.status_code == 303 and "view=columns" in answer.headers["location"]
        return soup(client.get(answer.headers["location"]))

    def test_its_columns_are_asked_for_guessed_and_remembered(self, client, box):
        page = self.held(client, box)
        data = fields(page)
        assert (data["time"], data["time_form"], data["decimal"]) == ("0", "day first", ",")
        assert "38,5 · 39,5 · 40,5" in text(page)
        data |= {"is.1": "temp.head", "session": "Bench", "zone": "Europe/Berlin"}
        answer = client.post(f"{box}/log/columns", data=data)
        assert answer.status_code == 303
        told = soup(client.get(answer.headers["location"]))
        assert "3 readings kept" in text(told)
        number = int(box.split("/")[2])
        rows = client.app.state.services.logbook.readings(number, "ten-litres")
        assert [(one.row.time_s, one.row.value) for one in rows] == [
            (0.0, 38.5), (60.0, 39.5), (120.0, 40.5),
        ]  # fmt: skip
        assert client.app.state.services.archives.zone(number) == "Europe/Berlin"
        again = fields(self.held(client, box))
        assert again["is.1"] == "temp.head" and again["zone"] == "Europe/Berlin"

    @pytest.mark.parametrize(
        ("typed", "words"),
        [
            ({"zone": ""}, "Choose the time zone"),
            ({"zone": "Atlantis/Deep"}, "no time zone “Atlantis/Deep”"),
            ({"is.1": ""}, "one column at least"),
            ({"is.0": "temp.head"}, "is the time"),
            ({"unit.1": "stone"}, "“stone” is no unit"),
            ({"factor.1": "much"}, "the factor “much” is no number"),
            ({"factor.1": "inf"}, "columns.1.factor"),
            ({"time": "9"}, "holds the time"),
            ({"time_form": "moons"}, "how its times are written"),
            ({"kind": "party"}, "kind of session"),
            ({"decimal": "."}, "Line 2: Vorlauf: “38,5” is no number"),
            ({"is.1": "temp.gone"}, "no part “gone”"),
        ],
    )
    def test_what_cannot_be_read_is_said_and_what_was_typed_kept(self, client, box, typed, words):
        data = fields(self.held(client, box))
        data |= {"is.1": "temp.head", "session": "Bench", "zone": "UTC", **typed}
        answer = client.post(f"{box}/log/columns", data=data)
        assert answer.status_code == 422 and words in text(soup(answer))
        assert fields(soup(answer))["session"] == "Bench"
        assert view(client, box).select("tbody tr") == []

    def test_a_file_that_is_gone_is_asked_for_again(self, client, box):
        data = fields(self.held(client, box))
        for number in ("0", "x", "9" * 30, "77"):
            answer = client.post(f"{box}/log/columns", data={**data, "file": number})
            assert answer.status_code == 422 and "choose it again" in answer.text
        assert "choose it again" in client.get(f"{box}/log?view=columns&file=99").text.lower()

    def test_how_far_it_is_is_told_line_by_line(self, client, box):
        lines = [f"s,draw,{at},temp.head,{30 + at % 9},C,,," for at in range(5_000)]
        sent = {"files": {"file": ("log.csv", table(*lines))}, "headers": STREAM}
        with client.stream("POST", f"{box}/log/import", **sent) as answer:
            told = [json.loads(line) for line in answer.iter_lines()]
        assert [one["done"] for one in told[:-1]] == [2000, 4000]
        assert "kept=5000" in told[-1]["go"]
        lines[17] = lines[17].replace("temp.head", "temp.gone")
        sent = {"files": {"file": ("log.csv", table(*lines))}, "headers": STREAM}
        with client.stream("POST", f"{box}/log/import", **sent) as answer:
            assert json.loads(list(answer.iter_lines())[-1]) == {"refused": True}
        assert "5000 readings in 1 session" in text(view(client, box))

    def test_more_than_fifty_thousand_are_thinned_and_the_file_is_kept(self, client, box):
        lines = [f"s,draw,{at},temp.head,{30 + at % 9},C,,," for at in range(KEPT_MOST + 10)]
        body = table(*lines)
        answer = send(client, box, body, "long “log”.csv")
        said = text(soup(client.get(answer.headers["location"])))
        assert f"{KEPT_MOST} readings kept, evenly of {KEPT_MOST + 10}" in said
        page = view(client, box, "note")
        link = page.select_one("a[href*='/log/files/']")
        given = client.get(link["href"])
        assert given.content == body
        assert given.headers["content-disposition"] == 'attachment; filename="long--log-.csv"'
        form = page.select_one("form[action$='/forget'][action*='/log/files/']")
        assert client.post(form["action"]).status_code == 303
        assert client.get(link["href"]).status_code == 404
