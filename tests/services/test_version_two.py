"""Version two: what removes a complaint of a design as it was measured, by a run of its own."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import drover
from isotherma.core import editing
from isotherma.core.cache import Caches
from isotherma.core.options.changes import Change, What
from isotherma.core.options.version_two import (
    FREE,
    TRIED_MOST,
    Complaint,
    Proposal,
    candidates,
    complaints_of,
    in_order,
)
from isotherma.core.system.kinds.heat import Store
from isotherma.files.plain import read_plain, write_plain
from isotherma.services.long_work import Asker
from isotherma.services.turns import Cancelled
from isotherma.services.version_two import WRITTEN, VersionTwoService, compute_version_two
from tests.support import computed


@pytest.fixture(scope="module")
def box():
    project = drover()
    return project, compute_version_two(project, project.variant("fourteen"))


def test_what_is_proposed_removes_what_it_says(box):
    project, found = box
    keys = {one.key for one in found.complaints}
    assert keys == {one.key for one in complaints_of(computed(project, "fourteen"))}
    assert found.proposals and 0 < found.tried <= TRIED_MOST
    for one in found.proposals[:4]:
        if one.change.edit:
            continue
        after = computed(editing.set_values(project, dict(one.change.values)), "fourteen")
        left = {other.key for other in complaints_of(after)}
        assert set(one.removes) == keys - left and one.removes
        assert not set(one.removes) & left


def test_what_breaks_nothing_and_costs_nothing_comes_first(box):
    _, found = box
    for key in {one.key for one in found.complaints}:
        rows = found.removing(key)
        assert [bool(one.breaks) for one in rows] == sorted(bool(one.breaks) for one in rows)
    for one in found.proposals:
        if one.change.what in FREE:
            assert one.money == 0.0
        assert one.holes >= 0
    change = Change(What.FLOW, "", 1.0, 0.5, "flow", {})
    takes = ((("b",), 0.0, 0, 0.0), ((), None, 0, 0.0), ((), 10.0, 1, 5.0), ((), 10.0, 0, 9.0),
             ((), 10.0, 0, 5.0))  # fmt: skip
    rows = [Proposal(change, ("a",), *one) for one in takes]
    assert list(in_order(rows)) == [rows[4], rows[3], rows[2], rows[1], rows[0]]


def test_a_design_that_does_all_is_left_alone():
    project = drover()
    brief = project.brief.model_copy(update={"days": 1, "draws": project.brief.draws[:1]})
    project = project.model_copy(update={"brief": brief})
    outcome = computed(project, "fourteen")
    assert complaints_of(outcome) == ()
    assert candidates(project, project.variant("fourteen"), outcome) == ()
    found = compute_version_two(project, project.variant("fourteen"))
    assert found.complaints == () and found.proposals == () and found.tried == 0


def test_what_measuring_overturned_is_marked_and_comes_first():
    """A store that loses far more than was thought leaves somebody cold who was warm on paper."""
    project = drover()
    thought = {one.key for one in complaints_of(computed(project, "ten-litres"))}
    measured = editing.take_measured(project, "ten-litres", {
        "path": "parts.store.volume_m3", "value": 0.006, "low": 0.0058, "high": 0.0062,
        "sessions": (), "on": "2026-11-20",
    })  # fmt: skip
    variant = measured.variant("ten-litres")
    found = compute_version_two(measured, variant)
    marked = [one.overturned for one in found.complaints]
    assert any(marked) and marked == sorted(marked, reverse=True)
    assert {one.key for one in found.complaints if one.overturned}.isdisjoint(thought)
    # a larger store replaces the figure that was measured: it would win over it
    outcome = computed(measured, "ten-litres")
    store = next(one for one in candidates(measured, variant, outcome) if one.what is What.STORE)
    larger = editing.set_values(measured, dict(store.values)).variant("ten-litres")
    assert larger.measured == ()
    part = larger.built.system.part("store")
    assert isinstance(part, Store) and part.volume_m3 == store.after


def test_it_is_written_read_back_remembered_and_stopped(box):
    project, found = box
    assert read_plain(write_plain(found), WRITTEN) == found
    service = VersionTwoService(Caches(10_000_000))
    assert service.known(project, project.variant("fourteen")) is None
    mine = service.found(project, project.variant("fourteen"), Asker())
    assert service.known(project, project.variant("fourteen")) == mine == found
    with pytest.raises(Cancelled):
        compute_version_two(project, project.variant("fourteen"), lambda: True)
    assert Complaint("wait", "rinse", "Rinse").key == "wait.rinse"
