"""Saving what was typed into one form: as far as it can be saved, the rest explained."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from pydantic import ValidationError

from isotherma.core import editing
from isotherma.core.fields import Document
from isotherma.core.quantity import UnitSystem
from isotherma.services.form_words import value_words, values_label
from isotherma.services.forms import Read, field_errors, read_form
from isotherma.services.vehicles import NewerElsewhere, NotFound, Opened, Vehicles


@dataclass(slots=True)
class Saving:
    """What became of the values of one form: saved as far as possible, the rest explained.

    `typed` names the fields whose text is shown again as it was typed.
    """

    opened: Opened | None = None
    errors: dict[str, str] = field(default_factory=dict)
    conflict: bool = False
    typed: tuple[str, ...] = ()


def save_typed(
    vehicles: Vehicles, vehicle_id: int, base_id: int, scope: str,
    texts: Mapping[str, list[str]], units: UnitSystem,
) -> Saving:  # fmt: skip
    """Read what was typed into a form and save it; see `save_form`.

    NotFound if the revision `base_id` has no document at `scope`.
    """
    then = editing.value_at(vehicles.at(vehicle_id, base_id), scope)
    if not isinstance(then, Document):
        raise NotFound
    read = read_form(then, list(texts), dict(texts), units)
    saving = save_form(vehicles, vehicle_id, base_id, scope, then, read, units)
    # a rule between values holds all of them back: all are shown again
    held = {*read.values, *read.errors} if "" in saving.errors else set(saving.errors)
    saving.typed = tuple(name for name in texts if name in held)
    return saving


def save_form(
    vehicles: Vehicles, vehicle_id: int, base_id: int, scope: str, then: Document, read: Read,
    units: UnitSystem,
) -> Saving:  # fmt: skip
    """Save every value that can be saved; one wrong field must not hold back its neighbours.

    `then` is the document as the form showed it, at the revision `base_id`; what another window
    has set since is told beside its field and not overwritten.
    """
    prefix = f"{scope}." if scope else ""
    left = dict(read.values)
    saving = Saving(errors=dict(read.errors))
    while left and saving.opened is None:
        values = {prefix + name: value for name, value in left.items()}
        try:
            saving.opened = vehicles.set_values(
                vehicle_id, base_id, values, values_label(then, left, units)
            )
        except ValidationError as error:
            wrong = field_errors(error, then, units)
            saving.errors |= wrong
            if not set(wrong) <= set(left):  # a rule between values: none of them can go in
                break
            left = {name: value for name, value in left.items() if name not in wrong}
        except NewerElsewhere as error:
            saving.conflict = True
            for path, value in error.conflicts.items():
                name = path.removeprefix(prefix)
                left.pop(name)
                now = value_words(then, name, value, units)
                saving.errors[name] = (
                    f"Another window has meanwhile set this to {now}. Save again to put yours in "
                    "its place."
                )
    return saving
