"""A vehicle begun with what a person knows of it: answers to the quick brief."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final, cast

from pydantic import ValidationError

from isotherma.catalogue.classes import classes
from isotherma.catalogue.presets import PRESETS, everyday
from isotherma.core.brief import Brief, Draw, Refusal
from isotherma.core.brief.answers import Answers
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.system import System
from isotherma.core.system.kinds import KINDS, AnyKind
from isotherma.services.edits import FIRST_IDEA
from isotherma.services.forms import field_errors, read_form
from isotherma.services.vehicles import Vehicles

# what stands in the brief for an answer nobody gave, marked as an example
ASSUMED: Final = Answers(
    people=2, wash="shower", days=3, region="river-plain", month=4
)  # fmt: skip
HANDS: Final = Draw(
    id="hands", name="Hands and dishes", start_s=7 * 3600.0, duration_s=60.0, low_c=30.0,
    high_c=43.0,
)  # fmt: skip
GAP_S: Final = 60.0
# the fields of the brief that an answer fills
_FILLS: Final[Mapping[str, tuple[str, ...]]] = {
    "people": ("people", "uses"), "wash": ("draws",), "days": ("days",), "region": ("region",),
    "month": ("month",),
}  # fmt: skip


def _draws(wash: str, people: int) -> tuple[Draw, ...]:
    """Let everybody wash one after the other, from seven on."""
    preset = HANDS if wash == "hands" else PRESETS[wash]
    takes_s = preset.duration_s + preset.stops * preset.stop_s + GAP_S
    return tuple(
        preset.model_copy(update={
            "id": f"draw-{number + 1}",
            "name": preset.name if people == 1 else f"{preset.name}, {number + 1}",
            "start_s": preset.start_s + number * takes_s,
        })
        for number in range(people)
    )  # fmt: skip


def brief_of(answers: Answers) -> Brief:
    """Make the brief: what was not answered is an example, and named as one."""
    given = {name for name in _FILLS if getattr(answers, name) is not None}
    said = {name: getattr(answers if name in given else ASSUMED, name) for name in _FILLS}
    refused: list[Refusal] = []
    if answers.gas == "refused":
        refused.append("gas")
    if answers.diesel == "refused":
        refused.append("diesel")
    return Brief(
        people=said["people"],
        draws=_draws(said["wash"], said["people"]),
        uses=everyday(said["people"]),
        days=said["days"],
        region=said["region"],
        month=said["month"],
        washes=answers.washes,
        will_not_have=tuple(refused),
        hurts=answers.hurts,
        examples=tuple(
            field for name, fields in _FILLS.items() if name not in given for field in fields
        ),
    )


def _part(kind: str, name: str, values: Mapping[str, object]) -> AnyKind:
    data = {"id": kind.replace("_", "-"), "kind": kind, "name": name, **values, "owned": "owned"}
    return cast("AnyKind", KINDS[kind].model_validate(data))


def owned_of(answers: Answers) -> tuple[AnyKind, ...]:
    """Give the parts that are there already; an answer of 0 is a part that gives nothing."""
    found: list[AnyKind] = []
    if answers.hook_up_a is not None:
        found.append(_part("hook_up", "Hook-up", {"amps_a": answers.hook_up_a}))
    if answers.drive_s is not None:
        found.append(_part("alternator", "Alternator", {"drive_s": answers.drive_s}))
    if answers.panels_w is not None:
        found.append(_part("panel", "Panels on the roof", {"rated_w": answers.panels_w}))
    if answers.fresh_m3 is not None:
        found.append(_part("fresh_tank", "Fresh tank", {"volume_m3": answers.fresh_m3}))
    own = classes().get(answers.heater or "")
    if own is not None:
        found.append(_part(own.kind, own.name, own.values))
    return tuple(found)


def begun_with(answers: Answers) -> Project:
    """Make a vehicle of the answers; no route is chosen yet."""
    return Project(
        name=answers.name,
        brief=brief_of(answers),
        owned=owned_of(answers),
        variants=(Variant(id="first", name=FIRST_IDEA, system=System()),),
    )


def start_with_answers(
    vehicles: Vehicles, texts: Mapping[str, list[str]], units: UnitSystem
) -> tuple[int | None, Mapping[str, str]]:
    """Read the answers and keep the vehicle; None and what is wrong by field where it cannot be."""
    blank = Answers()
    read = read_form(blank, list(texts), dict(texts), units)
    if read.errors:
        return None, read.errors
    try:
        answers = Answers.model_validate({**blank.model_dump(), **read.values})
        project = begun_with(answers)
    except ValidationError as error:
        return None, field_errors(error, blank, units)
    return vehicles.create(project, "Started"), {}
