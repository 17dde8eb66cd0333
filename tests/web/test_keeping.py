"""What goes beside a design: photographs, the archive out and in, the plan as a calendar."""

from __future__ import annotations

from io import BytesIO

import pytest
from icalendar import Calendar
from PIL import Image

from isotherma.catalogue.demo import drover
from tests.files.test_archive import packed
from tests.files.test_photo import picture, with_place
from tests.web.test_pages import soup, text


@pytest.fixture
def box(client) -> str:
    number = client.app.state.services.vehicles.create(drover(), "Demo vehicle")
    return f"/vehicles/{number}/ten-litres"


def number_of(path):
    return int(path.split("/")[2])


def add(client, path, *bodies, about="mount.pump", page="build", **more):
    files = [("files", (f"{place}.jpg", body, "image/jpeg")) for place, body in enumerate(bodies)]
    data = {"about": about, "_page": page, **more}
    return client.post(f"{path}/photos", data=data, files=files)


def shown(client, path, **asked):
    return soup(client.get(f"{path}/build", params=asked)).select(".photo-list img")


def test_a_photograph_of_a_task_is_kept_shown_and_taken_away(client, box):
    answer = add(client, box, with_place(), note="the sleeve, 50 mm free", by="Ruth")
    assert answer.status_code == 303
    assert answer.headers["location"] == f"{box}/build?task=mount.pump#photos"
    (image,) = shown(client, box, task="mount.pump")
    assert image["alt"] == "the sleeve, 50 mm free"
    got = client.get(image["src"])
    assert got.headers["content-type"] == "image/jpeg"
    assert got.headers["x-content-type-options"] == "nosniff"
    assert not Image.open(BytesIO(got.content)).getexif()
    assert shown(client, box, task="mount.store") == []
    client.post(image["src"] + "/forget", data={"about": "mount.pump"})
    assert shown(client, box, task="mount.pump") == []
    assert client.get(image["src"]).status_code == 404


def test_a_photograph_of_a_session_stands_beside_its_readings(client, box):
    data = {"quantity": "flow.head", "value": "4", "session": "Sunday & “co”"}
    client.post(f"{box}/log/note", data=data)
    answer = add(client, box, picture(), about="Sunday & “co”", page="log")
    page = soup(client.get(answer.headers["location"]))
    assert len(page.select(".photo-list img")) == 1


def test_what_is_no_photograph_is_said_where_it_was_sent_from(client, box):
    for bodies, words in (((b"<svg/>",), "no JPEG"), ((), "Choose"), ((picture(),) * 5, "at once")):
        answer = add(client, box, *bodies)
        assert answer.status_code == 422
        page = soup(answer)
        assert words in text(page.select_one("[role=alert]")) and page.select_one("#now-title")
    client.post(f"{box}/log/note", data={"quantity": "flow.head", "value": "4", "session": "a"})
    answer = add(client, box, b"%PDF", about="a", page="log")
    assert answer.status_code == 422 and "no JPEG" in answer.text


def test_of_several_with_a_bad_one_none_is_kept(client, box):
    assert add(client, box, picture(), b"bad").status_code == 422
    assert shown(client, box, task="mount.pump") == []


def test_a_large_photograph_passes_and_a_larger_request_does_not(client, box):
    noise = Image.effect_noise((1900, 1900), 90).convert("RGB")
    out = BytesIO()
    noise.save(out, "JPEG", quality=98)
    assert 3_000_000 < len(out.getvalue()) < 8_000_000
    assert add(client, box, out.getvalue()).status_code == 303
    assert add(client, box, b"\0" * 41_000_000).status_code == 413


def test_a_picture_of_another_vehicle_is_not_there(client, box):
    add(client, box, picture())
    source = shown(client, box, task="mount.pump")[0]["src"]
    other = client.app.state.services.vehicles.create(drover(), "Other")
    assert client.get(source.replace(box, f"/vehicles/{other}/ten-litres")).status_code == 404
    assert client.post(source.replace(box, f"/vehicles/{other}/ten-litres") + "/forget").is_redirect
    assert client.get(source).status_code == 200


def test_a_vehicle_goes_out_with_all_that_happened_and_comes_back_so(client, box):
    data = {"quantity": "flow.head", "value": "4", "session": "=1+1", "by": "Ruth", "note": "-ß"}
    client.post(f"{box}/log/note", data=data)
    client.post(f"{box}/build/tick", data={"task": "mount.pump", "state": "done", "note": "ok"})
    client.post(f"{box}/faults/say", data={"symptom": "no_water", "says": "seen"})
    add(client, box, picture(colour=(3, 200, 3)), note="pump")
    out = client.get(f"/vehicles/{number_of(box)}/archive")
    assert out.headers["content-type"] == "application/zip"
    assert "drover.isotherma.zip" in out.headers["content-disposition"]
    answer = client.post("/vehicles/import", files={"file": ("a.zip", out.content)})
    assert "was imported" in answer.text
    services = client.app.state.services
    back = services.vehicles.overview()[0].vehicle_id
    assert back != number_of(box)
    here, there = number_of(box), back
    assert services.vehicles.open(there).project == services.vehicles.open(here).project
    for kept in (
        services.logbook.readings,
        services.plan_keeping.ticked,
        services.fault_cases.case,
    ):
        one, other = kept(here, "ten-litres"), kept(there, "ten-litres")
        if isinstance(one, tuple):
            one, other = ([(row.row, row.person) for row in rows] for rows in (one, other))
        assert one and one == other
    (image,) = shown(client, f"/vehicles/{there}/ten-litres", task="mount.pump")
    kept = Image.open(BytesIO(client.get(image["src"]).content))
    assert min(kept.getchannel("G").tobytes()) > 150


def test_a_bad_archive_keeps_nothing_and_says_why(client):
    for body, words in ((packed().getvalue()[:900], "damaged"), (b"PK\x03\x04", "damaged")):
        answer = client.post("/vehicles/import", files={"file": ("a.zip", body)})
        assert answer.status_code == 422 and words in answer.text
    assert client.app.state.services.vehicles.overview() == []


def test_a_case_that_makes_no_sense_is_refused_whole(client):
    from isotherma.files.archive import CaseRecord
    from tests.files.test_archive import ON, OWN, RECORD

    bad = CaseRecord(variant=OWN, said={"seen": 3}, begun=ON)
    body = packed(record=RECORD.model_copy(update={"cases": (bad,)})).getvalue()
    answer = client.post("/vehicles/import", files={"file": ("a.zip", body)})
    assert answer.status_code == 422 and "a case, seen" in answer.text
    assert client.app.state.services.vehicles.overview() == []


def save(client, path, **typed):
    data = {"begin": "2027-03-26", "at": "08:00", "hours": "6", "zone": "Europe/Lisbon", **typed}
    return client.post(f"{path}/build/calendar", data=data)


def test_the_plan_is_saved_as_a_calendar_and_the_zone_is_kept(client, box):
    assert (
        soup(client.get(f"{box}/build?view=calendar")).select_one("#calendar-zone")["value"] == ""
    )
    answer = save(client, box, hours="6,5")
    assert answer.headers["content-type"].startswith("text/calendar")
    assert "drover-building.ics" in answer.headers["content-disposition"]
    uids = {str(event["uid"]) for event in Calendar.from_ical(answer.content).events}
    assert "mount.pump@ten-litres" in uids
    page = soup(client.get(f"{box}/build?view=calendar"))
    assert page.select_one("#calendar-zone")["value"] == "Europe/Lisbon"


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"zone": ""}, "none is guessed"),
        ({"zone": "Nowhere/‹ß›"}, "none is guessed"),
        ({"begin": "soon"}, "2027-03-28"),
        ({"begin": "9999-12-31"}, "between"),
        ({"at": "25:00"}, "08:00"),
        ({"hours": "0"}, "half an hour"),
        ({"hours": "nan"}, "half an hour"),
        ({"hours": "20"}, "midnight"),
    ],
)
def test_what_cannot_be_a_working_day_is_said_and_kept_as_typed(client, box, typed, words):
    answer = save(client, box, **typed)
    assert answer.status_code == 422
    page = soup(answer)
    assert words in text(page.select_one("[role=alert]"))
    for name, value in typed.items():
        assert page.select_one(f"[name={name}]")["value"] == value
    assert client.app.state.services.archives.zone(number_of(box)) is None
