"""Every error of the core as a sentence with numbers and a way out."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core import errors
from isotherma.core.quantity import UnitSystem, with_unit

# why something was refused, by its code; braces take the values that come with it
REASONS: Final[Mapping[str, str]] = {
    "beside_itself": "a part cannot stand beside itself",
    "colder_than_air": "it cannot have cooled to less than the air around it",
    "commas_and_points": "the commas and points do not make one number",
    "does_not_sit": "a {part} does not sit in it",
    "gauge_without_span": "A gauge reads full above where it reads empty",
    "get_warmer": "the water must get warmer than it is",
    "gone": "it is not there any more",
    "got_warmer": "the water must get warmer than it was",
    "diverts_already": "a return diverter is there already",
    "has_no": "it has no {part}",
    "has_no_place": "{part} has no place itself; say first where it stands",
    "has_no_size": "{part} has no outer size; measure it first",
    "no_way_back": "there is no pipe before the outlet, or no tank to send the water to",
    "has_parts": "it has parts already",
    "hot_above_cold": "hot must be warmer than cold",
    "hot_above_wanted": "hot must be warmer than wanted",
    "hours_and_minutes": "hours run from 0 to 23 and minutes from 0 to 59",
    "last_variant": "a vehicle keeps at least one variant",
    "cannot_be": "one of its values cannot be so",
    "changed_since": "the design has changed since this was tried; it is tried again below",
    "unreadable_changes": "what was sent is no list of changes; try it again from the page",
    "no_cable_does": "no cable of the table does it; a shorter way, more volts or less load would",
    "no_choice": "that is none of what can be chosen",
    "no_way": "no pipe leads from {source} to {outlet}; join them on the Layout page first",
    "mixer_stays": "its mixer cannot be changed so",
    "no_best_current": "the current at best must be more than nothing",
    "no_best_voltage": "the voltage at best must be more than nothing",
    "no_current": "the current must be more than nothing",
    "no_flow": "the flow must be more than nothing",
    "no_gap": "that gap is no length",
    "no_gas": "the gas must be more than nothing",
    "no_heat_given": "with that loss no heat was given; look at the air's temperature",
    "no_kind": "there is no kind “{kind}”",
    "no_class": "there is no class of part “{part}”",
    "no_length": "“{text}” is no length; write it as {example}",
    "no_turn": "“{text}” is no turn; write degrees over 0 and under 180, as 90 or 90 elbow",
    "last_leg_missing": "the last leg is missing; write “300 mm; 90; 450 mm”",
    "no_figure": "“{text}” is no figure; write it as {example}",
    "unknown_size": "no such size is known: “{text}”; perhaps {nearest}",
    "one_space": "its parts do not lie in two spaces; say where they are first",
    "no_list": "there is no such list",
    "no_number": "that is not a number with a unit",
    "no_pair": "that is no pair with units",
    "no_parts": "it has no parts yet",
    "no_phase": "there is no such phase any more",
    "no_port": "{part} has no {port}; remove that run first",
    "no_position": "{part} has no position “{at}”",
    "no_power": "the power must be more than nothing",
    "no_property": "it has no such property",
    "no_room_after": "the day has no room after it",
    "no_run_kind": "there is no run of the kind “{kind}”",
    "no_sun": "the sun must be more than nothing",
    "no_time": "the time must be more than nothing",
    "no_time_of_day": "that is not a time of day",
    "no_unit": "“{word}” is no unit of {of}",
    "no_volume": "the volume must be more than nothing",
    "no_wheelbase": "the wheelbase must be more than nothing",
    "no_whole_number": "that is not a whole number",
    "not_in_line": "a {part} does not go in line with {run}",
    "not_joined": "nothing is joined to it in this state",
    "nothing_given": "the {what} must be more than nothing",
    "nothing_typed": "nothing was typed",
    "open_above_best": "the open voltage is higher than that at best",
    "outlet_above_lid": "the outlet is higher than the tank",
    "over_twelve_hours": "that is over twelve hours",
    "panel_figures": "{part}: at its best a panel gives less current than shorted and less voltage "
    "than open; read the four figures on its label again",
    "same_variant": "that is this variant; choose another",
    "say_part_and_port": "say part and port, as tank.outlet",
    "short_above_best": "the short-circuit current is larger than that at best",
    "sits": "something sits in it, or it sits in something",
    "slope_too_steep": "No vehicle is parked on a slope of more than 20°",
    "stop_above_start": "the pump must stop at more than it starts at",
    "store_above_wanted": "the store must be hotter than wanted",
    "tank_without_size": "A tank has a length, a width, a height and a lid above 0",
    "thousands_or_decimal": "it could mean thousands or a decimal; write 1000 or 1.0",
    "too_little": "{what} is too little to be told from nothing",
    "too_large": "the number is too large",
    "too_long": "longer than {most} characters",
    "twelve_hours": "with am or pm the hour runs from 1 to 12",
    "too_many_values": "those are too many values at once",
    "two_numbers": "two numbers stand where one is wanted",
    "wanted_above_cold": "wanted must be warmer than cold",
    "was_warmer": "it must have been warmer before",
    "zero_fraction": "a fraction cannot be divided by zero",
}
# titles of kinds and runs stand in the middle of a sentence
_TITLES: Final = frozenset({"not_in_line", "no_port", "does_not_sit", "has_no"})


def reason_of(reason: str, values: Mapping[str, str]) -> str:
    """Say in a clause why something was refused."""
    if reason in _TITLES:
        values = {key: value.lower() for key, value in values.items()}
    return REASONS[reason].format(**values)


def _no_outlet(error: errors.NoSuchOutlet) -> str:
    if error.part_id in error.known:
        return (
            f"“{error.part_id}” cannot be open by {error.opening:g}; give a share from 0.01 to 1, "
            "as 0.5 for half."
        )
    known = ", ".join(error.known) or "none"
    return f"There is no outlet “{error.part_id}”. There are: {known}."


def _not_there(error: errors.NotInTable) -> str:
    near = f" Did you mean {' or '.join(f'“{one}”' for one in error.nearest)}?" if (
        error.nearest) else ""  # fmt: skip
    return f"There is no {error.what} “{error.typed}”.{near}".rstrip() + (
        "" if near else " Look at its list.")  # fmt: skip


def _circle(error: errors.PlanCircle) -> str:
    return (f"These tasks wait for each other in a circle: {', '.join(error.tasks)}. Look at what "
            "is said to stand behind what.")  # fmt: skip


def error_words(error: errors.CoreError, units: UnitSystem) -> str:
    """Say what happened and what can be done, in the person's units."""
    match error:
        case errors.QuantityError():
            shown = f"“{error.text}”: " if error.text.strip() else ""
            return (
                f"{shown}{reason_of(error.reason, error.values)}. Type for example {error.example}."
            )
        case errors.KernelsCompiling():
            return (
                f"Isotherma is still getting ready to compute, {error.done} of {error.of} steps: "
                "after the first start, or with a new version, this takes a minute or two. "
                "Everything can be entered meanwhile."
            )
        case errors.TargetNotReached():
            return (
                f"It never gets past {with_unit(error.limit_c, 'temperature', units)}; "
                f"{with_unit(error.target_c, 'temperature', units)} was asked. "
                "Insulate, or choose more power."
            )
        case errors.NotComputedYet():
            name = error.part_name or "The design"
            return f"Not computed yet: {name} – {REASONS[error.reason]}."
        case errors.MissingValue():
            return (
                f"Not computed yet: {error.part_name} has no {error.label}. "
                "Put it in on the Parts page and the verdict stands here."
            )
        case errors.UnknownRegion():
            return (
                f"The region “{error.region}” is not in this catalogue. "
                "Choose one on the Brief page."
            )
        case errors.ChangeRefused():
            return f"That could not be changed: {reason_of(error.reason, error.values)}."
        case errors.NoSuchOutlet():
            return _no_outlet(error)
        case errors.NotInTable():
            return _not_there(error)
        case errors.PlanCircle():
            return _circle(error)
        case errors.FlowNotSolved():
            return (
                f"The flows could not be brought to agree; {error.part_name} is off by "
                f"{with_unit(error.residual_pa, 'pressure', units)} after {error.rounds} rounds. "
                "Look at its figures: a bore, a curve or a setting is out of the ordinary."
            )
        case errors.CannotBe():
            return f"That cannot be: {reason_of(error.reason, error.values)}."
        case errors.NoPumpStarts():
            return (
                "That says nothing of a leak: give a time between two starts above nothing. "
                "A pump that never starts by itself has no leak behind it."
            )
        case errors.BalanceBroken():
            share = max(error.energy_error_share, error.water_error_share)
            return (
                f"Isotherma miscounted by {share:.2%} and shows no result. "
                "Please export the vehicle and report it."
            )
    return "Something in the design cannot be computed."
