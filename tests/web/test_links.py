"""Links without account: what they open, how they end; a review from link to "before a change"."""

from __future__ import annotations

import re
from io import BytesIO

import psycopg
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from isotherma.catalogue.demo import drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.files.project_file import read_project
from isotherma.services.accounts import MOST_OF_ADDRESS, digest
from tests.web.test_pages import soup, text


def kept(client, project=None):
    project = project or drover()
    number = client.app.state.services.vehicles.create(project, "Started")
    return f"/vehicles/{number}/{project.variants[0].id}"


def make_link(client, path, **more):
    page = soup(client.post(f"{path}/share/link", data={"kind": "look", "label": "Fitter", **more}))
    return text(page.select_one("#link-made"))


def test_a_link_shows_chapters_and_files_and_nothing_to_change(client):
    path = kept(client, folio())
    link = make_link(client, path)
    assert re.fullmatch(r"/l/[\w-]{22}", link)
    answer = client.get(link)
    assert answer.headers["x-robots-tag"].startswith("noindex")
    assert answer.headers["referrer-policy"] == "no-referrer"
    page = soup(answer)
    assert "Four washes in January" in text(page)
    assert page.select("form[method=post]:not([action='/settings'])") == []
    for name in ("route", "checks", "parts", "day"):
        chapter = client.get(f"{link}?chapter={name}")
        assert chapter.status_code == 200 and "<style" not in chapter.text, name
    route = soup(client.get(f"{link}?chapter=route"))
    assert len(route.select(".block-drawing svg .node")) > 10
    given = client.get(f"{link}/file")
    read = read_project(given.content)
    assert [one.id for one in read.variants] == ["button"]  # of one variant, as was asked
    assert client.get(f"{link}?chapter=nothing").status_code == 200


def test_a_link_of_a_version_stays_and_one_of_the_newest_goes_along(client):
    path = kept(client)
    number = int(path.split("/")[2])
    fixed, newest = make_link(client, path), make_link(client, path, newest="true")
    client.post(f"/vehicles/{number}/rename", data={"name": "Drover two"})
    assert "Drover two" not in client.get(fixed).text
    assert "Drover two" in client.get(newest).text


def test_a_link_ends_when_it_is_revoked_or_too_old_or_its_vehicle_goes(client, database_url):
    path = kept(client)
    revoked, old, gone = (make_link(client, path) for _ in range(3))
    page = soup(client.get(f"{path}/share"))
    numbers = [int(one["value"]) for one in page.select("form[action$='/revoke'] input")]
    client.post(f"{path}/share/revoke", data={"number": max(numbers) - 2})
    with psycopg.connect(database_url) as connection:
        connection.execute("UPDATE link SET ends_at = now() WHERE token = %s",
                           (digest(old.rpartition("/")[2]),))  # fmt: skip
    for link in (revoked, old):
        for more in ("", "/file", "/dossier", "?chapter=checks"):
            assert client.get(link + more).status_code == 404, (link, more)
    assert client.get(gone).status_code == 200
    client.post(f"/vehicles/{path.split('/')[2]}/delete")
    assert client.get(gone).status_code == 404
    assert client.post(f"{path}/share/revoke", data={"number": 999}).status_code == 404


def test_a_link_to_look_reviews_nothing_and_the_other_way_round(client):
    path = kept(client)
    look, review = make_link(client, path), make_link(client, path, kind="review")
    assert review.startswith("/r/")
    assert client.get(look.replace("/l/", "/r/")).status_code == 404
    assert client.get(review.replace("/r/", "/l/")).status_code == 404


def test_wrong_links_are_counted(client):
    for _ in range(MOST_OF_ADDRESS):
        assert client.get("/l/" + "x" * 22).status_code == 404
    late = client.get("/l/" + "x" * 22)
    assert late.status_code == 429 and late.headers["retry-after"] == "900"


def test_the_owner_sees_when_it_was_opened_and_only_a_digest_is_kept(client, database_url):
    path = kept(client)
    link = make_link(client, path, label="Ada, gas")
    client.get(link, headers={"user-agent": "A phone of the fitter's"})
    client.get(f"{link}?chapter=checks")
    said = text(soup(client.get(f"{path}/share")))
    assert "To look: Ada, gas" in said and "opened once" in said and "A phone of the fitter" in said
    with psycopg.connect(database_url) as connection:
        rows = str(connection.execute("SELECT * FROM link").fetchall())
    assert link.rpartition("/")[2] not in rows


def picture() -> bytes:
    kept = BytesIO()
    Image.new("RGB", (60, 40), (90, 120, 60)).save(kept, "jpeg", exif=b"Exif\x00\x00MM\x00*")
    return kept.getvalue()


def gas_design():
    project = drover()
    made = layouts()["gas-combi"].system
    own = project.variants[0].model_copy(update={"system": made, "state": None})
    return project.model_copy(update={"variants": (own,)})


def items(client, link, trade):
    page = soup(client.get(f"{link}?trade={trade}"))
    names = [
        one["name"][2:] for one in page.select("[aria-labelledby=first-title] input[type=radio]")
    ]
    return page, list(dict.fromkeys(names))


def test_a_review_from_looking_to_before_a_change(client):
    path = kept(client, gas_design())
    link = make_link(client, path, kind="review", newest="true")
    fitter = TestClient(client.app, follow_redirects=False)
    page, asked = items(fitter, link, "gas")
    assert any(one.startswith("p.") for one in asked) and len(asked) >= 3
    assert "no measurement" in text(page) and not re.search(r"\bapproved\b|\bsafe\b", text(page))
    _, electrical = items(fitter, link, "electrical")
    assert set(asked) != set(electrical)
    bottle = next(one for one in asked if one.startswith("p.") and "bottle" in one)
    said = {"trade": "gas", f"v.{bottle}": "looked at", f"n.{bottle}": "strap is new",
            f"v.{asked[0]}": "must change"}  # fmt: skip
    unsigned = fitter.post(f"{link}/sign", data=said)
    assert unsigned.status_code == 422 and "Say your name" in unsigned.text
    again = soup(unsigned)
    assert again.find("input", {"name": f"n.{bottle}"})["value"] == "strap is new"
    assert again.find("input", {"name": f"v.{bottle}", "value": "looked at"}).has_attr("checked")
    who = {"name": "Ada Brook", "licence": "G-17", "on": "2027-03-28"}
    for missing in ("licence", "on"):
        part = {key: value for key, value in who.items() if key != missing}
        assert fitter.post(f"{link}/sign", data={**said, **part}).status_code == 422
    nothing = fitter.post(f"{link}/sign", data={"trade": "gas", **who})
    assert nothing.status_code == 422 and "at least" in nothing.text
    done = fitter.post(f"{link}/sign", data={**said, **who},
                       files={f"p.{bottle}": ("b.jpg", picture(), "image/jpeg")})  # fmt: skip
    assert done.status_code == 200 and "It is kept" in done.text
    owner = soup(client.get(f"{path}/share"))
    assert "Ada Brook" in text(owner) and "licence G-17" in text(owner)
    assert "strap is new" in text(owner) and owner.select_one("a[href*='/photos/']") is not None
    photo = client.get(owner.select_one("a[href*='/photos/']")["href"])
    assert photo.status_code == 200 and b"Exif" not in photo.content
    # something they did not look at is changed: it stands as it was signed
    services = client.app.state.services
    number = int(path.split("/")[2])
    head = services.vehicles.open(number)
    services.vehicles.set_values(number, head.head_id, {"name": "Another name"}, "renamed")
    assert "before a change" not in client.get(f"{path}/share").text
    where = f"variants.ten-litres.system.parts.{bottle[2:]}.name"
    head = services.vehicles.open(number)
    services.vehicles.set_values(number, head.head_id, {where: "A larger bottle"}, "changed")
    changed = soup(client.get(f"{path}/share"))
    assert "before a change" in text(changed) and "Changed after it was signed" in text(changed)
    assert "before a change" in fitter.get(link).text
    review = changed.select_one("form[action$='/answer'] input[name=number]")["value"]
    client.post(f"{path}/share/answer",
                data={"number": review, "text": "Turned round.", "close": "true"})  # fmt: skip
    assert "Answered: Turned round." in fitter.get(link).text
    assert client.post(f"{path}/share/answer", data={"number": 999}).status_code == 404


@pytest.mark.parametrize("body", [b"GIF89a not one of ours", b"<svg xmlns='x'/>", b""])
def test_a_photograph_that_is_none_is_refused_and_nothing_is_kept(client, body):
    path = kept(client, gas_design())
    link = make_link(client, path, kind="review")
    _, asked = items(client, link, "gas")
    said = {"trade": "gas", f"v.{asked[0]}": "looked at", "name": "A", "licence": "1",
            "on": "2027-03-28"}  # fmt: skip
    answer = client.post(f"{link}/sign", data=said,
                         files={f"p.{asked[0]}": ("../../x.jpg", body, "image/jpeg")})  # fmt: skip
    assert answer.status_code == 422 and "photograph" in answer.text.lower()
    assert "Nothing yet" in text(soup(client.get(f"{path}/share")))


def test_what_was_signed_is_in_the_dossier(client):
    from starlette.datastructures import QueryParams

    from isotherma.core.quantity import UnitSystem
    from isotherma.web.dossier.document import chapter_of
    from isotherma.web.dossier.work_chapters import Terms
    from isotherma.web.frame.context import PageContext

    path = kept(client, gas_design())
    link = make_link(client, path, kind="review")
    _, asked = items(client, link, "gas")
    client.post(f"{link}/sign", data={
        "trade": "gas", f"v.{asked[0]}": "must change", f"n.{asked[0]}": "vent too small",
        "name": "Ada Brook", "licence": "G-17", "on": "2027-03-28"})  # fmt: skip
    services = client.app.state.services
    opened = services.vehicles.open(int(path.split("/")[2]))
    context = PageContext(services, (), opened, "ten-litres", UnitSystem.METRIC, QueryParams(""))
    said = repr(chapter_of(context, "sign", Terms()))
    assert "Ada Brook" in said and "vent too small" in said and "must change" in said
