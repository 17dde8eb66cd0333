"""What a way of heating gives, takes and costs, as figures to choose by."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from isotherma.core.options.built import (
    Failure,
    Leans,
    heat_failure,
    leans_on,
    setup_s,
)
from isotherma.core.options.sizing import Step
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.spending import spent
from isotherma.core.setup.fit import cupboard_m3
from isotherma.core.setup.reach import reach_of
from isotherma.core.system.needs import needs_of


@dataclass(frozen=True, slots=True)
class Columns:
    """Figures of a way of heating on a brief [SI]; of the day shown where days differ.

    `price` are the classes of price of what was sized, `unpriced` how many of them have none;
    `joints` counts those with every fitting its ends take; `leans` says of each source what
    it cannot do without, `heat_fails` what is left when one fails; `reach_s` to take out and put
    back the part of it that is hardest to get at.
    """

    warm_s: float
    asked_s: float
    longest_wait_s: float | None
    washing_m3: float
    waiting_m3: float
    other_m3: float
    gas_kg: float
    diesel_m3: float
    mains_j: float
    battery_j: float
    ready_again_s: float | None
    mass_kg: float | None
    room_m3: float | None
    price: tuple[int, ...]
    unpriced: int
    parts: int
    joints: int
    holes: int
    flame: bool
    licensed: bool
    setup_s: float
    leans: tuple[Leans, ...]
    heat_fails: Failure | None
    reach_s: float


def columns_of(outcome: Outcome, steps: Sequence[Step], joints: int) -> Columns:
    """Read the figures of a way of heating from its day.

    Parameters
    ----------
    outcome : Outcome
        Of the family in these sizes. [-]
    steps : sequence of Step
        The sizes. [-]
    joints : int
        With every fitting its ends take. [-]

    Returns
    -------
    Columns
        A day's; mass of what was sized, room of all that takes some, None where one of them is
        unknown. [SI]
    """
    draws, took = outcome.draws, spent(outcome.setup, outcome.timeline)
    waits = [draw.wait_s for draw in draws]
    # whoever had nobody after them for long enough says how long it takes
    again = [draw.ready_again_s for draw in draws if draw.ready_again_s is not None]
    needed = needs_of(outcome.system)
    return Columns(
        warm_s=sum(min(draw.comfort_s, draw.asked_s) for draw in draws),
        asked_s=sum(draw.asked_s for draw in draws),
        longest_wait_s=None if None in waits else max((w for w in waits if w is not None),
                                                      default=0.0),
        washing_m3=sum(draw.used_m3 for draw in draws),
        waiting_m3=sum(draw.cold_m3 for draw in draws),
        other_m3=outcome.brief.other_fresh_m3,
        gas_kg=took.gas_kg,
        diesel_m3=took.diesel_m3,
        mains_j=took.mains_j,
        battery_j=took.battery_j,
        ready_again_s=max(again) if again else (None if draws else 0.0),
        mass_kg=_sum([step.mass_kg for step in steps]),
        room_m3=_sum(cupboard_m3(outcome.system)),
        price=tuple(step.price for step in steps if step.price),
        unpriced=sum(step.price is None for step in steps),
        parts=len(outcome.system.parts),
        joints=joints,
        holes=len(outcome.system.holes),
        flame="any flame" in needed,
        licensed="licensed work" in needed,
        setup_s=setup_s(outcome.system),
        leans=leans_on(outcome.system),
        heat_fails=heat_failure(outcome),
        reach_s=max(
            (reach_of(outcome.system, part.id).seconds_s for part in outcome.system.parts
             if part.side == "heat" and part.fitted_in is None), default=0.0,
        ),
    )  # fmt: skip


def _sum(values: Sequence[float | None]) -> float | None:
    known = [value for value in values if value is not None]
    return sum(known) if len(known) == len(values) else None


def price_span(
    price: Sequence[int], spans: Mapping[int, tuple[float, float]]
) -> tuple[float, float]:
    """Add up classes of price.

    Parameters
    ----------
    price : sequence of int
        Classes, 1 to 5. [-]
    spans : mapping of int to tuple of float
        What each is about, from and to. [money]

    Returns
    -------
    tuple of float
        From and to. [money]
    """
    return sum(spans[one][0] for one in price), sum(spans[one][1] for one in price)
