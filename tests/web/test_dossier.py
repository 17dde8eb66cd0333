"""The dossier: what is on paper is what the pages say."""

from __future__ import annotations

import io
import re
from typing import Any

import pypdf
import pytest

from isotherma.catalogue.demo import drover, folio
from isotherma.core.project import FORMAT_VERSION
from isotherma.core.system import System
from isotherma.files.project_file import read_project
from isotherma.web.dossier.document import digest_of
from tests.web.test_pages import finished, soup, text

pytestmark = pytest.mark.usefixtures("worker")


def kept(client, project):
    number = client.app.state.services.vehicles.create(project, "Started")
    return f"/vehicles/{number}/{project.variants[0].id}"


def written(client, path, **asked) -> Any:
    """The PDF, once a worker has written it, with its text."""
    query = client.build_request("GET", f"{path}/dossier", params={"ask": "1", **asked}).url.query
    page = soup(finished(client, f"{path}/dossier?{query.decode()}"))
    link = page.select_one("#dossier-made a.button-strong")
    assert link is not None, text(page.select_one("main"))
    answer = client.get(link["href"])
    assert answer.headers["content-type"] == "application/pdf"
    read = pypdf.PdfReader(io.BytesIO(answer.content))
    words = " ".join(one.extract_text() for one in read.pages)
    return read, " ".join(words.split()), answer


def bookmarks(read):
    return [str(one.title) for one in read.outline if not isinstance(one, list)]


def test_the_whole_dossier_says_what_the_pages_say(client):
    path = kept(client, folio())
    read, words, answer = written(client, path, set="whole")
    assert "folio-winter-button-dossier.pdf" in answer.headers["content-disposition"]
    assert bookmarks(read) == ["What it does", "Brief", "Route", "Spaces and states", "The day",
                               "Budgets", "Checks", "Parts, cutting and holes",
                               "Tests and work done", "Cards for the door", "What was assumed",
                               "For licensed people"]  # fmt: skip
    shower = soup(client.get(f"{path}/shower"))
    verdict = text(shower.select_one(".verdict"))
    assert verdict[1:] in words  # it begins with a capital on paper
    for cell in shower.select(".strip .cell"):
        used = text(cell.select_one(".cell-used"))
        if used != "0" and not used.startswith("0 "):
            assert used in words, used
    checks = soup(client.get(f"{path}/checks"))
    for row in checks.select(".finding summary .finding-says")[:6]:
        assert text(row) in words
    build = soup(client.get(f"{path}/build?view=stages"))
    for title in build.select(".stage-list h3")[:5]:
        assert text(title) in words
    for draw in shower.select(".chart")[:1]:  # the curve is drawn, its window named on it
        assert text(draw.select(".window-text")[0]) in words
    assert "gives out on day" in words
    assert "Answered for by Ruth" in words
    assert "no inspection" in words and not re.search(r"\bsafe\b|\bapproved\b|compliant", words)


def test_it_is_numbered_tagged_and_names_its_content(client):
    project = drover()
    path = kept(client, project)
    read, words, _ = written(client, path, set="short", paper="letter")
    services = client.app.state.services
    opened = services.vehicles.open(int(path.split("/")[2]))
    assert f"content {digest_of(opened.project)}" in words
    assert f"Version {opened.head_id}" in words
    pages = len(read.pages)
    assert f"1 of {pages}" in words and f"{pages} of {pages}" in words
    catalogue: Any = read.trailer["/Root"]
    assert catalogue["/MarkInfo"]["/Marked"] is True or bool(catalogue["/MarkInfo"]["/Marked"])
    assert "/StructTreeRoot" in catalogue and catalogue["/Lang"] == "en"
    assert read.metadata is not None and read.metadata.title == "Drover: dossier"
    wide = [float(one.mediabox.width) for one in read.pages]
    assert min(wide) == pytest.approx(612.0, abs=1) and max(wide) == pytest.approx(792.0, abs=1)


def test_the_short_one_has_the_card_of_a_shower_and_what_to_shut_not_the_routines(client):
    path = kept(client, drover())
    read, words, _ = written(client, path, set="short")
    assert bookmarks(read) == ["What it does", "Route", "Parts, cutting and holes",
                               "A warm shower, and if something is wrong"]  # fmt: skip
    assert "back of your hand" in words and "It smells of gas" in words
    assert "Lay up" not in words
    _, every, _ = written(client, path, chapter="cards")
    assert "back of your hand" in every and "It smells of gas" in every and "Lay up" in every


def test_an_offer_is_reckoned_by_hand_and_says_what_is_not_in_it(client):
    path = kept(client, drover())
    _, words, _ = written(client, path, set="offer", rate="45", hours="10", visit="120")
    assert "450.00" in words  # ten hours at 45
    visits = int(re.findall(r"(\d+) by the plan", words)[0])
    assert f"{visits * 120:,.2f}" in words
    together = float(re.findall(r"what is known of it ([\d,.]+\d)", words)[0].replace(",", ""))
    parts = re.findall(r"every line priced ([\d,.]+\d)|not in it ([\d,.]+\d)", words)
    bought = float(next(filter(None, parts[0])).replace(",", "")) if parts else 0.0
    assert together == pytest.approx(bought + 450.0 + visits * 120.0, abs=0.02)
    assert "Taxes, travel, tools" in words
    _, unsaid, _ = written(client, path, chapter="offer")
    assert "rate not said" in unsaid and "not known" in unsaid


@pytest.mark.parametrize("typed", ["lots", "-5", "1e99"])
def test_terms_that_cannot_be_read_are_said_and_kept(client, typed):
    path = kept(client, drover())
    page = soup(client.get(f"{path}/dossier", params={"ask": "1", "rate": typed}))
    field = page.select_one("#dossier-rate")
    assert field["value"] == typed and field["aria-invalid"] == "true"
    assert page.select_one("#dossier-rate-error") is not None
    away = client.get(f"{path}/dossier/file", params={"ask": "1", "rate": typed})
    assert away.status_code == 303 and away.headers["location"].startswith(f"{path}/dossier?")


def test_a_dossier_and_a_file_of_an_earlier_version(client):
    path = kept(client, drover())
    number = int(path.split("/")[2])
    services = client.app.state.services
    first = services.vehicles.open(number)
    services.vehicles.set_values(number, first.head_id, {"name": "Drover two"}, "Vehicle renamed")
    services.vehicles.name_revision(number, first.head_id, "As first drawn")
    page = soup(client.get(f"{path}/dossier"))
    options = [text(one) for one in page.select("#dossier-revision option")]
    assert any(one.endswith("As first drawn") for one in options)
    read, words, _ = written(client, path, chapter="brief", revision=str(first.head_id))
    assert "As first drawn" in words and read.metadata.title == "Drover: dossier"
    _, now, _ = written(client, path, chapter="brief")
    assert "Drover two" in now
    answer = client.get(f"/vehicles/{number}/export", params={"revision": first.head_id})
    assert read_project(answer.content).name == "Drover" and FORMAT_VERSION > 0
    other = kept(client, folio())
    stranger = services.vehicles.open(int(other.split("/")[2])).head_id
    for asked in (stranger, 999_999):
        assert client.get(f"/vehicles/{number}/export?revision={asked}").status_code == 404
        assert client.get(f"{path}/dossier?ask=1&revision={asked}").status_code == 404
    versions = soup(client.get(f"{path}/versions"))
    assert versions.select_one(f'a[href$="revision={first.head_id}"]') is not None


def test_texts_of_people_are_texts_and_fetch_nothing(client):
    project = drover()
    nasty = project.model_copy(update={
        "name": "Fünf & co {{ 7*7 }}",
        "brief": project.brief.model_copy(update={
            "note": "url(file:///etc/hostname) {% set x = 1 %} &amp; http://192.0.2.9/"}),
    })  # fmt: skip
    path = kept(client, nasty)
    read, words, _ = written(client, path, set="short", chapter="brief")
    assert "Fünf & co {{ 7*7 }}" in words and "{% set x = 1 %} &amp; http" in words
    assert not any(page.images for page in read.pages)


def test_what_happened_beside_the_design_makes_another_dossier(client):
    path = kept(client, drover())
    _, before, _ = written(client, path, chapter="tests")
    client.post(f"{path}/build/tick", data={"task": "mount.pump", "state": "done", "by": "Ines",
                                            "note": "on rubber"})  # fmt: skip
    _, after, _ = written(client, path, chapter="tests")
    assert "Ines" not in before and "Ines" in after and "on rubber" in after


def test_a_design_without_parts_has_nothing_to_write(client):
    project = drover()
    bare = project.variants[0].model_copy(update={"system": System(), "state": None})
    path = kept(client, project.model_copy(update={"variants": (bare,)}))
    assert "nothing to write down" in text(soup(client.get(f"{path}/dossier")))
