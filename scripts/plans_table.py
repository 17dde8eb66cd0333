"""Write docs/plans.md: how every starting layout is filled and tested in stages, each judged."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Final

from isotherma.catalogue.layouts import layouts
from isotherma.core.building.order import Plan
from isotherma.core.building.stages import Stage
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.services.building import labels_of, planned
from isotherma.wording import EXPECT_WORDS, NOT_COMPUTED, quantity_title, range_words, stage_title

PATH = Path(__file__).parents[1] / "docs" / "plans.md"
METRIC: Final = UnitSystem.METRIC
HEAD = """# How the starting layouts are filled and tested

Made by `scripts/plans_table.py`; a test fails when it is not up to date. Each is planned whole,
in the state its day is seen in. Litres are without what earlier stages filled. What is not
computed, and each place that holds air with nothing over it, is judged: what it says, and why it
stays.

"""
JUDGED: Final[Mapping[str, str]] = {
    "primary": "True: its maker’s order of filling and bleeding is on its sheet.",
    "litres": "True: a length or a size is left for whoever measures it.",
    "flow": "True: in this state nothing moves water to that outlet.",
    "no_outlet": "True: a piece of suction or a branch between two closers; it is soon full.",
    "pump": "True: a pump by hand or foot, or one without a switch of its own.",
    "kept": "True: a pump that is switched by a tap keeps nothing between two pressures.",
    "heights": "True: nobody said how anything rises.",
    "amps": "True: its watts are on a plate that is not bought yet.",
    "tray": "True: its waste is not drawn to an end, or a can is carried away.",
    "gauge": "True: its tank has no sides yet; any reading is recorded.",
    "drains": "True: it is drained by its taps or by turning a can over; no drain is drawn.",
    "air": "True of where things stand: let air out there by loosening a joint, or draw a vent.",
}


def made() -> str:
    """Give the text of the file."""
    lines: list[str] = []
    for layout in layouts().values():
        project = layout.project()
        variant = project.variants[0]
        plan = planned(project, variant)
        names = labels_of(variant.system)
        lines += [f"## {layout.name}", "", _said(plan), "",
                  "| stage | takes | lasts | expect | judged |",
                  "| --- | --- | --- | --- | --- |"]  # fmt: skip
        lines += [_row(stage, names) for stage in plan.stages]
        lines.append("")
    return HEAD + "\n".join(lines)


def _said(plan: Plan) -> str:
    licensed = sum(one.task.who == "licensed" for one in plan.tasks)
    visits = len(plan.visits)
    return (
        f"{len(plan.tasks)} tasks, {duration_words(plan.minutes * 60.0)} for one builder with "
        f"what cures and is watched; {licensed} of them for licensed people in "
        f"{visits} {'visit' if visits == 1 else 'visits'}."
    )


def _row(stage: Stage, names: Mapping[str, str]) -> str:
    takes = "" if stage.litres_m3 is None else with_unit(stage.litres_m3, "volume", METRIC, 2)
    lasts = "" if stage.minutes is None else duration_words(60.0 * stage.minutes)
    title = stage_title(stage.kind, names.get(stage.about, stage.about))
    return "| " + " | ".join((
        title, takes, lasts, "; ".join(_expected(stage, names)), " ".join(_judged(stage, names)),
    )) + " |"  # fmt: skip


def _expected(stage: Stage, names: Mapping[str, str]) -> Iterator[str]:
    if stage.purge_at:
        yield f"air leaves at {', '.join(names[key] for key in stage.purge_at)}"
    if stage.kind == "gauge" and stage.expect:
        yield f"a reading at each of {len(stage.expect)} fillings"
        return
    for one in stage.expect:
        kind = one.quantity.partition(".")[0]
        title = quantity_title(one.quantity, names)
        if one.low is not None and one.high is not None:
            yield f"{title} {range_words(kind, one.low, one.high, METRIC)}"
        elif one.low is not None:
            yield f"{title} at least {one.low:g} {one.unit} ({EXPECT_WORDS[one.because]})"
    if stage.dose_ml is not None:
        yield f"{stage.dose_ml:.0f} mL of a product of 50 g/L"
    if stage.stays_m3 is not None:
        yield f"{with_unit(stage.stays_m3, 'volume', METRIC, 2)} stay"


def _judged(stage: Stage, names: Mapping[str, str]) -> Iterator[str]:
    if stage.not_computed is not None:
        yield f"Not computed: {NOT_COMPUTED[stage.not_computed]}. {JUDGED[stage.not_computed]}"
    if stage.air_left:
        where = ", ".join(names[key] for key in stage.air_left)
        yield f"Nothing lets air out of {where}. {JUDGED['air']}"


if __name__ == "__main__":
    PATH.write_text(made(), encoding="utf-8")
