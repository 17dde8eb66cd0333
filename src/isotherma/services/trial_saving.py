"""Keeping what was tried beside the shower: values, and another way to mix."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

from pydantic import ValidationError

from isotherma.core.errors import ChangeRefused, QuantityError
from isotherma.core.quantity import UnitSystem
from isotherma.core.setup.completeness import main_outlet
from isotherma.services.comparisons import read_trial, trials_of, with_strategy
from isotherma.services.vehicles import NewerElsewhere, NotFound, Opened, Vehicles, find_variant
from isotherma.wording import error_words, validation_sentences


@dataclass(frozen=True, slots=True)
class TrialSaving:
    """The vehicle as it is then; what was wrong where something was not kept."""

    opened: Opened
    problem: str = ""
    conflict: bool = False


def keep_tried(
    vehicles: Vehicles, vehicle_id: int, variant_id: str, *, base_id: int, draw_id: str,
    texts: Mapping[str, str], strategy: str, units: UnitSystem,
) -> TrialSaving:  # fmt: skip
    """Put what was tried into the vehicle, values first.

    `texts` are trials as typed, by their keys; NotFound if vehicle, variant or draw is gone.
    """
    opened = vehicles.open(vehicle_id)
    variant = find_variant(opened.project, variant_id)
    draw = next((item for item in opened.project.brief.draws if item.id == draw_id), None)
    if draw is None:
        raise NotFound
    try:
        paths: dict[str, object] = {
            trial.path: read_trial(trial, texts[trial.key].strip(), units)
            for trial in trials_of(opened.project.brief, variant, draw)
            if texts.get(trial.key, "").strip()
        }
        if paths:
            opened = vehicles.set_values(vehicle_id, base_id, paths, "Kept what was tried")
        if strategy:
            outlet = draw.outlet or main_outlet(variant.system)
            placed = draw.model_copy(update={"outlet": outlet})
            opened = vehicles.change(
                vehicle_id,
                partial(with_strategy, variant_id=variant_id, draw=placed, strategy=strategy),
                "Temperature made in another way",
            )
    except (QuantityError, ChangeRefused) as error:
        return TrialSaving(vehicles.open(vehicle_id), error_words(error, units))
    except ValidationError as error:
        words = "That was not kept: " + "; ".join(validation_sentences(error))
        return TrialSaving(vehicles.open(vehicle_id), words)
    except NewerElsewhere:
        words = (
            "Another window has meanwhile changed one of these; its value is shown. "
            "Try yours again."
        )
        return TrialSaving(vehicles.open(vehicle_id), words, conflict=True)
    return TrialSaving(opened)
