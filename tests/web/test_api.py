"""The interface for programs: the command line's formats, by the same doors."""

from __future__ import annotations

import json
import time

import pytest

from isotherma.catalogue.demo import drover, folio
from isotherma.files.project_file import read_project, write_project
from isotherma.services.visitors import ALONE, visiting
from tests.web.test_doors import account, client_of, workshop  # noqa: F401 - a fixture
from tests.web.test_pages import soup, text

API = "/api/v1"


@pytest.fixture
def box(client):
    return client.app.state.services.vehicles.create(drover(), "Started")


def test_vehicles_are_listed_made_read_and_put(client, box):
    listed = client.get(f"{API}/vehicles").json()
    assert listed["vehicles"][0]["name"] == "Drover" and listed["total"] == 1
    made = client.post(f"{API}/vehicles", content=write_project(folio()))
    assert made.status_code == 201 and made.json()["id"] != box
    got = client.get(f"{API}/vehicles/{box}/project")
    base = got.headers["etag"]
    changed = read_project(got.content).model_copy(update={"name": "By a program"})
    body = write_project(changed)
    assert client.put(f"{API}/vehicles/{box}/project", content=body).status_code == 428
    put = client.put(f"{API}/vehicles/{box}/project", content=body, headers={"if-match": base})
    assert put.status_code == 200 and f'"{put.json()["revision"]}"' != base
    late = client.put(f"{API}/vehicles/{box}/project", content=body, headers={"if-match": base})
    assert late.status_code == 409 and late.json()["error"]["code"] == "newer_elsewhere"
    assert client.get(f"{API}/vehicles?q=program").json()["total"] == 1


@pytest.mark.parametrize("body", [b"", b"{}", b"[1,2", b"\xff\xfe", b'{"format": "other"}'])
def test_a_file_that_is_none_is_refused_in_words(client, box, body):
    for answer in (
        client.post(f"{API}/vehicles", content=body),
        client.put(f"{API}/vehicles/{box}/project?base=1", content=body),
    ):
        assert answer.status_code == 422
        said = answer.json()["error"]
        assert said["code"] and len(said["message"]) > 10


def test_results_are_those_of_the_command_line(client, box, tmp_path, capsys):
    from typer.testing import CliRunner

    from isotherma.cli import app

    path = tmp_path / "d.isotherma.json"
    path.write_bytes(write_project(drover()))
    for name in ("simulate", "check", "parts", "plan"):
        got = client.get(f"{API}/vehicles/{box}/ten-litres/{name}")
        assert got.status_code == 200, name
        ran = CliRunner().invoke(app, [name, str(path), "--json"])
        assert ran.exit_code == 0, ran.output
        assert got.json() == json.loads(ran.stdout), name
    capsys.readouterr()


def test_what_cannot_be_is_a_code_and_a_sentence(client):
    from isotherma.core.system import System

    project = drover()
    bare = project.variants[0].model_copy(update={"system": System(), "state": None})
    number = client.app.state.services.vehicles.create(
        project.model_copy(update={"variants": (bare,)}), "x"
    )
    for name in ("simulate", "check"):
        answer = client.get(f"{API}/vehicles/{number}/ten-litres/{name}")
        assert answer.status_code == 422 and answer.json()["error"]["message"]
    assert client.get(f"{API}/vehicles/{number}/nothing/plan").status_code == 404
    gone = client.get(f"{API}/vehicles/999/ten-litres/plan")
    assert gone.status_code == 404 and gone.json()["error"]["code"] == 404


def test_readings_come_in_all_of_them_or_none(client, box):
    from isotherma.files.readings_csv import HEADING

    line = dict.fromkeys(HEADING, "")
    line |= {"session": "first", "kind": "draw", "time_s": "0", "quantity": "flow.head",
             "value": "4.1", "unit": "L/min"}  # fmt: skip
    table = ",".join(HEADING) + "\n" + ",".join(line[name] for name in HEADING) + "\n"
    path = f"{API}/vehicles/{box}/ten-litres/readings"
    kept = client.post(path, content=table.encode())
    assert kept.status_code == 201 and kept.json()["kept"] == 1, kept.text
    bad = client.post(path, content=(table + table.splitlines()[1].replace("4.1", "much")).encode())
    assert bad.status_code == 422 and bad.json()["error"]["rows"][0]["line"] == 2
    assert client.post(path, content=b"nothing of the kind").status_code == 422
    log = client.get(f"/vehicles/{box}/ten-litres/log?view=sessions&session=first")
    assert "4.1" in text(soup(log))


@pytest.mark.usefixtures("worker")
def test_a_dossier_is_a_job_with_progress(client, box):
    path = f"{API}/vehicles/{box}/ten-litres/dossier"
    begun = client.post(path)
    assert begun.status_code == 202
    where = begun.headers["location"]
    until = time.monotonic() + 60.0
    while (job := client.get(where).json())["state"] in ("waiting", "running"):
        assert time.monotonic() < until and job["done"] <= max(1, job["whole"])
        time.sleep(0.1)
    assert job["state"] == "done"
    assert client.post(path).content.startswith(b"%PDF")
    assert client.get(f"{API}/jobs/999999").status_code == 404


def test_it_is_described_for_people_and_for_programs(client):
    page = soup(client.get(API))
    named = [text(one) for one in page.select("h2 code")]
    described = client.get(f"{API}/openapi.json").json()
    assert described["openapi"].startswith("3.")
    assert len(named) == sum(len(ways) for ways in described["paths"].values()) >= 12
    assert "PUT /api/v1/vehicles/{vehicle_id}/project" in named
    assert all(way["description"] for ways in described["paths"].values() for way in ways.values())


def test_a_token_opens_as_much_as_its_owner_may_and_ends(workshop):  # noqa: F811 - a fixture
    app = workshop.app
    owner, stranger = workshop.people["owner"], workshop.people["stranger"]
    token = text(soup(owner.post("/me/token", data={"label": "Van box"})).select_one("#token"))
    unnamed = owner.post("/me/token", data={"label": " "})
    assert unnamed.status_code == 422 and "know it again" in unnamed.text
    program = client_of(app)
    bare = program.get(f"{API}/vehicles")
    assert bare.status_code == 401 and bare.headers["www-authenticate"] == "Bearer"
    program.headers["authorization"] = f"Bearer {token}"
    assert program.get(f"{API}/vehicles").json()["total"] == 1
    path = f"{API}/vehicles/{workshop.vehicle}/project"
    assert program.get(path).status_code == 200
    other = text(soup(stranger.post("/me/token", data={"label": "x"})).select_one("#token"))
    thief = client_of(app)
    thief.headers["authorization"] = f"Bearer {other}"
    assert thief.get(path).status_code == 404
    assert thief.get(f"{API}/vehicles").json()["total"] == 0
    page = soup(owner.get("/me"))
    row = next(one for one in page.select("tbody tr") if "Van box" in text(one))
    owner.post("/me/end", data={"number": row.select_one("input[name=number]")["value"]})
    assert program.get(path).status_code == 401
    looker = client_of(app, account(app, "reader"))
    visiting(ALONE)
    app.state.services.sharing.share(workshop.vehicle, "reader", "look")
    assert looker.get(path).status_code == 200
    put = looker.put(path, content=b"{}", headers={"if-match": '"1"'})
    assert put.status_code == 404
