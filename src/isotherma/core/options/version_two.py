"""Version two: what to change next on a vehicle that was built and measured."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from math import inf
from typing import Final, Literal

from isotherma.core.options.changes import Change, Tries, What, changes_of
from isotherma.core.options.levers import changes_for
from isotherma.core.project import Project, Variant
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.hot_route import hot_route
from isotherma.core.system.kinds import use
from isotherma.core.system.nominal import known_figure

TRIED_MOST: Final = 30
HEADS: Final = (0.8, 0.65)  # of the flow of the head that is there
RUNS: Final = (0.75, 0.5)  # of the length that is there
FOAM_M: Final = 0.019  # what shops keep for pipes
# what costs nothing: hands and habits, and tube that is there already
FREE: Final = frozenset({
    What.GAS_KNOB, What.SEASON, What.SET_POINT, What.FLOW, What.WAIT, What.TURNS, What.MINUTES,
    What.STOPS, What.DAYS, What.PLANNED, What.FILL, What.JUG, What.RUN,
})  # fmt: skip
Kind = Literal["draw", "wait", "budget"]


@dataclass(frozen=True, slots=True)
class Complaint:
    """What is not as the brief asks: a draw, its wait, or a budget that ends.

    `overturned` where it was as asked before anything was measured.
    """

    kind: Kind
    about: str
    name: str
    overturned: bool = False

    @property
    def key(self) -> str:
        """Name it among others."""
        return f"{self.kind}.{self.about}"


@dataclass(frozen=True, slots=True)
class Proposal:
    """A change that removes complaints, by key; what else is then not as asked; what it takes.

    `money` is None where nobody said a price, `minutes` where nobody can say; holes are new ones.
    """

    change: Change
    removes: tuple[str, ...]
    breaks: tuple[str, ...]
    money: float | None
    holes: int
    minutes: float | None


@dataclass(frozen=True, slots=True)
class VersionTwo:
    """Complaints, those that measuring overturned first; what removes them; how many were tried."""

    complaints: tuple[Complaint, ...]
    proposals: tuple[Proposal, ...]
    tried: int

    def removing(self, key: str) -> tuple[Proposal, ...]:
        """List what removes a complaint: money first, then holes, then minutes."""
        return tuple(one for one in self.proposals if key in one.removes)


def complaints_of(outcome: Outcome) -> tuple[Complaint, ...]:
    """List what of a day and its trip is not as the brief asks.

    Parameters
    ----------
    outcome : Outcome
        What was computed. [-]

    Returns
    -------
    tuple of Complaint
        Draws in their order, then budgets; a draw of several days once. [-]
    """
    found: dict[str, Complaint] = {}
    for leg in outcome.course.legs:
        for draw in leg.draws:
            if not draw.met:
                kind: Kind = "wait" if draw.why_not is WhyNot.LONG_WAIT else "draw"
                one = Complaint(kind, draw.draw.id, draw.draw.name)
                found.setdefault(one.key, one)
    for entry in outcome.ledger:
        if entry.ends_on_day is not None:
            one = Complaint("budget", entry.budget, entry.budget)
            found.setdefault(one.key, one)
    return tuple(found.values())


def candidates(project: Project, variant: Variant, outcome: Outcome) -> tuple[Change, ...]:
    """List what may remove a complaint, of everything its own sizes.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant : Variant
        Which of its variants, as it was measured. [-]
    outcome : Outcome
        What it does now. [-]

    Returns
    -------
    tuple of Change
        At most `TRIED_MOST`, what suits what fails first; empty where nothing does. [-]
    """
    complaints = complaints_of(outcome)
    if not complaints:
        return ()
    waits = any(one.kind == "wait" for one in complaints)
    groups = [
        list(_pipes(project, variant, outcome)) if waits else [],
        list(_heads(project, variant, outcome)),
        list(Tries(project, variant, outcome).sizes()),
        list(changes_of(project, variant, outcome)),
    ]
    for entry in outcome.ledger:
        if entry.ends_on_day is not None and entry.budget not in ("warmth", "waiting"):
            groups.append(list(changes_for(project, variant, outcome, entry.budget)))
    groups = [_ends(group) for group in groups]
    unique: dict[tuple[str, ...], Change] = {}
    # by turns, so that no group takes all the runs there are
    for place in range(max(len(group) for group in groups)):
        for group in groups:
            if place < len(group):
                one = group[place]
                unique.setdefault((one.what, one.part_id, one.edit, str(one.after)), one)
    return tuple(_instead(variant, one) for one in list(unique.values())[:TRIED_MOST])


def _ends(group: list[Change]) -> list[Change]:
    """Keep of a lever with many sizes its smallest and its largest step."""
    steps: dict[tuple[str, str], list[int]] = {}
    for one in group:
        steps.setdefault((one.what, one.part_id), []).append(one.step)
    ends = {lever: (min(sizes), max(sizes)) for lever, sizes in steps.items()}
    return [one for one in group if one.step in ends[one.what, one.part_id]]


def _instead(variant: Variant, change: Change) -> Change:
    """Give up what was measured of a figure that a change replaces: it would win over it."""
    start = f"variants.{variant.id}.system."
    replaced = {path.removeprefix(start) for path in change.values}
    kept = [one for one in variant.measured if one.path not in replaced]
    if len(kept) == len(variant.measured):
        return change
    values = {**change.values, f"variants.{variant.id}.measured":
              [one.model_dump(mode="json") for one in kept]}  # fmt: skip
    return replace(change, values=values)


def _heads(project: Project, variant: Variant, outcome: Outcome) -> Iterator[Change]:
    """A head that lets less through."""
    tries = Tries(project, variant, outcome)
    for part in variant.system.parts:
        if not isinstance(part, use.ShowerHead):
            continue
        known = outcome.setup.parts.get(part.id, part)
        factor = known_figure(known, "flow_factor_si")
        for step, share in enumerate(HEADS, start=1):
            if factor is not None:
                path = f"{tries.parts}.{part.id}.flow_factor_si"
                yield Change(What.HEAD, part.id, 1.0, share, "share", {path: share * factor}, step)


def _pipes(project: Project, variant: Variant, outcome: Outcome) -> Iterator[Change]:
    """Shorter runs and foam on the way of the draw that waits longest."""
    waiting = [(draw.wait_s, draw.outlet) for draw in outcome.draws
               if draw.wait_s is not None and not draw.met]  # fmt: skip
    if not waiting:
        return
    _, outlet = max(waiting)
    route = hot_route(outcome.setup.computed, outlet)
    runs = [(length, run) for run in route
            if (length := known_figure(run, "length_m")) is not None and length > 0.0]  # fmt: skip
    base = f"variants.{variant.id}.system.runs"
    if runs:
        length, longest = max(runs, key=lambda pair: pair[0])
        for step, share in enumerate(RUNS, start=1):
            yield Change(What.RUN, longest.id, length, share * length, "length",
                         {f"{base}.{longest.id}.length_m": share * length}, step)  # fmt: skip
        bare = [run for _, run in runs if not run.insulation_m]
        if bare:
            values: dict[str, object] = {f"{base}.{run.id}.insulation_m": FOAM_M for run in bare}
            yield Change(What.LAGGED, outlet, 0.0, FOAM_M, "bore", values)


def in_order(proposals: Sequence[Proposal]) -> tuple[Proposal, ...]:
    """Sort changes by what they take: money, then holes, then minutes.

    Parameters
    ----------
    proposals : sequence of Proposal
        That remove something. [-]

    Returns
    -------
    tuple of Proposal
        What breaks nothing first; money nobody knows after any that is known. [-]
    """
    return tuple(sorted(proposals, key=lambda one: (
        bool(one.breaks), inf if one.money is None else one.money, one.holes,
        inf if one.minutes is None else one.minutes, one.change.weight,
    )))  # fmt: skip
