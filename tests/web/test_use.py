"""Using it: a warm shower today, lead times, drain-down, what to shut first."""

from __future__ import annotations

import base64
import re
from hashlib import sha256
from io import BytesIO
from typing import Any

import icalendar
import pytest
import zxingcpp
from PIL import Image, ImageDraw

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.system import System
from isotherma.core.system.kinds.gauges import FloatSender, SightTube
from tests.web.test_pages import finished, soup, text

ASK = {"ask": "1", "on": ["element", "burner"], "draw": "early-shower"}


@pytest.fixture
def box(client) -> str:
    return box_of(client)


def box_of(client) -> str:
    number = client.app.state.services.vehicles.create(drover(), "Demo vehicle")
    return f"/vehicles/{number}/ten-litres"


def use(client, path, **asked):
    return soup(client.get(f"{path}/use", params=asked))


def acts(page):
    return [text(one) for one in page.select(".use-acts li")]


def test_what_is_asked_has_good_guesses(client, box):
    page = use(client, box)
    assert page.select_one("#use-draw option")["value"] == "early-shower"
    assert all(one.has_attr("checked") for one in page.select(".use-sources input"))
    assert page.select_one("#card-title") is None


def test_a_shower_as_soon_as_it_is_warm(client, box):
    page = use(client, box, **ASK)
    rows = acts(page)
    assert rows[0] == "now Switch on Element, Burner."
    assert re.match(
        r"after 1\d min .*Set Thermostatic mixer to 40 °C. Open Fine-hole head", rows[1]
    )
    assert "catch the" in rows[2] and rows[3].endswith("It runs cool now.")
    said = text(page.select_one("#card-title").parent.parent)
    assert "Good for" in said and "It takes" in said and "back of your hand" in said


def test_one_source_takes_longer_and_a_warmer_tank_less(client, box):
    def minutes(**asked):
        said = text(use(client, box, **{**ASK, **asked}).select_one("#card-title").parent.parent)
        found = re.search(r"Hot (?:(\d+) h )?(\d+) min", said)
        assert found is not None
        return 60 * int(found[1] or 0) + int(found[2])

    both, one = minutes(), minutes(on=["element"])
    assert 2 * both < one
    assert minutes(cold="25 °C") < both < minutes(cold="5")
    assert minutes(cold="77 F") == minutes(cold="25")


def test_a_time_of_day_says_when_to_switch_on(client, box):
    rows = acts(use(client, box, **{**ASK, "at": "7:30"}))
    on = re.match(r"7:(\d\d) Switch on", rows[0])
    assert on is not None and 5 < int(on[1]) < 20
    assert rows[1].startswith("7:30 ")
    night = acts(use(client, box, **{**ASK, "at": "0:05"}))
    assert night[0].startswith("23:")


def test_litres_left_are_counted_and_more_than_there_is_says_so(client, box):
    page = use(client, box, **{**ASK, "fresh": "60 L", "grey": "10"})
    assert "which leaves 40 L" in text(page) and "grey water then stands at 30 L" in text(page)
    assert "more than there is" in text(use(client, box, **{**ASK, "fresh": "5"}))


@pytest.mark.parametrize(
    ("field", "value"), [("at", "soonish"), ("cold", "icy"), ("fresh", "lots"), ("grey", "-x")]
)
def test_what_cannot_be_read_is_said_and_kept(client, box, field, value):
    page = use(client, box, **{**ASK, field: value})
    assert page.select_one("#use-error") is not None
    assert page.select_one(f"#use-{field}")["value"] == value
    assert page.select_one(f"#use-{field}")["aria-invalid"] == "true"
    answer = client.get(f"{box}/use/card", params={**ASK, field: value})
    assert answer.status_code == 422 and "alert" in answer.text


def test_with_nothing_on_it_never_gets_warm(client, box):
    page = use(client, box, ask="1", draw="early-shower")
    assert "With what is on it does not get warm in a day" in text(page)


def test_the_card_stands_alone_under_a_policy_of_its_own(client, box):
    answer = client.get(f"{box}/use/card", params=ASK)
    assert answer.status_code == 200
    page = soup(answer)
    assert not page.select("link, img, script[src]")
    policy = answer.headers["content-security-policy"]
    for tag in ("style", "script"):
        body = page.select_one(tag).string
        mark = base64.b64encode(sha256(body.encode()).digest()).decode()
        assert f"{tag}-src 'sha256-{mark}'" in policy
    assert "default-src 'none'" in policy
    assert float(page.select_one("#card")["data-takes"]) > 600.0
    seconds = [float(one["data-seconds"]) for one in page.select("li[data-seconds]")]
    assert seconds == sorted(seconds) and seconds[0] < 0.0
    other = client.get(f"{box}/use")
    assert "script-src 'self'" in other.headers["content-security-policy"]


@pytest.mark.usefixtures("worker")
def test_lead_times_of_the_year(client, box):
    page = soup(finished(client, f"{box}/use?view=lead"))
    heads = [text(one) for one in page.select("#lead thead th")]
    assert heads == ["Month and tank", "Element", "Burner", "Element and Burner"]
    rows = page.select("#lead tbody tr")
    assert len(rows) == 12 and text(rows[0]).startswith("Jan, ")
    lines = page.select("#lead polyline")
    assert len(lines) == 3 and all(len(one["points"].split()) > 3 for one in lines)


def test_drain_down_in_order_with_what_stays(client):
    number = client.app.state.services.vehicles.create(folio(), "Demo vehicle")
    page = use(client, f"/vehicles/{number}/button", view="drain")
    rows = acts(page)
    assert rows[0].startswith("Off or shut:") and rows[-1].startswith("Leave all open")
    assert any(one.startswith("Open ") for one in rows)


def test_what_to_shut_first_and_where(client):
    services = client.app.state.services
    project = drover()
    made = layouts()["gas-combi"].system
    own = project.variants[0].model_copy(update={"system": made, "state": None})
    number = services.vehicles.create(project.model_copy(update={"variants": (own,)}), "x")
    page = use(client, f"/vehicles/{number}/ten-litres", view="trouble")
    gas = text(page.select_one("#trouble-gas_smell").parent)
    assert "Everybody out" in gas and "Shut Bottle, in Gas locker" in gas
    water = text(page.select_one("#trouble-water_under_floor").parent)
    assert "Switch off" in water
    assert page.select_one("#trouble-no_heat ~ p a")["href"].endswith("/faults?find=hot")


def test_a_design_without_parts_and_one_that_only_flows(client):
    services = client.app.state.services
    project = curlew()
    bare = project.variants[0].model_copy(update={"system": System(), "state": None})
    number = services.vehicles.create(project.model_copy(update={"variants": (bare,)}), "x")
    assert "Begin with a layout" in text(use(client, f"/vehicles/{number}/store"))
    made = layouts()["cupboard-through-flow"].project()
    number = services.vehicles.create(made, "x")
    path = f"/vehicles/{number}/{made.variants[0].id}"
    page = use(client, path, ask="1")
    assert page.select_one("#card-title") is not None
    rows = acts(page)
    assert not any("Switch on" in one for one in rows) and rows


def test_how_far_to_open_and_who_is_next(client, box):
    page = use(client, box, view="tap")
    rows = [[text(cell) for cell in row.select("th, td")]
            for row in page.select("[aria-label=Openings] tbody tr")]  # fmt: skip
    assert rows[0][0] == "fully" and len(rows) >= 4
    flows = [float(row[1].split()[0]) for row in rows]
    assert flows == sorted(flows, reverse=True)
    assert sum("make a mark here" in row[2] for row in rows) == 1
    queue = page.select("[aria-label=Queue] tbody tr")
    assert text(queue[0].select_one("th")) == "Early shower"


def test_what_the_gauge_says_with_a_strip_for_a_tube(client):
    services = client.app.state.services
    project = drover()
    tank = {"inside_length_m": 0.8, "inside_width_m": 0.5, "inside_height_m": 0.3}
    parts = [part.model_copy(update=tank) if part.id == "tank" else part
             for part in project.variants[0].system.parts]  # fmt: skip
    parts.append(SightTube(id="tube", space="living", fitted_in="tank"))
    parts.append(FloatSender(id="sender", space="living", fitted_in="tank", steps=4))
    system = project.variants[0].system.model_copy(update={"parts": tuple(parts)})
    own = project.variants[0].model_copy(update={"system": system})
    number = services.vehicles.create(project.model_copy(update={"variants": (own,)}), "x")
    page = use(client, f"/vehicles/{number}/ten-litres", view="gauge")
    strip = page.select_one("svg.use-strip")
    assert strip["height"].endswith("mm") and 200.0 < float(strip["height"][:-2]) <= 300.0
    marks = [text(one) for one in strip.select("text")]
    assert len(marks) >= 5 and all("L" in one for one in marks)
    full = page.select("[aria-label^='Readings of'] tbody tr")[-1]
    assert "about " in text(full)
    assert "No gauge is drawn" in text(use(client, box_of(client), view="gauge"))


def test_where_to_park_with_a_square_a_degree(client):
    number = client.app.state.services.vehicles.create(folio(), "Demo vehicle")
    page = use(client, f"/vehicles/{number}/button", view="park")
    assert len(page.select("svg rect")) >= 81
    said = text(page)
    assert "Nose up: up to 1°, which is 17 mm to a metre" in said
    assert "Not measured, so not judged: Tank under the shelves" in said
    titles = [text(one) for one in page.select(".park svg title")]
    assert any(one.startswith("nose level, right side level: 0 L stand") for one in titles)
    client.cookies.set("units", "us")
    there = text(use(client, f"/vehicles/{number}/button", view="park"))
    assert "Nose up: up to 1°, which is 0.21 in to a foot" in there and "metre" not in there
    bare = use(client, box_of(client), view="park")
    assert "Nothing that is measured minds" in text(bare)


def test_damp_says_vapour_fan_and_what_sweats(client, box):
    page = use(client, box, view="damp")
    row = [text(cell) for cell in page.select("[aria-label='Damp of showers'] tbody tr")[0].select(
        "th, td")]  # fmt: skip
    assert row[0] == "Early shower" and row[1].endswith(" g") and "min" in row[3]
    assert row[4] == "its opening is not said" and "bare metal" in row[5]
    client.cookies.set("units", "us")
    assert "oz" in text(use(client, box, view="damp"))


def test_routines_have_a_piece_of_the_route_for_each_step(client):
    number = client.app.state.services.vehicles.create(folio(), "Demo vehicle")
    path = f"/vehicles/{number}/button"
    page = use(client, path, view="routines")
    frost = page.select_one("#routine-first_frost").find_parent("section")
    steps = frost.select("li")
    assert len(steps) > 8 and "Switch off Liquid heater" in text(steps[0])
    pieces = frost.select("svg.routine-piece")
    assert len(pieces) > 6 and all(one.select_one("use")["href"] == "#use-route" for one in pieces)
    views = {one["viewbox"] for one in pieces}
    assert len(views) > 5
    assert "230 mL of the product" in text(page)
    weak = text(use(client, path, view="routines", product="25"))
    assert "460 mL of the product" in weak
    wrong = use(client, path, view="routines", product="lots")
    assert wrong.select_one("#use-product")["value"] == "lots"
    assert wrong.select_one("#use-product-error") is not None
    assert "from 1 to 500" in text(use(client, path, view="routines", product="0"))


def calendar(client, path, **form):
    return client.post(f"{path}/use/calendar", data=form)


def read_events(content: bytes) -> dict[str, Any]:
    read: Any = icalendar.Calendar.from_ical(content)
    return {str(one["uid"]): one for one in read.walk("VEVENT")}


def test_the_calendar_switches_on_before_each_shower(client, box):
    answer = calendar(client, box, begin="2027-07-01", zone="Europe/Lisbon")
    assert answer.headers["content-type"].startswith("text/calendar")
    events = read_events(answer.content)
    on, wash = events["on.early-shower.0@ten-litres"], events["shower.early-shower.0@ten-litres"]
    assert on["dtend"].dt == wash["dtstart"].dt and on["dtstart"].dt.tzinfo is not None
    lead = (on["dtend"].dt - on["dtstart"].dt).total_seconds()
    services = client.app.state.services
    opened = services.vehicles.open(int(box.split("/")[2]))
    row = services.using.lead(opened.project, opened.project.variants[0], 7)
    assert row is not None and lead == pytest.approx(row.takes_s, abs=1.0)
    assert on.walk("VALARM") and "Switch on" in str(on["summary"])
    yearly = events["routine.sanitise@ten-litres"]
    assert str(yearly["dtstart"].dt) == "2028-03-20" and "FREQ=YEARLY" in yearly.to_ical().decode()
    # the zone is kept, and offered again
    form = use(client, box, view="diary")
    assert form.select_one("#diary-zone")["value"] == "Europe/Lisbon"
    again = calendar(client, box, begin="2027-07-01", zone="Europe/Lisbon").content
    assert sorted(read_events(again)) == sorted(events)


@pytest.mark.parametrize(
    ("begin", "zone", "words"),
    [("soon", "UTC", "Say the first day"), ("1066-10-14", "UTC", "between"),
     ("2027-07-01", "Moon/Base", "none is guessed"), ("2027-07-01", "", "none is guessed")],
)  # fmt: skip
def test_a_calendar_that_cannot_be_is_said_and_kept(client, box, begin, zone, words):
    answer = calendar(client, box, begin=begin, zone=zone)
    assert answer.status_code == 422
    page = soup(answer)
    assert words in text(page) and page.select_one("#diary-zone")["value"] == zone
    assert use(client, box, view="diary").select_one("#diary-zone")["value"] == ""


def cards(client, path, **asked):
    answer = client.get(f"{path}/use/cards", params=asked)
    assert answer.status_code == 200
    return answer, soup(answer)


def test_a_set_of_cards_is_cut_for_its_paper(client):
    number = client.app.state.services.vehicles.create(folio(), "Demo vehicle")
    path = f"/vehicles/{number}/button"
    for size, words in (("a6", "105mm 148mm"), ("a5", "A5"), ("a4", "A4"), ("letter", "letter")):
        answer, page = cards(client, path, size=size, card="trouble")
        style = page.select_one("style").string
        assert f"@page {{ size: {words};" in style
        mark = base64.b64encode(sha256(style.encode()).digest()).decode()
        assert f"style-src 'sha256-{mark}'" in answer.headers["content-security-policy"]
        assert not page.select("script, link, img, [style]")
    _, whole = cards(client, path)
    titles = [text(one) for one in whole.select("h2")]
    assert titles[0].startswith("A warm shower") and "First frost" in titles
    assert "It smells of gas" in titles and "Drain-down" in titles
    assert "No code for phones" in text(whole) and not whole.select("svg.qr")
    _, other = cards(client, path, state="hook-up", card="now")
    assert "On hook-up" in text(other) and "Liquid heater" not in text(other)
    _, none = cards(client, path, card="nothing")
    assert "There is no such card" in text(none)


def test_a_code_on_a_card_is_read_as_the_live_page(client, box):
    client.app.state.address = "http://192.0.2.7:8000"
    try:
        _, page = cards(client, box, card="now")
    finally:
        client.app.state.address = ""
    square = page.select_one("svg.qr")
    side = int(square["viewbox"].split()[2])
    picture = Image.new("L", (8 * side, 8 * side), 255)
    pen = ImageDraw.Draw(picture)
    x = y = 0.0
    # modules are drawn as strokes along their row: moves and runs, relative
    for move, run in re.findall(r"([Mm][-\d. ]+)|(h\d+)", square.select("path")[1]["d"]):
        if move:
            dx, dy = (float(one) for one in re.findall(r"-?[\d.]+", move))
            x, y = (dx, dy) if move[0] == "M" else (x + dx, y + dy)
        else:
            length = int(run[1:])
            pen.rectangle((8 * x, 8 * (y - 0.5), 8 * (x + length) - 1, 8 * (y + 0.5) - 1), fill=0)
            x += length
    kept = BytesIO()
    picture.save(kept, "png")
    read = zxingcpp.read_barcodes(Image.open(BytesIO(kept.getvalue())))
    assert [one.text for one in read] == [
        f"http://192.0.2.7:8000{box}/use/card?ask=1&draw=early-shower&on=element&on=burner"
    ]
