"""Checks of a variant by a rule set, with the days they rest on."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass

from isotherma import catalogue
from isotherma.catalogue.rules import rule_sets
from isotherma.core.cache import Cache, Caches
from isotherma.core.checks.found import ORDER, Found
from isotherma.core.checks.rules import Rules
from isotherma.core.checks.run import check_again, check_design
from isotherma.core.errors import CoreError
from isotherma.core.fields import Document
from isotherma.core.project import Acknowledged, Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.states import State
from isotherma.services.computing import ResultService
from isotherma.services.readiness import KERNELS
from isotherma.services.runs import compute
from isotherma.services.shopping import run_ends

STRICTEST = "strictest"
BYTES_A_FINDING = 900  # measured with what its values hold
SAME_SHARE = 0.05


@dataclass(frozen=True, slots=True)
class Checked:
    """What was found, by which rules; `acknowledged` are those somebody answers for."""

    rules: Rules
    found: tuple[Found, ...]
    acknowledged: Mapping[int, Acknowledged]


def rules_of(project: Project, name: str | None = None) -> Rules:
    """Give a rule set: the one asked for, the vehicle's, or the strictest of all."""
    return rule_sets()[name or project.vehicle.rule_set or STRICTEST]


def check_variant(
    project: Project, variant: Variant, on_date: str, *, rules: str | None = None,
    only: State | None = None,
    day: Callable[[State | None], Outcome | CoreError | None] | None = None,
) -> Checked:  # fmt: skip
    """Check a variant as built, in every state or in one.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant : Variant
        Which of its variants. [-]
    on_date : str
        Today, as 2026-03-31. [-]
    rules : str or None
        Name of a rule set; None: the vehicle's. [-]
    only : State or None
        That state alone. [-]
    day : callable or None
        Gives the day of a state where days are kept; None: computed here. [-]

    Returns
    -------
    Checked
        Worst first. [-]
    """
    built = variant.built
    limits = rules_of(project, rules)

    def computed(state: State | None) -> Outcome | CoreError:
        return compute(project, built, state)

    found = check_design(
        project,
        built,
        limits,
        catalogue.climate(project.brief),
        on_date,
        only=only,
        joints=run_ends(built.system),
        day=day or computed,
    )
    return Checked(limits, found, _acknowledged(variant, found))


class CheckService:
    """Checks variants and keeps what was found, for every page that shows it.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    computing : ResultService
        Gives the days that were computed or are kept. [-]
    """

    def __init__(self, caches: Caches, computing: ResultService) -> None:
        self._kept: Cache[Checked] = Cache(
            caches, "checks", lambda result: BYTES_A_FINDING * (1 + len(result.found))
        )
        self._computing = computing

    def peek(self, key: Hashable) -> Checked | None:
        """Give what was found before under a key; None where nobody looked."""
        return self._kept.peek(key)

    def checked(self, key: Hashable, project: Project, variant: Variant, on_date: str) -> Checked:
        """Give what was found before, or look; what waits for kernels is not kept."""
        if KERNELS.waits() is not None:
            return self._look(project, variant, on_date)
        return self._kept.once(key, lambda: self._look(project, variant, on_date))

    def by_every_rule(
        self, project: Project, variant: Variant, on_date: str, found: Found
    ) -> tuple[tuple[Rules, Found | None], ...]:
        """Judge what was found by every rule set: what each finds at that place, or nothing."""
        built = variant.built
        state = next((one for one in built.system.states if one.id == found.state), None)
        if state is None and built.system.states:
            state = built.system.states[0]
        outcome = self.day(project, variant, state)
        made: list[tuple[Rules, Found | None]] = []
        for rules in rule_sets().values():
            again = check_again(
                found.id, project, built, rules, catalogue.climate(project.brief), on_date,
                state=state, outcome=outcome if isinstance(outcome, Outcome) else None,
            )  # fmt: skip
            here = [one for one in again if one.parts == found.parts and one.runs == found.runs]
            made.append((rules, min(here, key=lambda one: ORDER[one.severity], default=None)))
        return tuple(made)

    def day(self, project: Project, variant: Variant, state: State | None) -> Outcome | CoreError:
        """Give the day of a state, or why there is none."""
        built = variant.built
        asked = built if state is None else built.model_copy(update={"state": state.id})
        return self._computing.result(project, asked)

    def _look(self, project: Project, variant: Variant, on_date: str) -> Checked:
        return check_variant(
            project, variant, on_date, day=lambda state: self.day(project, variant, state)
        )


def _acknowledged(variant: Variant, found: tuple[Found, ...]) -> dict[int, Acknowledged]:
    """Find who answers for what: until it grows worse or its figure moves by a twentieth."""
    rank = {"watch": 0, "unknown": 1, "fix": 2, "stop": 3}
    kept: dict[int, Acknowledged] = {}
    for place, one in enumerate(found):
        for said in variant.acknowledged:
            if (said.id, said.parts, said.runs, said.state) != (
                one.id, one.parts, one.runs, one.state
            ):  # fmt: skip
                continue
            if rank[one.severity.value] > rank[said.severity]:
                continue
            value = None if one.figure is None else one.figure.value
            moved = (
                value is not None and said.figure is not None
                and abs(value - said.figure) > SAME_SHARE * max(abs(said.figure), 1e-12)
            )  # fmt: skip
            if not moved:
                kept[place] = said
    return kept


def titles(project: Project, variant: Variant, found: tuple[Found, ...]) -> Mapping[str, str]:
    """Give the title of every property that checks need, by its path."""
    pieces: dict[str, Document] = {}
    system = variant.system
    for group in ("parts", "runs", "spaces", "holes"):
        for piece in getattr(system, group):
            pieces[f"{group}.{piece.id}"] = piece
    pieces |= {"brief": project.brief, "vehicle": project.vehicle, "system": system}
    named: dict[str, str] = {}
    for one in found:
        for path in one.needs:
            owner, _, name = path.rpartition(".")
            info = type(pieces[owner]).model_fields.get(name) if owner in pieces else None
            if info is not None and info.title:
                named[path] = info.title
    return named
