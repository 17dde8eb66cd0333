"""Every finding of a day in words: with its numbers in the reader's units, and what to do."""

from __future__ import annotations

import re

import pytest

from isotherma.core.findings import Finding, Quantity
from isotherma.core.quantity import UnitSystem
from isotherma.wording import CAUTIONS, caution
from isotherma.wording.reader import Reader, few, number

LABELS = {"head": "Fine head", "pump": "Small pump", "fuse": "Main fuse", "store": "Foamed store",
          "element": "Element", "limit": "Cut-out", "heater": "Gas heater", "cells": "Two cells",
          "run": "Long cable", "second": "Short cable", "third": "Third cable"}  # fmt: skip


def q(value, style):
    return Quantity(value, style)


HOT = {
    "draw": "Early shower", "severity": "stop", "peak_c": q(60.0, "temperature"),
    "limit_c": q(43.0, "temperature"), "over_s": q(4.0, "duration"), "child": 0,
    "childs_limit": 0, "hot_draws": 2, "draws": 3, "burns_s": q(5.0, "duration"),
}  # fmt: skip
AMPS = {"takes_a": q(37.0, "current"), "bears_a": q(20.0, "current")}
# one of every code, with a word its sentence must have and a number it must show in metric
FOUND: tuple[tuple[Finding, str, str], ...] = (
    (Finding("hot_on_skin", ("head",), HOT), "Do not use it like this", "60"),
    (Finding("hot_before_it_settles", ("head",), HOT | {"severity": "fix"}), "Mend this", "43"),
    (Finding("mixer_starved", (), {"least_m3_per_s": q(5e-5, "flow"), "draw": "Rinse",
                                   "flow_m3_per_s": q(2.5e-5, "flow")}), "may not hold", "1.5"),
    (Finding("pump_switches"), "pulse", ""),
    (Finding("will_not_have", ("store",), {"what": "gas"}), "will not have gas", ""),
    (Finding("outlet_lacking", ("head",), {"draws": ("Rinse", "Boots")}), "“Rinse”, “Boots”", ""),
    (Finding("state_lacking", (), {"draws": ("Rinse",)}), "lacks the state", ""),
    (Finding("goes_round", ("head",), {"draw": "Long shower"}), "never to drink", ""),
    (Finding("fuse_alone", ("fuse", "pump"), AMPS), "Never fit a larger fuse", "37"),
    (Finding("fuse_waits", ("fuse", "pump", "element"), AMPS), "not to run together", "20"),
    (Finding("fuse_blows", ("fuse", "pump", "element"), AMPS), "as it does", "37"),
    (Finding("fuse_would_blow", ("fuse", "pump", "element"), AMPS), "which does not happen", "37"),
    (Finding("pitch_trips", ("store",), {"takes_w": q(3000.0, "power"),
                                         "gives_w": q(2300.0, "power")}), "trips", "2300"),
    (Finding("cut_out_waits", ("limit", "element"), {"opens_c": q(85.0, "temperature")}),
     "waits for a hand", "85"),
    (Finding("never_drives", ("element",)), "never runs here", ""),
    (Finding("no_panel", ("element",)), "there is no panel", ""),
    (Finding("wires_keep", ("element",), {
        "keeps_v": q(1.5, "voltage"), "of_v": q(12.0, "voltage"), "reaches_w": q(90.0, "power"),
        "lost_w": q(12.0, "power")}), "Thicker or shorter", "1.5"),
    (Finding("wires_unmeasured", ("run", "second", "third")), "and 1 more", ""),
    (Finding("cells_unmeasured", ("cells", "heater")), "Weak cells", ""),
    (Finding("bottle_swapped", (), {"at_s": q(90000.0, "duration"),
                                    "takes_s": q(300.0, "duration")}), "without a flame", "1:00"),
    (Finding("bottle_ends", (), {"at_s": q(3600.0, "duration"), "swaps": 1}), "The last", "1:00"),
    (Finding("bottle_cold", (), {
        "at_s": q(7200.0, "duration"), "needs_pa": q(5e4, "pressure"),
        "load_kg_per_s": q(1e-4, "mass_flow"), "lasting_kg_per_s": q(5e-5, "mass_flow")}),
     "larger bottle", "0.36"),
    (Finding("battery_ends", (), {"at_s": q(80000.0, "duration")}), "goes on without it", ""),
    (Finding("dry_fire", ("store", "element"), {"passes_c": q(100.0, "temperature"),
                                                "after_s": q(90.0, "duration")}),
     "thermal cut-out", "100"),
    (Finding("grows_nowhere", ("store",), {"grows_m3": q(2e-4, "volume")}), "relief valve", "0.2"),
    (Finding("grows_unguarded", ("store",), {"grows_m3": q(2e-4, "volume"),
                                             "reaches_pa": q(4e5, "pressure")}), "guards it", "4"),
    (Finding("relief_lets_out", ("store",), {"grows_m3": q(2e-4, "volume"),
                                             "let_out_m3": q(5e-4, "volume")}), "a day", "0.5"),
    (Finding("use_not_heated", (), {"uses": ("Dishes",)}), "“Dishes”", ""),
    (Finding("not_known", ("pump", "store"), {"titles": ("Open flow", "Volume")}),
     "Small pump: open flow, Foamed store: volume", ""),
)  # fmt: skip


def said(finding, units=UnitSystem.METRIC):
    return caution(finding, Reader(LABELS, units)).replace("\u00a0", " ")


def test_one_of_every_code_is_here():
    assert {finding.code for finding, _, _ in FOUND} == set(CAUTIONS)


@pytest.mark.parametrize(("finding", "words", "figure"), FOUND, ids=lambda item: str(item)[:40])
def test_it_says_what_it_is_with_its_numbers(finding, words, figure):
    sentence = said(finding)
    assert words in sentence and figure in sentence
    assert (sentence.endswith(".") and sentence[0].isupper()) or sentence[0] == "“"
    assert not re.search(r"\bsafe\b|None|nan|Quantity|\{|\}", sentence, re.IGNORECASE)
    for key in finding.parts[:2]:
        assert LABELS[key].lower() in sentence.lower() or finding.code in {
            "hot_on_skin", "will_not_have", "pitch_trips", "goes_round",
        }  # fmt: skip


@pytest.mark.parametrize("finding", [item for item, _, _ in FOUND], ids=lambda item: item.code)
def test_in_us_units_no_metric_is_left(finding):
    sentence = said(finding, UnitSystem.US)
    assert not re.search(r"\d (L|bar|°C|kg/h|L/min)\b", sentence), sentence


def test_a_child_is_said():
    child = said(Finding("hot_on_skin", ("head",), HOT | {"child": 1, "childs_limit": 1}))
    assert "a child’s limit" in child and "a child’s skin" in child
    grown = said(Finding("hot_on_skin", ("head",), HOT | {"severity": "watch", "hot_draws": 1}))
    assert "the limit" in grown and "Feel the water" in grown and "draws)" not in grown
    slow = {key: value for key, value in HOT.items() if key != "burns_s"}
    assert "burns" not in said(Finding("hot_on_skin", ("head",), slow))


def test_a_battery_that_ends_on_another_day_says_so():
    later = said(Finding("battery_ends", (), {"at_s": q(2.5 * 86400.0, "duration")}))
    assert "on day 3" in later and "those before" in later


def test_a_thing_without_a_name_stands_with_its_id():
    reader = Reader({}, UnitSystem.METRIC)
    assert "pump-7" in caution(Finding("never_drives", ("pump-7",)), reader)
    assert reader.names(["a", "b"]) == "a, b"


def test_few_says_how_many_more():
    assert (
        few(["a"]) == "a"
        and few("abcde") == "a, b, c and 2 more"
        and few("ab", 1) == ("a and 1 more")
    )


def test_values_are_read_as_numbers():
    finding = Finding("x", (), {"a": q(2.5, "power"), "b": 3, "c": ("x", "y"), "d": "word"})
    assert number(finding, "a") == 2.5 and number(finding, "b") == 3.0
    reader = Reader({}, UnitSystem.METRIC)
    assert reader.value(finding, "c") == "x, y" and reader.value(finding, "d") == "word"
    with pytest.raises(AssertionError):
        number(finding, "d")
    assert finding.part_id == ""
