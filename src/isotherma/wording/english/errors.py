"""Every error of the core as a sentence with numbers and a way out."""

from __future__ import annotations

from isotherma.core import errors
from isotherma.core.quantity import Habit, with_unit


def error_words(error: errors.CoreError, habit: Habit) -> str:
    """Say what happened and what can be done, in the person's units."""
    match error:
        case errors.QuantityError():
            shown = f"“{error.text}”: " if error.text.strip() else ""
            return f"{shown}{error.reason}. Type for example {error.example}."
        case errors.KernelsCompiling():
            return (
                f"Isotherma is still getting ready to compute, {error.done} of {error.of} steps: "
                "after the first start, or with a new version, this takes a minute or two. "
                "Everything can be entered meanwhile."
            )
        case errors.TargetNotReached():
            return (
                f"It never gets past {with_unit(error.limit_c, 'temperature', habit)}; "
                f"{with_unit(error.target_c, 'temperature', habit)} was asked. "
                "Insulate, or choose more power."
            )
        case errors.NotComputedYet():
            return f"Not computed yet: {error.part_name} – {error.reason}."
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
            return f"That could not be changed: {error.reason}."
        case errors.NoSuchOutlet():
            known = ", ".join(error.known) or "none"
            if error.part_id in error.known:
                return (
                    f"“{error.part_id}” cannot be open by {error.opening:g}; "
                    "give a share from 0.01 to 1, as 0.5 for half."
                )
            return f"There is no outlet “{error.part_id}”. There are: {known}."
        case errors.FlowNotSolved():
            return (
                f"The flows could not be brought to agree; {error.part_name} is off by "
                f"{with_unit(error.residual_pa, 'pressure', habit)} after {error.rounds} rounds. "
                "Look at its figures: a bore, a curve or a setting is out of the ordinary."
            )
        case errors.CannotBe():
            return f"That cannot be: {error.reason}."
        case errors.NoKicks():
            return (
                "That says nothing of a leak: give a time between two kicks above nothing. "
                "A pump that never kicks has no leak behind it."
            )
        case errors.BalanceBroken():
            share = max(error.energy_error_share, error.water_error_share)
            return (
                f"Isotherma miscounted by {share:.2%} and shows no result. "
                "Please export the vehicle and report it."
            )
    return "Something in the design cannot be computed."
