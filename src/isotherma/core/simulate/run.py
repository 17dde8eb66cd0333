"""Run a plan: set the state at midnight, run the day, check that it balances."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.errors import BalanceBroken
from isotherma.core.simulate import kernel
from isotherma.core.simulate.plan import Plan
from isotherma.core.thermal.mixer import HOT_STOP

Floats = NDArray[np.float64]

FINE_S: Final = 0.25  # step while something moves; four times as long else
BALANCE_LIMIT: Final = 1e-3
MOST_WARM_UP_DAYS: Final = 4
COARSE: Final = 4.0  # how much longer the steps of the first, never shown day may be


@dataclass(frozen=True, slots=True)
class Balance:
    """What entered, left and stayed; the shares that do not add up."""

    heat_in_j: float
    element_j: float
    burner_j: float
    heat_out_j: float
    store_loss_j: float
    pipe_loss_j: float
    stored_change_j: float
    drawn_kg: float
    given_kg: float
    energy_error_share: float
    water_error_share: float


@dataclass(frozen=True, slots=True)
class Timeline:
    """Every step of one day: `log`, shape (n_steps, 12 + n_layers), columns in `kernel`.

    `outcome`, shape (n_draws, 4): opened at, warm at (-1 never), closed at [s], ran dry.
    """

    log: Floats
    outcome: Floats
    balance: Balance


@dataclass(frozen=True, slots=True)
class _State:
    layers: Floats
    sensors: Floats
    relays: Floats
    water: Floats
    wall: Floats
    ring: Floats
    opening: Floats

    @classmethod
    def filled(cls, plan: Plan) -> _State:
        """Give the state of a system just filled: fresh water everywhere, walls at their air."""
        pipes = plan.pipe.shape[0]
        ring = np.zeros((pipes, 3))
        wall = np.empty(plan.cells)
        for group, first, cells, *_, air_c in plan.pipe:
            del group
            wall[int(first) : int(first) + int(cells)] = air_c
        return cls(
            layers=np.full(plan.loss_w.shape[0], plan.fresh_c),
            sensors=np.full(2, plan.fresh_c),
            relays=np.zeros(2),
            water=np.full(plan.cells, plan.fresh_c),
            wall=wall,
            ring=ring,
            opening=np.array([HOT_STOP]),
        )


def _capacity(plan: Plan, fine_s: float) -> int:
    """Give more log rows than a day can need."""
    open_s = float((plan.draws[:, 1] + plan.gives_up_s).sum()) if len(plan.draws) else 0.0
    stops = float((plan.draws[:, 5] * (plan.draws[:, 6] / 5 + 2)).sum()) if len(plan.draws) else 0.0
    return int(open_s / fine_s * 1.02 + stops + 4000)


def _run(plan: Plan, state: _State, fine_s: float) -> Timeline:
    capacity = _capacity(plan, fine_s)
    while True:
        attempt = _State(*(getattr(state, name).copy() for name in _State.__slots__))
        log = np.empty((capacity, kernel.LOG_COLUMNS + plan.loss_w.shape[0]))
        outcome = np.zeros((plan.draws.shape[0], 4))
        counted = np.zeros(kernel.COUNTED)
        rows = kernel.run_day(
            plan.specific_j, plan.fresh_c, plan.fresh_kg, plan.other_kg_per_s, plan.gives_up_s,
            plan.store_air_c, plan.layer_kg, plan.layer_j, plan.link_w, plan.jet_share,
            plan.loss_w, plan.heat_share, plan.source, plan.pipe, plan.mixer, plan.draws, fine_s,
            attempt.layers, attempt.sensors, attempt.relays, attempt.water, attempt.wall,
            attempt.ring, attempt.opening, log, outcome, counted,
        )  # fmt: skip
        if rows >= 0:
            break
        capacity *= 2
    for name in _State.__slots__:
        getattr(state, name)[...] = getattr(attempt, name)
    return Timeline(log=log[:rows].copy(), outcome=outcome, balance=_balance(counted))


def _balance(counted: Floats) -> Balance:
    sources = counted[kernel.Q_ELEMENT] + counted[kernel.Q_BURNER]
    came = counted[kernel.IN] + sources
    lost = counted[kernel.LOST_STORE] + counted[kernel.LOST_PIPE]
    change = counted[kernel.U_END] - counted[kernel.U_START]
    left = counted[kernel.OUT]
    scale = max(abs(came), abs(left), abs(lost), abs(change), 1.0)
    water = max(counted[kernel.DRAWN], counted[kernel.GIVEN], 1e-3)
    return Balance(
        heat_in_j=float(counted[kernel.IN]),
        element_j=float(counted[kernel.Q_ELEMENT]),
        burner_j=float(counted[kernel.Q_BURNER]),
        heat_out_j=float(left),
        store_loss_j=float(counted[kernel.LOST_STORE]),
        pipe_loss_j=float(counted[kernel.LOST_PIPE]),
        stored_change_j=float(change),
        drawn_kg=float(counted[kernel.DRAWN]),
        given_kg=float(counted[kernel.GIVEN]),
        energy_error_share=float(abs(came - left - lost - change) / scale),
        water_error_share=float(abs(counted[kernel.DRAWN] - counted[kernel.GIVEN]) / water),
    )


def run_plan(plan: Plan, *, standing: bool, fine_s: float = FINE_S) -> Timeline:
    """Run one day of a plan.

    Parameters
    ----------
    plan : Plan
        The arrays of the day; not changed. [-]
    standing : bool
        Start as the day before left it, after as many equal days as it takes for the
        store to repeat within 0.1 K; else just filled. [-]
    fine_s : float
        Step while something moves, > 0. [s]

    Returns
    -------
    Timeline
        Every step, every draw, the balance. [-]

    Raises
    ------
    BalanceBroken
        If energy or water misses by more than a thousandth.
    """
    state = _State.filled(plan)
    if standing:
        _run(plan, state, COARSE * fine_s)  # only to come near: the days below start from here
    timeline = None
    for _ in range(MOST_WARM_UP_DAYS if standing else 1):
        before = state.layers.copy()
        timeline = _run(plan, state, fine_s)
        if float(np.abs(state.layers - before).max()) < 0.1:
            break
    assert timeline is not None
    balance = timeline.balance
    if max(balance.energy_error_share, balance.water_error_share) > BALANCE_LIMIT:
        raise BalanceBroken(
            energy_error_share=balance.energy_error_share,
            water_error_share=balance.water_error_share,
        )
    return timeline
