"""The smallest changes that meet a brief: found by trying at most twenty days, ended when asked."""

from __future__ import annotations

from dataclasses import dataclass

import pytest

from isotherma.catalogue.layouts import layouts
from isotherma.core.editing import set_values
from isotherma.core.options.changes import TRIED_AT_MOST, Change, What, shortfall
from isotherma.core.results.outcome import Outcome
from isotherma.services.mending import Mend, MendingService, find_mends
from isotherma.services.runs import compute
from isotherma.services.turns import Cancelled


def change(what, step=1, path=""):
    return Change(what, "", None, float(step), "number", {path or f"{what}": step}, step)


@dataclass
class World:
    """A made-up design: how far each lever, fully turned, brings it."""

    worth: dict[What, float]
    far: float = 1.0
    runs: int = 0

    def run(self, changes):
        self.runs += 1
        left = self.far - sum(self.worth[item.what] * item.step for item in changes)
        return Mend(tuple(changes), {}, max(0.0, left))


def told(_):
    """Nobody listens."""


def test_the_smallest_step_that_does_it_is_found():
    world = World({What.FLOW: 0.4, What.MINUTES: 0.1})
    flows = [change(What.FLOW, step) for step in (1, 2, 3, 4)]
    found = find_mends([*flows, change(What.MINUTES)], world.run, told)
    assert [[item.step for item in mend.changes] for mend in found.mends] == [[3]]  # 3 × 0.4 ≥ 1
    assert found.nearest is None and found.tried == world.runs


def test_two_that_do_not_do_it_alone_do_it_together():
    world = World({What.FLOW: 0.3, What.MINUTES: 0.25, What.DAYS: 0.05}, far=0.5)
    found = find_mends([change(what) for what in world.worth], world.run, told)
    assert [{item.what for item in mend.changes} for mend in found.mends] == [
        {What.FLOW, What.MINUTES}
    ]


def test_three_are_put_together_when_two_are_not_enough():
    world = World({What.FLOW: 0.4, What.MINUTES: 0.3, What.DAYS: 0.3})
    found = find_mends([change(what) for what in world.worth], world.run, told)
    assert [len(mend.changes) for mend in found.mends] == [3]


def test_what_never_does_it_names_what_came_nearest_within_twenty_runs():
    world = World(dict.fromkeys(What, 0.01), far=9.0)
    found = find_mends([change(what) for what in What], world.run, told)
    assert found.mends == () and found.nearest is not None
    assert found.tried == world.runs == TRIED_AT_MOST
    assert find_mends([], world.run, told).nearest is None


def test_changes_of_one_value_are_not_made_together():
    world = World({What.FLOW: 0.6, What.MINUTES: 0.6})
    same = [change(What.FLOW, path="brief.x"), change(What.MINUTES, path="brief.x")]
    assert find_mends(same, world.run, told).mends == ()


@pytest.mark.parametrize(
    "name", ["seat-store", "gas-combi", "pitch-store", "hung-outside", "two-knob-selector"]
)
def test_a_mend_of_a_layout_meets_its_brief_when_it_is_kept(name):
    project = layouts()[name].project()
    variant = project.variants[0]
    outcome = compute(project, variant)
    assert isinstance(outcome, Outcome) and shortfall(outcome) > 0.0
    found = MendingService.compute_mends(project, variant, outcome)
    assert found.mends and found.tried <= TRIED_AT_MOST
    for mend in found.mends:
        values = {path: value for item in mend.changes for path, value in item.values.items()}
        kept = set_values(project, values)
        after = compute(kept, kept.variants[0])
        assert isinstance(after, Outcome)
        assert shortfall(after) == 0.0 and all(draw.met for draw in after.draws)
    assert [mend.weight for mend in found.mends] == sorted(mend.weight for mend in found.mends)


def test_it_ends_when_its_reader_leaves_and_says_how_far_it_is():
    project = layouts()["gas-combi"].project()
    variant = project.variants[0]
    outcome = compute(project, variant)
    assert isinstance(outcome, Outcome)
    counts: list[int] = []

    def stopped() -> bool:
        return len(counts) > 3

    with pytest.raises(Cancelled):
        MendingService.compute_mends(project, variant, outcome, stopped, counts.append)
    assert counts == [1, 2, 3, 4]
