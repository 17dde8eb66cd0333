"""Whoever chose US units reads no metric figure but sizes that are names: every page and view."""

from __future__ import annotations

import re

import pytest
from bs4 import BeautifulSoup
from hypothesis import given
from hypothesis import strategies as st

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.core.checks.found import CHECKS
from isotherma.core.quantity import UnitSystem
from isotherma.wording import check_how
from isotherma.wording.reader import in_units
from tests.web.test_pages import soup, text

PAGES = (
    "brief", "heat", "layout", "parts", "spaces", "flow", "shower", "budgets", "power", "checks",
    "shopping", "shopping?view=pieces", "shopping?view=holes", "build", "build?view=stages",
    "build?view=visits", "faults", "faults/practice?seed=4", "log", "compare", "dossier",
    *(f"use?view={view}" for view in ("now", "lead", "tap", "gauge", "park", "damp", "routines",
                                      "drain", "trouble", "diary")),
)  # fmt: skip
# mm names tubes, threads and drills; g/L stands on the label of what is poured in
METRIC = re.compile(
    r"(?<![\w.,])\d[\d.,]*[ \u00a0]?(?:°C|K|mL|L|L/min|L/h|cm|m|kg|kPa|mbar|bar(?! of))(?![\w/°²³])"
)
MADE = {"folio": folio, "drover": drover, "curlew": curlew}


def written_by_hand(project):
    """What somebody wrote, which nobody translates: names, reasons, notes; the longest first."""
    found = {project.name, project.brief.note}
    for one in project.variants:
        pieces = (*one.system.parts, *one.system.runs, *one.system.spaces)
        found |= {getattr(piece, "label", None) or piece.name for piece in pieces}
        found |= {answered.reason for answered in one.acknowledged}
    return sorted(filter(None, found), key=len, reverse=True)


@pytest.mark.parametrize("name", MADE)
def test_no_page_says_a_metric_figure_to_who_chose_us_units(client, name):
    project = MADE[name]()
    by_hand = re.compile("|".join(map(re.escape, written_by_hand(project))), re.IGNORECASE)
    number = client.app.state.services.vehicles.create(project, "Started")
    client.cookies.set("units", "us")
    found = []
    for page in (*PAGES, "/sums"):
        path = page if page[0] == "/" else f"/vehicles/{number}/{project.variants[0].id}/{page}"
        answer = client.get(path)
        assert answer.status_code == 200, page
        read: BeautifulSoup = soup(answer)
        main = read.select_one("main") or read
        for away in main.select("script, style, option, code"):
            away.extract()
        said = by_hand.sub("…", text(main))
        found += [f"{page}: {said[max(0, one.start() - 50):one.end() + 20]}"
                  for one in METRIC.finditer(said)]  # fmt: skip
    assert not found, "\n".join(found[:60])


def test_how_a_check_is_judged_says_no_metric_figure_either():
    said = {of: check_how(of, UnitSystem.US) for of in CHECKS}
    assert not {of: words for of, words in said.items() if METRIC.search(words)}
    assert said["pressure.vent"] == "Bore of the vent of what is open, at least 0.31\u00a0in."


@pytest.mark.parametrize(("metric", "us"), [
    ("8 mm", "0.31 in"), ("20 to 45 °C", "68 to 113 °F"), ("5 K over it", "9 °F over it"),
    ("0.3 m of pipe", "12 in of pipe"), ("15 m; before", "49 ft; before"), ("−5 °C", "23 °F"),
    ("0.1 L", "3.4 fl oz"), ("10 kg or more", "22 lb or more"), ("−0.4 bar", "-5.8 psi"),
    ("50 g/L", "50 g/L"), ("2 W/m²K", "2 W/m²K"), ("a 3 m² roof", "a 3 m² roof"),
])  # fmt: skip
def test_a_fixed_sentence_says_its_figures_in_us_units(metric, us):
    assert in_units(metric, UnitSystem.US).replace("\u00a0", " ") == us
    assert in_units(metric, UnitSystem.METRIC) == metric


@given(st.floats(-40, 120).map(lambda value: round(value, 1)))
def test_a_temperature_of_a_sentence_is_the_same_temperature(value):
    said = in_units(f"at {value:g} °C", UnitSystem.US)
    assert said.startswith("at ") and said.endswith("°F")
    fahrenheit = float(said[3:-3].replace("−", "-"))
    assert fahrenheit == pytest.approx(value * 1.8 + 32.0, abs=0.6)
