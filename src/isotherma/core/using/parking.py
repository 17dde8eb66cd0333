"""Where to park: how far a vehicle may lean until its trays keep water or its tanks do."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.errors import CannotBe
from isotherma.core.flows.levelling import shape_of
from isotherma.core.flows.waste import trays_of
from isotherma.core.hydraulics.levels import Gauge, TankShape, litres_at
from isotherma.core.system import System
from isotherma.core.system.kinds.water import FreshTank
from isotherma.core.system.nominal import computed, figure
from isotherma.core.system.states import State
from isotherma.core.system.vehicle import Vehicle

MOST_DEG: Final = 4  # steeper nobody sleeps
ANGLES: Final = tuple(range(-MOST_DEG, MOST_DEG + 1))
STANDS_M3: Final = 0.5e-3  # more than that in a tray is a puddle to stand in; judgement
UNUSED_SHARE: Final = 0.05  # of a tank, more than level out of reach; judgement
LEVEL_M: Final = 1e-9


@dataclass(frozen=True, slots=True)
class Lean:
    """How it stands [°], what stays in trays [m³] and is out of reach in tanks [m³].

    `blocked` are trays from which nothing leaves.
    """

    nose_up_deg: int
    right_down_deg: int
    stands_m3: float
    unused_m3: float
    blocked: tuple[str, ...]
    good: bool


@dataclass(frozen=True, slots=True)
class Parking:
    """Every lean that was tried; parts that were judged, and those nobody measured."""

    leans: tuple[Lean, ...]
    trays: tuple[str, ...]
    tanks: tuple[str, ...]
    unmeasured: tuple[str, ...]

    @property
    def judged(self) -> bool:
        """Whether there is anything that minds how it stands."""
        return bool(self.trays or self.tanks)

    def reaches(self, *, nose: int = 0, right: int = 0) -> int | None:
        """Count degrees from level that are good all the way in a direction.

        None: not even level is.
        """
        good = {(one.nose_up_deg, one.right_down_deg): one.good for one in self.leans}
        if not good.get((0, 0), False):
            return None
        steps = 0
        while steps < MOST_DEG and good[(nose * (steps + 1), right * (steps + 1))]:
            steps += 1
        return steps


def parking_of(system: System, state: State | None, vehicle: Vehicle) -> Parking:
    """Try how a vehicle may stand.

    Parameters
    ----------
    system : System
        Any document; likely figures are written in. [-]
    state : State or None
        Positions of gates. [-]
    vehicle : Vehicle
        All but how it stands. [-]

    Returns
    -------
    Parking
        A lean is good where every measured tray drains but for half a litre, and no measured
        tank keeps a twentieth more from its outlet than level. [°, m³]

    Notes
    -----
    The outlet of a tank counts as in the middle of its floor: its wall is not in the document.

    References
    ----------
    Geometry of boxes cut by a level; trays as in `standing_water`.
    """
    known = computed(system)
    tanks, unmeasured = {}, []
    for part in known.parts:
        if isinstance(part, FreshTank):
            shape = shape_of(part)
            if shape is None:
                unmeasured.append(part.id)
            else:
                tanks[part.id] = (shape, figure(part, "outlet_height_m"))
    level = vehicle.model_copy(update={"pitch_deg": None, "roll_deg": None})
    at_level = trays_of(known, state, level)
    unmeasured += [tray.id for tray in at_level if tray.stands is None]
    trays = tuple(tray.id for tray in at_level if tray.stands is not None)
    leans = []
    for nose in ANGLES if trays or tanks else ():
        for right in ANGLES:
            leans.append(_lean(known, state, vehicle, tanks, (nose, right)))
    return Parking(tuple(leans), trays, tuple(tanks), tuple(unmeasured))


def _lean(
    system: System, state: State | None, vehicle: Vehicle,
    tanks: Mapping[str, tuple[TankShape, float]], at: tuple[int, int],
) -> Lean:  # fmt: skip
    nose, right = at
    leaning = vehicle.model_copy(update={"pitch_deg": float(nose), "roll_deg": float(right)})
    stands, blocked = 0.0, []
    good = True
    for tray in trays_of(system, state, leaning):
        if tray.stands is None:
            continue
        stands += tray.stands.standing_m3
        if tray.blocked or tray.rate_m3_per_s == 0.0:
            blocked.append(tray.id)
        good = good and tray.stands.standing_m3 <= STANDS_M3
    unused = 0.0
    for shape, low_m in tanks.values():
        here = _under_m3(shape, low_m, nose, right)
        unused += here
        more = here - _under_m3(shape, low_m, 0, 0)
        good = good and more <= UNUSED_SHARE * shape.volume_m3
    return Lean(nose, right, stands, unused, tuple(blocked), good and not blocked)


def _under_m3(shape: TankShape, low_m: float, nose: int, right: int) -> float:
    """Give what lies below an outlet in the middle of a tank, as it stands."""
    try:
        return litres_at(0.5, shape, Gauge(low_m, low_m + LEVEL_M), nose_up_deg=float(nose),
                         right_down_deg=float(right))[0]  # fmt: skip
    except CannotBe:
        return shape.volume_m3
