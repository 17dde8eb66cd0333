"""Parts put somewhere: by steps, beside others; drawn from above and from the side, to scale."""

from __future__ import annotations

from random import Random
from typing import Any

import pytest

from isotherma.core.drawing.stand import stand, tags, unplaced
from isotherma.core.editing import move_part, put_part
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.vehicle import Vehicle

BOX = {"width_m": 0.4, "depth_m": 0.3, "tall_m": 0.2}


def vehicle_of(*parts: dict[str, Any], **system: Any) -> Project:
    built = System.model_validate({
        "parts": [{"kind": "battery", **BOX, **part} for part in parts], "runs": [], **system,
    })  # fmt: skip
    return Project(name="Van", variants=(Variant(id="v", name="V", system=built),))


def place_of(project: Project, part: str) -> tuple[float | None, float | None, float | None]:
    found = project.variants[0].system.part(part)
    return found.x_m, found.y_m, found.z_m


def test_a_part_without_a_place_begins_on_the_floor_at_the_front():
    once = move_part(vehicle_of({"id": "a"}), "v", "a", 1.0, -0.5, 0.0)
    assert place_of(once, "a") == (1.0, -0.5, 0.0)
    twice = move_part(once, "v", "a", -0.05, 0.0, 0.1)
    assert place_of(twice, "a") == (0.95, -0.5, 0.1)
    with pytest.raises(ChangeRefused, match="gone"):
        move_part(once, "v", "b", 1.0, 0.0, 0.0)


@pytest.mark.parametrize(("how", "place"), [
    ("on", (1.0, 0.2, 0.75)), ("under", (1.0, 0.2, 0.25)),
    ("behind", (1.35, 0.2, 0.5)), ("ahead of", (0.65, 0.2, 0.5)),
    ("right of", (1.0, 0.65, 0.5)), ("left of", (1.0, -0.25, 0.5)),
])  # fmt: skip
def test_a_part_is_put_beside_another_with_a_gap(how, place):
    base = vehicle_of({"id": "a"}, {"id": "b", "x_m": 1.0, "y_m": 0.2, "z_m": 0.5})
    put = put_part(base, "v", "a", how, "b", 0.05)
    assert place_of(put, "a") == pytest.approx(place)


def test_it_goes_into_the_other_s_space():
    base = vehicle_of({"id": "a"}, {"id": "b", "x_m": 1.0, "y_m": 0.0, "z_m": 0.0, "space": "s"},
                      spaces=[{"id": "s", "name": "Locker"}])  # fmt: skip
    put = put_part(base, "v", "a", "on", "b", 0.0)
    assert put.variants[0].system.part("a").space == "s"


@pytest.mark.parametrize(("parts", "other", "reason"), [
    (({"id": "a"}, {"id": "b"}), "b", "has_no_place"),
    (({"id": "a", "x_m": 0.0, "y_m": 0.0, "z_m": 0.0},), "a", "beside_itself"),
    (({"id": "a", "depth_m": None}, {"id": "b", "x_m": 0.0, "y_m": 0.0, "z_m": 0.0}), "b",
     "has_no_size"),
])  # fmt: skip
def test_what_cannot_be_put_is_refused(parts, other, reason):
    with pytest.raises(ChangeRefused) as refused:
        put_part(vehicle_of(*parts), "v", "a", "behind", other, 0.0)
    assert refused.value.reason == reason


def test_both_views_are_to_scale_and_show_only_what_is_placed():
    base = vehicle_of({"id": "a", "x_m": 1.0, "y_m": 0.5, "z_m": 0.1}, {"id": "b"})
    system = base.variants[0].system
    above, side = (stand(system, Vehicle(), view) for view in ("above", "side"))
    [box] = above.parts
    assert (box.left, box.right) == pytest.approx((0.85, 1.15))
    assert (box.low, box.high) == pytest.approx((-0.7, -0.3))  # the right side is below
    [box] = side.parts
    assert (box.low, box.high) == pytest.approx((0.1, 0.3)) and box.sized
    assert [item[0] for item in unplaced(system)] == ["b"]
    assert above.wheels == ()
    axles = stand(system, Vehicle(rear_axle_x_m=3.0, wheelbase_m=3.6, pitch_deg=5.0), "side")
    assert [x for x, _ in axles.wheels] == pytest.approx([-0.6, 3.0])
    assert axles.slope == pytest.approx(0.0875, rel=1e-3)


def test_a_run_is_drawn_where_both_ends_are_placed():
    parts = [
        {"id": "t", "kind": "fresh_tank", "x_m": 0.0, "y_m": 0.0, "z_m": 0.0},
        {"id": "p", "kind": "pump", "x_m": 1.0, "y_m": 0.0, "z_m": 0.0},
        {"id": "h", "kind": "tap"},
    ]
    runs = [
        {"id": "one", "kind": "pipe", "start": {"part": "t", "port": "outlet"},
         "end": {"part": "p", "port": "inlet"}},
        {"id": "two", "kind": "pipe", "start": {"part": "p", "port": "outlet"},
         "end": {"part": "h", "port": "inlet"}},
    ]  # fmt: skip
    found = stand(System.model_validate({"parts": parts, "runs": runs}), Vehicle(), "above")
    assert [run.run_id for run in found.runs] == ["one"]
    assert not found.parts[0].sized and found.parts[0].is_tank


@pytest.mark.parametrize("seed", range(20))
def test_no_number_covers_another(seed):
    random = Random(seed)
    boxes = []
    for _ in range(random.randint(2, 45)):
        left, low = random.uniform(0, 300), random.uniform(0, 200)
        boxes.append((left, low, left + random.uniform(5, 90), low + random.uniform(5, 90)))
    found = tags(boxes, 20.0)
    for one, (x, y) in enumerate(found):
        for a, b in found[:one]:
            assert max(abs(x - a), abs(y - b)) >= 20.0 - 1e-9
