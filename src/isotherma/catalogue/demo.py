"""The demo vehicles: Drover, a horsebox; Folio, a mobile library; Curlew, a small van."""

from __future__ import annotations

from isotherma.catalogue.layouts import layouts
from isotherma.catalogue.presets import PRESETS, everyday
from isotherma.core.brief import Brief, Budgets, Draw, Use
from isotherma.core.project import Acknowledged, Price, Project, Variant
from isotherma.core.system import System
from isotherma.core.system.kinds.heat import Burner, Element, Store
from isotherma.core.system.kinds.use import ShowerHead
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.pieces import FACTOR, PartBase
from isotherma.core.system.vehicle import Vehicle

_HOUR = 3600.0
_LITRE = 1e-3
_NO_ALARM_YET = Acknowledged(
    id="air.alarm", parts=("burner",), severity="fix", name="Ona",
    reason="Bought with the burner, and fitted before it is first lit.",
)  # fmt: skip
_PUMP_FUSE = Acknowledged(
    id="electric.pump-live", parts=("pump",), severity="fix", name="Ruth",
    reason="The pump’s fuse is at the door and comes out when everybody leaves.",
)  # fmt: skip
_DROVERS = (
    ("ten-litres", "Ten litres", 10, 0.020), ("fourteen", "Fourteen litres", 14, 0.020),
    ("foamed", "Fourteen, well foamed", 14, 0.050),
)  # fmt: skip
_EVENINGS = (
    "Drained every evening before a night under 3 °C: that is what the drained state is for."
)
# runs of Curlew that freeze within a night, hours to 0 °C, states
_FREEZES = (
    ("bucket-tee-cold-join", 1.118, (None,)),
    ("dip-filter", 1.118, (None,)),
    ("bucket-tee-join", 1.118, ("bucket", "mixed-bucket", "tank")),
    ("filter-bucket-tee", 1.118, ("bucket", "mixed-bucket", "tank")),
    ("join-head", 0.859, ("bucket", "mixed-bucket", "tank")),
    ("mixed-split-join", 0.859, ("bucket", "mixed-bucket", "tank")),
)
_BOWL = Acknowledged(
    id="frost.trapped", parts=("filter",), state="frost", severity="fix", figure=6e-4,
    reason="The bowl of the filter is unscrewed and emptied by hand; it is on the card.",
    name="The counter",
)  # fmt: skip
# runs of Folio that were measured from mouth to mouth: legs [m], an elbow between each two
_MEASURED = {
    "tank-shut": (0.3,), "shut-strainer": (0.3,), "strainer-pump": (0.15,),
    "pump-accumulator": (0.3,), "accumulator-split": (0.5, 0.3), "split-check": (0.2,),
    "split-mixer": (0.6, 1.9, 0.5), "store-loop-tee": (0.4, 1.5, 0.5),
    "mixed-split-kitchen": (0.55, 0.35), "loop-tee-loop": (1.6, 0.6),
}  # fmt: skip
_SHOP_DAY = "2026-03-14"
_PRICES = (
    Price(item="tube", size="semi-rigid plastic 15 mm", pack=3.0, price=8.40, priced_on=_SHOP_DAY),
    Price(item="tube", size="semi-rigid plastic 12 mm", pack=3.0, price=7.20, priced_on=_SHOP_DAY),
    Price(item="hose", size="soft hose 16 mm", pack=1.0, price=4.90, priced_on=_SHOP_DAY),
    Price(item="clip", size="semi-rigid plastic 15 mm", pack=25.0, price=6.50,
          priced_on=_SHOP_DAY),
    Price(item="insert", size="semi-rigid plastic 15 mm", pack=10.0, price=3.80, have=20.0,
          priced_on=_SHOP_DAY),
    Price(item="elbow", size="semi-rigid plastic 15 mm", price=2.60, priced_on=_SHOP_DAY),
    Price(item="clamp", size="16-25 mm", pack=10.0, price=7.90, priced_on=_SHOP_DAY),
    Price(item="washer", size="1/2 in", pack=20.0, price=2.50, ordered=20.0),
)  # fmt: skip
_BAG_FREEZES = (("bag-tap", 0.672, ("hung",)), ("tap-head", 0.672, ("hung",)))


def _system(store_l: float, insulation_m: float) -> System:
    system = usual_route(
        tank_m3=120 * _LITRE,
        store_m3=store_l * _LITRE,
        element=Element(id="element", rated_w=800.0, set_c=65.0),
        burner=Burner(id="burner", rated_w=1500.0, rating="input", basis="net", set_c=65.0),
        outside_tank=True,
    )
    changes: dict[type, dict[str, object]] = {
        Store: {"insulation_m": insulation_m, "name": "Gas-and-mains store"},
        ShowerHead: {"flow_factor_si": 3.2 * FACTOR, "name": "Fine-hole head"},
    }
    parts = tuple(part.model_copy(update=changes.get(type(part), {})) for part in system.parts)
    return system.model_copy(update={"parts": parts})


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
        people=4,
        uses=(
            Use(
                id="drinking",
                name="Drinking and tea",
                purpose="drinking",
                volume_m3=1.25 * _LITRE,
                times=4,
                grey_share=0.0,
            ),
            Use(id="dishes", name="Dishes", purpose="dishes", volume_m3=3 * _LITRE, times=2),
            Use(
                id="hands",
                name="Hands and faces",
                purpose="hands and face",
                volume_m3=0.75 * _LITRE,
                times=4,
            ),
        ),
        budgets=Budgets(grey_m3=100 * _LITRE, gas_kg=6.0, mains_energy_j=10 * 3.6e6),
        reserve=0.05,
        note="Weekend shows, hook-up on most fields. Boots are rinsed outside with cold water.",
    )
    return Project(
        example=True,
        name="Drover",
        brief=brief,
        variants=tuple(
            Variant(id=key, name=name, system=_system(litres, thick), acknowledged=(_NO_ALARM_YET,))
            for key, name, litres, thick in _DROVERS
        ),
    )


def _with_parts(system: System, changes: dict[str, dict[str, object]]) -> System:
    """Change properties of parts by their ids, and validate the whole."""
    parts: list[PartBase] = [
        part.model_copy(update=changes.get(part.id, {})) for part in system.parts
    ]
    data = system.model_dump()
    data["parts"] = [part.model_dump() for part in parts]
    return System.model_validate(data)


def _draw(preset: str, key: str, name: str, who: str, hour: float, **more: object) -> Draw:
    values = {**PRESETS[preset].model_dump(), "id": key, "name": name, "who": who}
    return Draw.model_validate({**values, "start_s": hour * _HOUR, **more})


def _measured(system: System) -> System:
    """Say how runs were measured, leg by leg; their lengths and elbows stay what they are."""
    data = system.model_dump()
    for run in data["runs"]:
        legs = _MEASURED.get(run["id"], ())
        if legs:
            turns = [90.0] * (len(legs) - 1) + [0.0]
            run["measured"] = "between faces"
            run["legs"] = [{"length_m": leg, "turn_deg": turn, "by": "elbow"}
                           for leg, turn in zip(legs, turns, strict=True)]  # fmt: skip
    return System.model_validate(data)


def _folio(month: int, name: str, inside_c: float) -> Project:
    system = _measured(layouts()["coolant-coil"].system)
    binders = {
        "tank": {"name": "Tank under the shelves", "nominal_m3": 200 * _LITRE},
        "store": {"volume_m3": 28 * _LITRE, "name": "Coil store, 28 L"},
        "fuel": {"volume_m3": 90 * _LITRE, "name": "The library's diesel tank"},
    }
    draws = (
        _draw("shower", "ruth", "Morning shower", "Ruth", 7.25),
        _draw("shower", "ilan", "Morning shower", "Ilan", 7.5),
        _draw("child", "noa", "Child’s shower", "Noa", 18.5, outlet="head"),
        _draw("rinse", "glue", "Hands after glueing", "both", 16.0, outlet="kitchen",
              flow_m3_per_s=3 / 6e4, aim="at least", low_c=30.0),
    )  # fmt: skip
    brief = Brief(
        days=10,
        region="northern-hills",
        month=month,
        inside_c=inside_c,
        people=3,
        draws=draws,
        uses=(
            *everyday(3),
            Use(id="paste", name="Paste and brushes", purpose="other", volume_m3=2 * _LITRE),
            Use(id="flush", name="Toilet flush", purpose="toilet flush", volume_m3=0.5 * _LITRE,
                times=12, grey_share=0.0),
        ),
        budgets=Budgets(grey_m3=100 * _LITRE),
        note="Ten days in the hills without a hook-up; diesel is shared with the cabin.",
    )  # fmt: skip
    timed = _with_parts(
        system, {**binders, "loop": {"rule": "timed", "name": "Loop pump on a timer"}}
    )
    return Project(
        example=True,
        name=name,
        brief=brief,
        vehicle=Vehicle(payload_kg=900.0, headroom_m=2.1, pitch_deg=1.0),
        currency="EUR",
        prices=_PRICES,
        variants=(
            Variant(
                id="button",
                name="Loop on a button",
                system=_with_parts(system, binders),
                acknowledged=(_PUMP_FUSE,),
            ),
            Variant(id="timed", name="Loop on a timer", system=timed, acknowledged=(_PUMP_FUSE,)),
        ),
    )


def folio() -> Project:
    """Build the demo project of a retired mobile library in winter.

    Returns
    -------
    Project
        Two bookbinders and a child, ten days off-grid; two variants of the loop. [-]
    """
    return _folio(1, "Folio, winter", 19.0)


def folio_summer() -> Project:
    """Build the same library in summer; the brief differs, the systems do not.

    Returns
    -------
    Project
        As `folio`, in July. [-]
    """
    return _folio(7, "Folio, summer", 22.0)


def _answered(rows: tuple[tuple[str, float, tuple[str | None, ...]], ...], name: str,
              ) -> tuple[Acknowledged, ...]:  # fmt: skip
    """Answer for runs that freeze."""
    return tuple(
        Acknowledged(id="frost.filled", runs=(run,), state=state, severity="fix", figure=hours,
                     reason=_EVENINGS, name=name)
        for run, hours, states in rows for state in states
    )  # fmt: skip


def curlew() -> Project:
    """Build the demo project of a small van on a winter coast, no flame wanted.

    Returns
    -------
    Project
        One seabird counter; a small 12 V store, and a gravity bag as spare. [-]
    """
    store = _with_parts(
        layouts()["seat-store"].system,
        {
            "tank": {"nominal_m3": 45 * _LITRE, "name": "Tank beside the wheel arch"},
            "store": {"volume_m3": 8 * _LITRE, "name": "Small store, 8 L",
                      "insulation_m": 0.04, "board": "rigid foam"},
            "head": {"name": "Hand spray at the rear door", "space": "living"},
            "mixed-split": {"phase": None},
        },
    )  # fmt: skip
    brief = Brief(
        days=4,
        region="windward-coast",
        month=12,
        inside_c=14.0,
        people=1,
        draws=(
            _draw("rinse", "hands", "Hands and face", "", 6.75, duration_s=60.0,
                  aim="above the tank", rise_k=15.0, outlet="basin", flow_m3_per_s=2.5 / 6e4),
            _draw("rinse", "wash", "Short wash", "", 17.5, duration_s=150.0,
                  flow_m3_per_s=3.0 / 6e4),
        ),
        uses=everyday(1),
        budgets=Budgets(grey_m3=15 * _LITRE, mains_energy_j=2 * 3.6e6),
        will_not_have=("gas",),
        note="Counts from first light; one night in four on hook-up.",
    )  # fmt: skip
    return Project(
        example=True,
        name="Curlew",
        brief=brief,
        vehicle=Vehicle(payload_kg=180.0, headroom_m=1.25),
        variants=(
            Variant(
                id="store",
                name="Store behind the seats",
                system=store,
                acknowledged=(*_answered(_FREEZES, "The counter"), _BOWL),
            ),
            Variant(
                id="bag",
                name="Bag as spare",
                system=layouts()["kettle-and-bag"].system,
                acknowledged=_answered(_BAG_FREEZES, "The counter"),
            ),
        ),
    )
