"""Every edit is a frozen command with a route, words for the history, and one way to be kept."""

from __future__ import annotations

from string import Formatter

import pytest
from pydantic import ValidationError

from isotherma.catalogue.demo import drover, folio
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project
from isotherma.services.edit import Edit
from isotherma.services.edits import EDITS, read_edit
from isotherma.wording import EDIT_LABELS, edit_label

DROVER, FOLIO = drover(), folio()
FIRST = DROVER.variants[0].id
# one of each that can be made on Drover's first variant, in this order
MADE: tuple[tuple[str, dict[str, str]], ...] = (
    ("wish.add", {"text": "Nothing lost from the cupboard", "hard": "yes"}),
    ("wish.judge", {"wish": "nothing-lost-from-the-cupboard", "of": "mini-store", "says": "no"}),
    ("wish.remove", {"wish": "nothing-lost-from-the-cupboard"}),
    ("check.rules", {"rules": "uk-eu"}),
    (
        "check.acknowledge",
        {"finding": "gas.tested", "severity": "unknown", "reason": "Next week", "by": "R. Moss"},
    ),
    ("check.take_back", {"finding": "gas.tested"}),
    ("end.set", {"part": "pump", "port": "inlet", "end": "male 3/8 in parallel"}),
    (
        "run.measure",
        {"run": "pump-out", "measured": "between faces", "legs": "30 cm; 90 elbow; 200 mm"},
    ),
    ("price.set", {"item": "clip", "size": "15 mm", "price": "4,50", "pack": "10"}),
    ("line.ordered", {"item": "clip", "size": "15 mm", "quantity": "20"}),
    (
        "line.bought",
        {
            "item": "clip",
            "size": "15 mm",
            "quantity": "20",
            "price": "5",
            "priced_on": "2026-11-28",
        },
    ),
    ("line.open", {"item": "clip", "size": "15 mm"}),
    ("part.bought", {"part": "pump", "price": "80", "priced_on": "2026-11-28"}),
    ("currency.set", {"currency": "EUR"}),
    ("tradition.set", {"tradition": "UK"}),
    ("hole.plan", {"run": "tank-run"}),
    (
        "hole.set",
        {
            "hole": "hole-tank-run",
            "bore": "43 mm",
            "made_of": "metal",
            "behind": "nothing",
            "drill_from": "below",
        },
    ),
    ("draw.add", {"preset": "rinse"}),
    ("draw.repeat", {"draw": "quick-rinse"}),
    ("draw.remove", {"draw": "quick-rinse"}),
    ("use.add", {"purpose": "pets"}),
    ("use.remove", {"use": "pets"}),
    ("part.insert", {"run": "hot-run", "part_class": "strainer-usual"}),
    ("part.remove", {"part": "strainer-usual"}),
    ("diverter.place", {"part": "head"}),
    ("part.add", {"part_class": "gas-bottle-usual"}),
    ("run.join", {"start": "gas-bottle-usual.outlet", "end": "burner.gas", "kind": "fuel_pipe"}),
    ("part.replace", {"part": "head", "part_class": "shower-head-fine"}),
    ("part.fit", {"host": "store", "part_class": "burner-usual"}),
    ("part.move", {"part": "burner-usual", "along": "4"}),
    ("part.put", {"part": "pump", "how": "on", "other": "burner-usual", "gap": "20 mm"}),
    ("piece.add", {"group": "spaces"}),
    ("piece.add", {"group": "states"}),
    ("piece.add", {"group": "phases"}),
    ("piece.add", {"group": "holes"}),
    ("state.day", {"state": "new-state"}),
    ("phase.day", {"phase": "new-phase"}),
    ("state.position", {"state": "new-state", "part": "shut-off", "at": "shut"}),
    ("state.say", {"outlet": "head", "source": "tank"}),
    ("state.place", {"state": "new-state", "part": "tank", "space": "new-space"}),
    ("state.put_back", {"state": "new-state", "part": "tank"}),
    ("piece.remove", {"group": "holes", "piece": "new-hole"}),
    ("owned.add", {"part_class": "hook-up-ten"}),
    ("owned.remove", {"part": "hook-up-10-a"}),
    ("day.add", {}),
    ("day.add", {"like": "day-1"}),
    ("stop.add", {"kind": "day-1", "what": "fill fresh"}),
    ("stop.remove", {"kind": "day-1", "stop": "fill-fresh"}),
    ("stop.plan", {"day": "1", "what": "empty grey"}),
    ("day.remove", {"kind": "day-1"}),
    ("trip.lay", {"preset": "touring"}),
    ("variant.copy", {}),
    ("family.strike", {"family": "canister"}),
    ("family.back", {"family": "canister"}),
    ("system.family", {"family": "canister", "sizes": "canister-long,element-small"}),
    ("system.empty", {}),
    ("system.guess", {"layout": "gas-combi"}),
    ("system.known", {}),
    ("system.empty", {}),
    ("system.usual", {}),
    ("system.layout", {"layout": "mini-store", "instead": "1"}),
    ("system.empty", {}),
    ("system.copy", {"source": "fourteen"}),
    ("measured.take", {"path": "parts.store.loss_w_per_k", "value": "0.8", "low": "0.7"}),
    ("measured.cold", {"value": "11.5"}),
    ("part.add", {"part_class": "float-sender-usual"}),
    (
        "gauge.take",
        {"part": "float-sender-usual", "points": "[[0.0, 0.001], [0.5, 0.03], [1.0, 0.07]]"},
    ),
    ("measured.forget", {"path": "parts.store.loss_w_per_k"}),
    ("variant.first", {"variant": "fourteen"}),
    ("variant.remove", {}),
)


def test_all_of_them_can_be_made_one_after_the_other():
    project, here = DROVER, FIRST
    for name, values in MADE:
        edit = read_edit(name, values)
        before = project
        project = edit.apply(before, here)
        assert project != before, name
        label = edit_label(edit.name, edit.subject)
        assert label and "{" not in label
        piece = edit.opens(before, project, here, "part-store")
        assert piece == "" or piece.startswith("part-")
        here = edit.shows(project, here)
        assert any(variant.id == here for variant in project.variants)
    assert {name for name, _ in MADE} | {
        "run.remove",
        "port.cap",
        "brief.keep",
        "changes.make",
    } == set(EDITS)


def test_the_document_is_never_written_to():
    before = DROVER.model_dump_json()
    read_edit("part.insert", {"run": "hot-run", "part_class": "strainer-usual"}).apply(
        DROVER, FIRST
    )
    assert DROVER.model_dump_json() == before


def test_an_open_end_is_capped():
    button = FOLIO.variants[0].id
    open_end = read_edit("run.remove", {"run": "mixed-split-head"}).apply(FOLIO, button)
    edit = read_edit("port.cap", {"end": "mixed-split.outlet"})
    capped = edit.apply(open_end, button)
    assert edit.opens(open_end, capped, button, "") == "part-blanking-cap-usual"
    assert edit_label(edit.name, edit.subject) == "Outlet capped"


def test_what_was_removed_is_not_open_any_more():
    edit = read_edit("part.remove", {"part": "strainer"})
    assert edit.opens(DROVER, edit.apply(DROVER, FIRST), FIRST, "part-strainer") == ""


@pytest.mark.parametrize(("name", "edit"), EDITS.items())
def test_each_says_what_it_is_and_takes_nothing_strange(name: str, edit: type[Edit]):
    assert edit.name == name and edit.__doc__
    fields = [field for _, field, _, _ in Formatter().parse(EDIT_LABELS[name]) if field is not None]
    assert len(fields) <= 1
    with pytest.raises(ValidationError):
        edit.model_validate({"nonsense": "x"})
    for key, info in edit.model_fields.items():
        if info.is_required():
            with pytest.raises(ValidationError):
                edit.model_validate({key: "x" * 4001})


def test_the_words_and_the_edits_are_the_same():
    assert set(EDIT_LABELS) == set(EDITS)


@pytest.mark.parametrize(
    ("name", "values", "reason"),
    [
        ("end.set", {"part": "castle", "port": "inlet", "end": "run"}, "gone"),
        ("end.set", {"part": "pump", "port": "inlet", "end": "push-in 17 mm"}, "unknown_size"),
        ("run.measure", {"run": "castle"}, "gone"),
        ("run.measure", {"run": "pump-out", "legs": "30 cm; 90"}, "last_leg_missing"),
        ("run.measure", {"run": "pump-out", "legs": "30 cm; 190; 2 m"}, "no_turn"),
        ("run.measure", {"run": "pump-out", "legs": "-3 cm"}, "no_length"),
        ("price.set", {"item": "clip", "price": "dear"}, "no_figure"),
        ("hole.plan", {"run": "pump-out"}, "one_space"),
        ("hole.plan", {"run": "castle"}, "gone"),
        ("part.add", {"part_class": "castle"}, "no_class"),
        ("part.remove", {"part": "castle"}, "gone"),
        ("part.replace", {"part": "mixer", "part_class": "shower-head-fine"}, "no_port"),
        ("part.fit", {"host": "tank", "part_class": "burner-usual"}, "does_not_sit"),
        ("draw.add", {"preset": "sauna"}, "gone"),
        ("use.add", {"purpose": "sauna"}, "gone"),
        ("system.layout", {"layout": "castle"}, "gone"),
        ("system.guess", {"layout": "castle"}, "gone"),
        ("system.copy", {"source": FIRST}, "same_variant"),
        ("run.join", {"start": "tank", "end": "pump.inlet", "kind": "pipe"}, "say_part_and_port"),
        ("run.join", {"start": "tank.outlet", "end": "pump.inlet", "kind": "rope"}, "no_run_kind"),
        ("state.position", {"state": "castle", "part": "tank", "at": "shut"}, "gone"),
        ("piece.remove", {"group": "states", "piece": "castle"}, "gone"),
    ],
)
def test_what_cannot_be_made_says_why(name: str, values: dict[str, str], reason: str):
    with pytest.raises(ChangeRefused) as refused:
        read_edit(name, values).apply(DROVER, FIRST)
    assert refused.value.reason == reason


def test_one_that_is_unknown_is_none():
    with pytest.raises(KeyError):
        read_edit("part.explode", {})


def made(*edits: tuple[str, dict[str, str]]) -> Project:
    project = DROVER
    for name, values in edits:
        project = read_edit(name, values).apply(project, FIRST)
    return project


def test_what_is_bought_adds_up_and_ends_the_order():
    clip = {"item": "clip", "size": "15 mm"}
    project = made(
        ("line.ordered", {**clip, "quantity": "20"}),
        ("line.bought", {**clip, "quantity": "15", "price": "5", "priced_on": "2026-11-28"}),
        ("line.bought", {**clip, "quantity": "5"}),
    )
    [kept] = project.prices
    assert (kept.have, kept.ordered, kept.price) == (20.0, 0.0, 5.0)
    assert kept.priced_on == "2026-11-28"


def test_an_entry_that_says_nothing_is_taken_out_and_a_price_of_0_says_something():
    clip = {"item": "clip", "size": "15 mm"}
    assert made(("price.set", {**clip, "price": "0"})).prices[0].price == 0.0
    assert made(("price.set", {**clip, "price": "3"}), ("price.set", {**clip, "price": ""})
                ).prices == ()  # fmt: skip


def test_legs_give_a_run_its_length_and_an_end_is_taken_back():
    project = made(
        (
            "run.measure",
            {"run": "pump-out", "measured": "between faces", "legs": "30 cm; 90 elbow; 200 mm"},
        ),
        ("end.set", {"part": "pump", "port": "inlet", "end": "Male 3/8 in in Parallel"}),
        ("end.set", {"part": "pump", "port": "outlet", "end": "run"}),
        ("end.set", {"part": "pump", "port": "outlet", "end": ""}),
    )
    system = project.variant(FIRST).system
    run = next(one for one in system.runs if one.id == "pump-out")
    assert run.length_m == pytest.approx(0.5)
    assert [(one.port, one.end) for one in system.part("pump").ends] == [
        ("inlet", "male 3/8 in parallel")]  # fmt: skip
