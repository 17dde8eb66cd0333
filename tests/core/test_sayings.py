"""What is said of a state sets its valves: the fewest moves, one source, nothing lit dry."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import folio
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.errors import ChangeRefused
from isotherma.core.system.configuration import ports_reached
from isotherma.core.system.dangers import dangers
from isotherma.core.system.kinds.use import Outlet
from isotherma.core.system.sayings import Saying, positions_for, sayings
from isotherma.core.system.states import Position, State
from tests.networks import Grown

# the layout whose heater is only for outdoors stands with its locker open in all its states
OPENED_BY_HAND = {("locker-through-flow", "outdoors_only_inside")}


def said(system, saying):
    found = positions_for(system, saying)
    return None if found is None else State(
        id="said", name="Said",
        positions=tuple(Position(part=key, at=at) for key, at in found.items()),
    )  # fmt: skip


@pytest.mark.parametrize("name", layouts())
def test_every_outlet_of_every_layout_is_fed_from_every_source_there_is_a_way_from(name):
    system = layouts()[name].system
    found = sayings(system)
    outlets = {part.id for part in system.parts if isinstance(part, Outlet)}
    assert {saying.outlet for saying in found} == outlets
    assert all(said(system, saying) is not None for saying in found)
    for saying in found:
        state = said(system, saying)
        pumps = [part.id for part in system.fitted(saying.source)]
        begun = [saying.source, *pumps]
        reached = {
            key for begin in begun for port in system.part(begin).ports
            for key, _ in ports_reached(system, state, (begin, port.name))
        }  # fmt: skip
        assert saying.outlet in reached
        codes = {(name, remark.code) for remark in dangers(system, state)}
        assert codes <= OPENED_BY_HAND


@pytest.mark.parametrize(
    ("name", "outlet", "source", "expected"),
    [
        pytest.param("two-knob-selector", "head", "river", {"source": "second"},
                     id="a selector on the suction, as its own state has it"),
        pytest.param("seat-store", "head", "bucket", {"join": "second"},
                     id="a bucket by the pump that hangs in it"),
        pytest.param("hung-outside", "spray", "tank",
                     {"heater-plug": "apart", "fill-plug": "apart", "spray": "open"},
                     id="one socket for three, and the heater has its bucket"),
        pytest.param("two-tank-storage", "head", "tank", {}, id="as it usually stands"),
    ],
)  # fmt: skip
def test_valves_follow_from_what_is_said(name, outlet, source, expected):
    """Worked out on the drawing of each layout, by hand."""
    assert positions_for(layouts()[name].system, Saying(outlet, source)) == expected


def test_where_no_way_leads_there_is_no_answer():
    system = layouts()["seat-store"].system
    assert positions_for(system, Saying("head", "grey")) is None
    project = folio()
    with pytest.raises(ChangeRefused) as refused:
        editing.say_state(project, "button", "head", "grey")
    assert refused.value.reason == "no_way"
    with pytest.raises(ChangeRefused) as refused:
        editing.say_state(project, "button", "nothing", "tank")
    assert refused.value.reason == "gone"


def test_a_state_is_named_as_it_was_said():
    changed = editing.say_state(folio(), "button", "kitchen", "tank")
    state = changed.variant("button").system.states[-1]
    assert state.name == "Kitchen tap from tank under the shelves"
    assert state.positions == ()
    again = editing.say_state(changed, "button", "kitchen", "tank")
    ids = [state.id for state in again.variant("button").system.states]
    assert len(set(ids)) == len(ids)


@pytest.mark.parametrize("seed", range(12))
def test_any_network_can_be_asked(seed):
    system = Grown(seed, 30).system()
    for saying in sayings(system):
        found = positions_for(system, saying)
        assert found is not None
        parts = {part.id: part for part in system.parts}
        assert all(at in parts[key].positions for key, at in found.items())
