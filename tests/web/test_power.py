"""The page of wires and gas pipes: trees, what is on, what eats the volts, the offered cable."""

from __future__ import annotations

import json

import pytest

from isotherma.catalogue.demo import curlew, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from tests.web.test_flow import keep
from tests.web.test_pages import HTMX, soup, text


def thin(area_m2=1.5e-6):
    """Curlew with too thin a wire to its element."""
    at = "variants.store.system.runs"
    runs = ("battery-heat-circuit", "heat-circuit-heat-switch", "heat-switch-element")
    return editing.set_values(curlew(), {f"{at}.{run}.area_m2": area_m2 for run in runs})


def test_the_page_draws_the_tree_and_says_what_loses_most(client):
    path = keep(client, curlew())
    page = soup(client.get(f"{path}/power"))
    assert text(page.h1) == "What do the wires and the gas pipe carry?"
    assert "Element, 12 V gets 12.3 V" in text(page.find(id="wires-title"))
    rows = [text(row) for row in page.select(".power-tree.chart-wide a")]
    assert rows[0].startswith("Lithium battery, 100 Ah gives 20.4 A at 12.8 V")
    assert any(row.startswith("Element circuit 86% of 20 A") for row in rows)
    widths = {text(line.title): float(line["stroke-width"])
              for line in page.select(".chart-wide .tree-line")}  # fmt: skip
    heavy = next(width for words, width in widths.items() if "17.1 A" in words)
    light = next(width for words, width in widths.items() if "3.3 A" in words)
    assert heavy > light
    assert page.find(id="gas-title") is None  # nothing burns gas here


def test_what_is_not_on_takes_nothing_and_is_hollow(client):
    path = keep(client, curlew())
    page = soup(client.get(f"{path}/power?chosen=1&on.pump=1"))
    boxes = {box["name"]: box.has_attr("checked") for box in page.select(".power-on input[id]")}
    assert boxes == {"on.pump": True, "on.element": False, "on.dip": False}
    assert "not on" in text(page.find("a", attrs={"aria-label": "Element, 12 V: not on"}))
    none = soup(client.get(f"{path}/power?chosen=1"))
    assert "Nothing that takes electricity is on." in text(none.find(id="wires-title"))
    strange = client.get(f"{path}/power?chosen=1&on.castle=1&state=nowhere")
    assert strange.status_code == 200


def test_too_thin_a_wire_is_seen_and_the_offered_size_is_taken_and_undone(client):
    path = keep(client, thin())
    page = soup(client.get(f"{path}/power"))
    fuse = next(row for row in page.select("section[aria-labelledby=fuses-title] tbody tr")
                if "Element circuit" in text(row))  # fmt: skip
    assert "does not protect its cable, which bears 18 A" in text(fuse)
    row = next(row for row in page.select("section[aria-labelledby=loads-title] tbody tr")
               if "Element, 12 V" in text(row.th))  # fmt: skip
    before = text(row)
    button = row.find("button")
    assert text(button).startswith("Take 10 mm²")
    data = {str(one["name"]): str(one["value"]) for one in row.form.select("input")}
    assert {len(change) for change in json.loads(data["changes"])} == {3}
    after = soup(client.post(row.form["action"], data=data, headers=HTMX))
    row = next(row for row in after.select("section[aria-labelledby=loads-title] tbody tr")
               if "Element, 12 V" in text(row.th))  # fmt: skip
    assert row.find("button") is None and text(row) != before
    assert "does not protect" not in text(after)
    again = client.post("/".join(path.split("/")) + "/changes/make", data=data, headers=HTMX)
    assert again.status_code == 422  # it is not as it was any more


def test_minutes_to_hot_hang_on_the_wire(client):
    """The same figure as the day's: thinner wires leave less heat, and the store waits longer."""

    def minutes(made) -> str:
        page = soup(client.get(f"{keep(client, made)}/power"))
        row = next(row for row in page.select("section[aria-labelledby=loads-title] tbody tr")
                   if "Element, 12 V" in text(row.th))  # fmt: skip
        return str(text(row.select("td")[4]))

    thick, narrow = minutes(curlew()), minutes(thin())
    assert "h" in thick and "h" in narrow and thick != narrow


def test_gas_has_its_tree_its_table_and_its_bottle(client):
    path = keep(client, layouts()["gas-combi"].project())
    page = soup(client.get(f"{path}/power"))
    words = text(page.find("section", attrs={"aria-labelledby": "gas-title"}))
    assert "All together burn 0.6 kg/h, 40% of what the regulator gives." in words
    assert "mbar left: the pipes take" in words and "the full bottle carries this for" in words
    trees = page.select(".power-tree.chart-wide")
    assert len(trees) == 2 and "gives 30 mbar" in text(trees[1])
    alone = soup(client.get(f"{path}/power?chosen=1&on.hob=1"))
    assert "0.23 kg/h" in text(alone.find(id="gas-title"))
    client.cookies.set("units", "us")
    us = text(soup(client.get(f"{path}/power")))
    assert "inH₂O" in us and "lb/h" in us


def test_what_charges_is_said_and_drawn(client):
    path = keep(client, layouts()["open-sun-box"].project())
    page = soup(client.get(f"{path}/power"))
    rows = page.find("section", attrs={"aria-labelledby": "charges-title"}).select("tbody tr")
    cells = [text(cell) for cell in rows[0].select("td")]
    assert cells == ["18.2 A at 33.1 V", "30 A into Lithium battery, 300 Ah", "7.9 W"]
    tree = text(page.select_one(".power-tree.chart-wide"))
    assert "Roof panels, 3 × 200 W sends 18.2 A at 33.1 V at most" in tree


def test_an_appliance_alone_and_the_low_step_of_an_element_are_said(client):
    path = keep(client, layouts()["gas-combi"].project())
    table = soup(client.get(f"{path}/power")).find(attrs={"aria-label": "Appliances in figures"})
    hob = next(row for row in table.select("tbody tr") if "hob" in text(row.th).lower())
    assert text(hob.select("td")[-1]) == "6 h and more"
    stepped = editing.set_values(curlew(), {"variants.store.system.parts.element.low_w": 90.0})
    page = soup(client.get(f"{keep(client, stepped)}/power"))
    loads = text(page.find("section", attrs={"aria-labelledby": "loads-title"}))
    assert "low step 90 W" in loads


def test_nothing_electric_asks_for_a_part(client):
    made = client.post("/vehicles", data={"name": "E", "start": "empty"})
    path = made.headers["location"].removesuffix("/brief")
    page = soup(client.get(f"{path}/power"))
    assert "Nothing here takes electricity or gas yet." in text(page)


@pytest.mark.parametrize("key", layouts())
def test_every_layout_has_the_page_in_every_state(client, key):
    project = layouts()[key].project()
    path = keep(client, project)
    for state in ("", *(state.id for state in project.variants[0].system.states)):
        page = client.get(f"{path}/power", params={"state": state})
        assert page.status_code == 200 and "Traceback" not in page.text


def test_states_are_chosen_and_what_is_switched_off_says_so(client):
    path = keep(client, folio())
    page = soup(client.get(f"{path}/power"))
    states = [option["value"] for option in page.select("#power-state option")]
    assert len(states) > 1
    assert "switched off" in text(page)
    cold = soup(client.get(f"{path}/power?state={states[-1]}"))
    assert cold.select_one(f"#power-state option[value={states[-1]}]").has_attr("selected")


def test_a_bottle_is_as_cold_as_where_the_state_puts_it(client):
    """One that a state hangs outside has the air of outside, not that of its usual place."""
    from isotherma.services.power import carried

    project = layouts()["hung-outside"].project()
    variant = project.variants[0]
    bottle = next(part for part in variant.system.parts if part.kind == "gas_bottle")
    warm, cold = (
        editing.set_place(project, variant.id, variant.system.states[0].id, bottle.id, space.id)
        for space in sorted(
            (one for one in variant.system.spaces if one.warmth in ("heated", "outside")),
            key=lambda one: one.warmth,
        )
    )
    airs = [
        carried(made, made.variants[0], made.variants[0].system.states[0]).gas.air_c
        for made in (warm, cold)
    ]
    assert airs[0] > airs[1] + 1.0
