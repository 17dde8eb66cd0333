"""Write docs/checks-of-layouts.md: what the checks find in every starting layout, each judged."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from isotherma.catalogue.layouts import layouts
from isotherma.core.checks.found import Severity
from isotherma.core.quantity import UnitSystem
from isotherma.services.checking import check_variant, titles
from isotherma.wording import SEVERITY_WORDS, check_sentence

PATH = Path(__file__).parents[1] / "docs" / "checks-of-layouts.md"
ON = "2026-11-28"
HEAD = """# What the checks find in the starting layouts

Made by `scripts/checks_of_layouts.py`, by the strictest rules, on {on}; a test fails when it is not
up to date. Layouts are drawings of ours: whoever builds one knows dates, clips and weights that no
drawing knows, so these stay “not known”. Every line is judged: what it says is true, and why
it stays.

"""
UNMEASURED: Final = "True: a drawing has no tape measure; whoever builds it answers."
JUDGED: Final[dict[str, str]] = {
    "air.alarm": "True: the date is on the alarm that is bought.",
    "air.altitude": "True: the places of the trip are not said, and only the maker knows.",
    "air.near-opening": "True: windows are not drawn.",
    "air.terminal-filler": "True: the filler is not drawn.",
    "backflow.coolant": "True: a coil has one wall; whether a plate has two is on its sheet.",
    "backflow.hose": "True: an outside hose without a check valve of its own.",
    "backflow.mixer-checks": "True: not on the mixer’s sheet as we know the class.",
    "backflow.outside-drinks": "True: nobody said whether people drink at that tap.",
    "bacteria.reuse": "True of reuse: short, filtered, and still the same water.",
    "bacteria.store": "True: small stores that are rarely emptied stay warm for hours.",
    "diesel.exhaust": "True: where it ends is drawn by whoever fits it.",
    "diesel.lagging": UNMEASURED,
    "dry.interlock-level": UNMEASURED,
    "dry.no-cutout": "True: the heater’s own limit is on its sheet.",
    "electric.fuse-cable": "True: half a metre to the first fuse; shorter where it can be built.",
    "electric.isolator": "True: the breaker is the only switch.",
    "electric.load-fuse": "True: a load near its fuse for long warms it.",
    "electric.near-water": "True: it stands below a part with water; a drip edge helps.",
    "electric.switch-rating": UNMEASURED,
    "flood.grey-first": "True of its trip: emptied at a stop before fresh water is filled.",
    "flood.no-shutoff": "True: left out to show the thinnest route.",
    "flood.no-tray": "True: water falls where it is wanted, or on the ground.",
    "flood.unclipped": UNMEASURED,
    "frost.filled": "True: drained before a cold night; its drained state is for that.",
    "frost.trapped": "True: what stays is blown or sucked out by hand.",
    "gas.bottle-held": UNMEASURED,
    "gas.clips": UNMEASURED,
    "gas.drop-vent": "True: the vents of that space are not drawn.",
    "gas.hose-date": "True: the date is on what is bought.",
    "gas.joints": "True: some joints are behind another part.",
    "gas.pressure-match": "True: pressure is on plates that are not bought yet.",
    "gas.tested": "True: nothing is built.",
    "holes.edge": UNMEASURED,
    "holes.seal": UNMEASURED,
    "material.drinking": "True: river water washes through a coarse filter.",
    "material.metal-in-plastic": "True until joints are drawn.",
    "pressure.heat-relief": "True of combis: their papers bring a relief by pressure.",
    "pressure.hot-plastic": "True: soft hose of coolant by its print; plastic close to a flame.",
    "pressure.inserts": UNMEASURED,
    "pressure.vent": UNMEASURED,
    "scald.child": "True; answered for in the file.",
    "scald.low-flow": "True: the heater’s limit is on its sheet.",
    "scald.no-mixer": "True: mixed by hand, or set low instead of mixed.",
    "scald.outlet": "True: a short hot slug before the valve follows, or set high.",
    "scald.second-tap": "True; answered for in the file.",
    "settings.gas-screw": "True: nobody has looked at the screw of what is not bought.",
    "states.order": "True: in another order heat is on where it must not be; the order is listed.",
    "tubes.below": "True: waste and grey runs hang below; cover them.",
    "tubes.clips": UNMEASURED,
    "tubes.suction": "True: long soft hose before the pump.",
    "weight.axle": "True: axles are the vehicle’s.",
    "weight.lift": "True: a full can is heavy.",
    "weight.payload": "True: payload is the vehicle’s.",
    "weight.restraint": UNMEASURED,
}


def made() -> str:
    """Give the text of the file."""
    lines: list[str] = []
    for layout in layouts().values():
        project = layout.project()
        variant = project.variants[0]
        result = check_variant(project, variant, ON)
        names = {state.id: state.name for state in variant.system.states}
        labels = titles(project, variant, result.found)
        lines += [f"## {layout.name}", "", "| severity | finding | judged |", "| --- | --- | --- |"]
        for place, one in enumerate(result.found):
            words = check_sentence(one, UnitSystem.METRIC, names.get(one.state or "", ""), labels)
            answered = result.acknowledged.get(place)
            why = JUDGED[one.id] if answered is None else f"Answered for: {answered.reason}"
            lines.append(f"| {SEVERITY_WORDS[one.severity]} | {words} | {why} |")
        stops = sum(one.severity is Severity.STOP for one in result.found)
        assert not stops, layout.id
        lines.append("")
    return HEAD.format(on=ON) + "\n".join(lines)


if __name__ == "__main__":
    PATH.write_text(made(), encoding="utf-8")
