"""What `power` does: what a file's wires and gas pipes carry, in words or as an object."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from typing import NoReturn

from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.system.states import State
from isotherma.files.power_json import power_object
from isotherma.services.power import carried, may_be_on
from isotherma.wording import circuit_words, gas_sentences, load_words, power_sentences

Fail = Callable[[str, int], NoReturn]


def powered(
    project: Project, chosen: Variant, state: State | None, on: Sequence[str],
    units: UnitSystem, fail: Fail, *, as_json: bool,
) -> None:  # fmt: skip
    """Say what wires and gas pipes carry, and print it."""
    known = may_be_on(chosen)
    strange = [key for key in on if key not in known]
    if strange:
        listed = ", ".join(known) or "nothing"
        fail(f"“{strange[0]}” takes neither electricity nor gas here. There are: {listed}.", 2)
    found = carried(project, chosen, state, on or None)
    if as_json:
        made = power_object(
            found.power, found.gas, found.charges, name=project.name, variant=chosen.id,
            state="" if state is None else state.id,
        )  # fmt: skip
        print(json.dumps(made, ensure_ascii=False, indent=2, allow_nan=False))
        return
    for words in (*power_sentences(found.power, units), *gas_sentences(found.gas, units)):
        print(words)
    for load in found.power.loads:
        if load.runs:
            print(
                f"  {load.label}: {with_unit(load.amps, 'current', units, 3)} at "
                f"{with_unit(load.volts, 'voltage', units, 3)}"
            )
        else:
            print(f"  {load.label}: {load_words(load, units)}")
    for circuit in found.power.circuits:
        words = circuit_words(circuit, units)
        if words:
            print(f"  {circuit.label}: {words}")
