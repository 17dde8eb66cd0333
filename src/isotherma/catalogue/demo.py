"""The demo vehicle Drover: a horsebox, four people at weekend shows, mostly on hook-up."""

from __future__ import annotations

from isotherma.core.brief import Brief, Budgets, Draw
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.parts import FACTOR, Burner, Element, ShowerHead, Store

_HOUR = 3600.0
_LITRE = 1e-3


def _system(store_l: float, insulation_m: float) -> System:
    system = usual_route(
        tank_m3=120 * _LITRE,
        store_m3=store_l * _LITRE,
        element=Element(power_w=800.0, set_c=65.0),
        burner=Burner(input_w=1500.0, set_c=65.0),
        outside_tank=True,
    )
    changes: dict[type, dict[str, object]] = {
        Store: {"insulation_m": insulation_m, "name": "Gas-and-mains store"},
        ShowerHead: {"flow_factor_si": 3.2 * FACTOR, "name": "Fine-hole head"},
    }
    parts = tuple(part.model_copy(update=changes.get(type(part), {})) for part in system.parts)
    return System(parts=parts, runs=system.runs)


def drover() -> Project:
    """Build the demo project.

    Returns
    -------
    Project
        Three variants of one horsebox under one brief. [-]
    """
    showers = (
        ("early-shower", "Early shower", "Wilma", 6.5, 5.0),
        ("second-shower", "Second shower", "Piet", 6.75, 5.0),
        ("evening-shower", "Evening shower", "Ona", 19.0, 6.0),
    )
    draws = [
        Draw(id=key, name=name, who=who, start_s=hour * _HOUR, duration_s=minutes * 60)
        for key, name, who, hour, minutes in showers
    ]
    draws.append(
        Draw(
            id="child-shower", name="Child’s shower", who="Bas", child=True,
            start_s=19.5 * _HOUR, duration_s=4 * 60.0, low_c=36.0, high_c=41.0,
            stops=1, stop_s=60.0,
        )
    )  # fmt: skip
    brief = Brief(
        days=2,
        region="river-plain",
        month=5,
        draws=tuple(draws),
        other_fresh_m3=14 * _LITRE,
        other_grey_m3=9 * _LITRE,
        budgets=Budgets(grey_m3=100 * _LITRE, gas_kg=6.0, mains_energy_j=10 * 3.6e6),
        reserve=0.05,
        note="Weekend shows, hook-up on most fields. Boots are rinsed outside with cold water.",
    )
    return Project(
        name="Drover",
        brief=brief,
        variants=(
            Variant(id="ten-litres", name="Ten litres", system=_system(10, 0.020)),
            Variant(id="fourteen", name="Fourteen litres", system=_system(14, 0.020)),
            Variant(id="foamed", name="Fourteen, well foamed", system=_system(14, 0.050)),
        ),
    )
