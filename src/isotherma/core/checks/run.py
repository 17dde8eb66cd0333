"""Every check in every state, as one list."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import replace

from isotherma.core.checks import (
    air,
    backflow,
    cold,
    diesel,
    dry,
    electric,
    gas,
    gas_care,
    hot_pipes,
    living,
    mains,
    pressure,
    reliefs,
    scald,
    states,
    tubes,
)
from isotherma.core.checks.found import BUILDER, CHECKS, ORDER, Check, Found, Severity
from isotherma.core.checks.look import Look
from isotherma.core.checks.pressure import VESSELS
from isotherma.core.checks.rules import Rules
from isotherma.core.climate import Climate
from isotherma.core.errors import CoreError
from isotherma.core.joints.piping import RunJoints
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.kinds import heat, use, waste, water
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.states import State

GROUPS = ("scald", "bacteria", "air", "gas", "diesel", "pressure", "dry", "electric", "tubes",
          "holes", "states", "settings", "frost", "backflow", "material", "flood",
          "weight")  # fmt: skip
MODULES = (
    scald,
    air,
    gas,
    diesel,
    pressure,
    reliefs,
    dry,
    electric,
    tubes,
    states,
    backflow,
    living,
    cold,
    gas_care,
    hot_pipes,
    mains,
)


# what reads the day, and the kinds of parts it says something of
READ_THE_DAY: dict[str, tuple[type[PartBase], ...]] = {
    "scald.outlet": (use.Outlet,),
    "scald.second-tap": (use.ShowerHead, use.OutsideOutlet),
    "scald.starved": (heat.ThroughFlowGas, heat.ThroughFlowElectric),
    "bacteria.store": VESSELS,
    "bacteria.cold-layer": VESSELS,
    "bacteria.tank": (water.FreshTank,),
    "frost.filled": (water.FreshTank, *VESSELS),
    "flood.grey-first": (waste.GreyTank,),
}


def check_design(
    project: Project, variant: Variant, rules: Rules, climate: Climate, on_date: str,
    *, only: State | None = None, joints: tuple[RunJoints, ...] | None = None,
    day: Callable[[State | None], Outcome | CoreError | None] = lambda _: None,
) -> tuple[Found, ...]:  # fmt: skip
    """Run every check of a design, as built, in every state.

    Parameters
    ----------
    project : Project
        With brief and vehicle. [-]
    variant : Variant
        What is built. [-]
    rules : Rules
        Limits. [SI]
    climate : Climate
        Of the brief. [-]
    on_date : str
        As 2026-03-31. [-]
    only : State or None
        That one; None: all of them, or once where there is none. [-]
    joints : tuple of RunJoints or None
        Its runs, resolved by what is sold; None: nobody can say how they are joined. [-]
    day : callable
        Gives the day of a state, or why it cannot be computed. [-]

    Returns
    -------
    tuple of Found
        Worst first, by group; one of one place in all states has none. [-]
    """
    looked = (only,) if only is not None else (variant.system.states or (None,))
    each: list[tuple[State | None, list[Found]]] = []
    for state in looked:
        came = day(state)
        outcome = came if isinstance(came, Outcome) else None
        lacking = str(getattr(came, "path", "")) or "brief.draws"
        look = Look(project, variant, rules, state, on_date, climate, outcome, lacking, joints)
        each.append((state, _looked(look)))
    return sorted_found(_merged(each))


def check_again(
    of: str, project: Project, variant: Variant, rules: Rules, climate: Climate, on_date: str,
    *, state: State | None, outcome: Outcome | None, joints: tuple[RunJoints, ...] | None = None,
) -> tuple[Found, ...]:  # fmt: skip
    """Run the check of one id again in one state, as under other rules.

    Parameters
    ----------
    of : str
        Id of a finding. [-]
    project, variant : Project, Variant
        What is built. [-]
    rules : Rules
        Limits. [SI]
    climate : Climate
        Of the brief. [-]
    on_date : str
        As 2026-03-31. [-]
    state : State or None
        How it stands. [-]
    outcome : Outcome or None
        Its day. [-]
    joints : tuple of RunJoints or None
        Its runs, resolved. [-]

    Returns
    -------
    tuple of Found
        Of this id, in the order of the check. [-]
    """
    look = Look(project, variant, rules, state, on_date, climate, outcome, joints=joints)
    return tuple(found for found in _of(look, CHECKS[of]) if found.id == of)


def _looked(look: Look) -> list[Found]:
    """Run each check once; the worst of one place stays."""
    kept: dict[object, Found] = {}
    for function in dict.fromkeys(CHECKS.values()):
        for found in _of(look, function):
            before = kept.get(found.place)
            if before is None or _worse(found, before):
                kept[found.place] = found
    if look.outcome is None:
        for found in _without_day(look):
            kept.setdefault(found.place, found)
    return list(kept.values())


def _without_day(look: Look) -> Iterator[Found]:
    """Say of each check that reads the day that it is not known, where it has something to read."""
    for of, kinds in READ_THE_DAY.items():
        about = [part for part in look.system.parts if isinstance(part, kinds)]
        if about:
            yield look.unknown(of, BUILDER, (look.lacking,), subject="the_day")


def _of(look: Look, function: Check) -> list[Found]:
    """Run one check; where a figure is missing that it hangs on, none of its ids is known."""
    try:
        return list(function(look))
    except CoreError as error:
        path = str(getattr(error, "path", "brief.draws"))
        group, _, rest = path.partition(".")
        key = rest.partition(".")[0]
        about = (key,) if group == "parts" and key in look.parts else ()
        return [
            look.unknown(of, BUILDER, (path,), *about, subject=look.label(key) if key else "")
            for of, one in CHECKS.items() if one is function
        ]  # fmt: skip


def _worse(one: Found, other: Found) -> bool:
    if one.severity is not other.severity:
        return ORDER[one.severity] < ORDER[other.severity]
    return _amount(one) > _amount(other)


def _amount(found: Found) -> float:
    return abs(found.figure.value) if found.figure is not None else 0.0


def _merged(each: Sequence[tuple[State | None, Iterable[Found]]]) -> list[Found]:
    """Make one of what is the same in all states."""
    if len(each) == 1:
        return list(each[0][1])
    by_place: dict[object, list[tuple[State | None, Found]]] = {}
    for state, many in each:
        for found in many:
            by_place.setdefault((found.place, found.severity), []).append((state, found))
    merged: list[Found] = []
    for rows in by_place.values():
        if len(rows) == len(each):
            merged.append(max((found for _, found in rows), key=_amount))
        elif rows[0][1].severity is Severity.UNKNOWN:
            merged.append(rows[0][1])
        else:
            merged += [
                replace(found, state=None if state is None else state.id) for state, found in rows
            ]
    return merged


def sorted_found(many: Iterable[Found]) -> tuple[Found, ...]:
    """Put the worst first, then by group, then by part.

    Parameters
    ----------
    many : iterable of Found
        Any. [-]

    Returns
    -------
    tuple of Found
        Stop, fix, not known, watch. [-]
    """
    return tuple(sorted(many, key=lambda one: (
        ORDER[one.severity], GROUPS.index(one.id.partition(".")[0]), one.parts, one.runs,
        one.state or "", one.id,
    )))  # fmt: skip
