"""A day of its kind: brief, system, state and climate as they are on it."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core.brief import Brief
from isotherma.core.brief.days import DayKind
from isotherma.core.climate import Climate
from isotherma.core.setup.setup import Setup
from isotherma.core.system import System
from isotherma.core.system.kinds.electric import HookUp
from isotherma.core.system.states import Position, State


@dataclass(frozen=True, slots=True)
class Documents:
    """What a day is run from."""

    brief: Brief
    system: System
    standing: State | None
    climate: Climate

    def setup(self) -> Setup:
        """Work out what follows from them."""
        return Setup(self.brief, self.system, self.standing, self.climate)

    def alike(self) -> Documents:
        """Give what days are run from that are all of one kind, or of none."""
        today = self.brief.today
        return self if today is None else self.on(today, self.brief.trip_days)

    def kinds(self) -> dict[str, Setup]:
        """Work out what follows from them on a day of each kind the trip has."""
        return {key: self.on(self.brief.kind(key), 1).setup() for key in set(self.brief.order)}

    def on(self, kind: DayKind, days: int) -> Documents:
        """Give what alike days of a kind are run from.

        Parameters
        ----------
        kind : DayKind
            What differs on them. [-]
        days : int
            How many. [-]

        Returns
        -------
        Documents
            A kind that says nothing changes nothing that is computed. [-]
        """
        return Documents(
            _brief_on(self.brief, kind, days),
            _system_on(self.system, kind),
            _standing_on(self.system, self.standing, kind),
            self.climate.on(kind.sun, kind.warmer_k),
        )


def _brief_on(brief: Brief, kind: DayKind, days: int) -> Brief:
    """Keep the draws and uses that happen, and how much of them."""
    share = kind.share
    draws = tuple(
        draw.model_copy(update={"duration_s": draw.duration_s * share}) if share != 1.0 else draw
        for draw in brief.draws if draw.id not in kind.without_draws and share > 0.0
    )  # fmt: skip
    uses = tuple(
        use.model_copy(update={"volume_m3": use.volume_m3 * share}) if share != 1.0 else use
        for use in brief.uses if use.id not in kind.without_uses and share > 0.0
    )  # fmt: skip
    inside_c = brief.inside_c if kind.inside_c is None else kind.inside_c
    # what is left out and how much of the rest is said already: the same day may be run again
    done = kind.model_copy(update={"without_draws": (), "without_uses": (), "share": 1.0})
    return brief.model_copy(
        update={"draws": draws, "uses": uses, "inside_c": inside_c, "day_kinds": (done,),
                "order": (kind.id,) * days}
    )  # fmt: skip


def _hook_ups(system: System) -> tuple[HookUp, ...]:
    return tuple(part for part in system.parts if isinstance(part, HookUp))


def _position_of(kind: DayKind) -> str | None:
    """Give how hook-ups stand on it; None where the state says."""
    return {"none": "unplugged", "plugged in": "plugged"}.get(kind.hook_up)


def _system_on(system: System, kind: DayKind) -> System:
    """Give hook-ups the amps of that day's pitch, and stand them so in every state."""
    hooks = _hook_ups(system)
    stands = _position_of(kind)
    if not hooks or stands is None:
        return system
    parts, amps = system.parts, kind.hook_up_a
    if amps is not None and stands == "plugged":
        parts = tuple(
            part.model_copy(update={"amps_a": amps, "limit_w": None})
            if isinstance(part, HookUp) else part
            for part in parts
        )  # fmt: skip
    states = tuple(_stood(state, hooks, stands) for state in system.states)
    return system.model_copy(update={"parts": parts, "states": states})


def _standing_on(system: System, standing: State | None, kind: DayKind) -> State | None:
    hooks = _hook_ups(system)
    stands = _position_of(kind)
    if not hooks or stands is None:
        return standing
    return _stood(standing or State(id="as-usual", name="As usual"), hooks, stands)


def _stood(state: State, hooks: tuple[HookUp, ...], at: str) -> State:
    ids = {hook.id for hook in hooks}
    others = tuple(item for item in state.positions if item.part not in ids)
    return state.model_copy(
        update={"positions": (*others, *(Position(part=key, at=at) for key in sorted(ids)))}
    )
