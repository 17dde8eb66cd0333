"""The living page of every element the interface is made of."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from starlette.datastructures import QueryParams

from isotherma.catalogue.demo import drover
from isotherma.core.brief import Draw
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.results.outcome import Outcome
from isotherma.services.vehicles import Opened
from isotherma.web.frame.context import PageContext, Room, Services
from isotherma.web.frame.forms import FormView, Typed, make_form
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.frame.route_picture import GLYPHS
from isotherma.web.ramp import STOPS, colour, ink_on
from isotherma.web.shower.chart import Chart, make_chart
from isotherma.web.shower.glance import Glance, make_glance


@dataclass(frozen=True, slots=True)
class ElementsPage:
    """Type, ink, ramp, buttons, fields, strip, chart, empty and error states."""

    template: ClassVar[str] = "elements.html"
    ramp: tuple[tuple[str, str, str, str], ...]
    form: FormView
    wrong: FormView
    frame: Frame
    chart: Chart | None
    glance: Glance | None
    signs: tuple[str, ...]


def elements_page(services: Services, rooms: tuple[Room, ...], units: UnitSystem) -> ElementsPage:
    """Make the page from the demo vehicle."""
    project = drover()
    opened = Opened(0, 0, project, None, "Store volume", None)
    first = project.variants[0].id
    context = PageContext(services, rooms, opened, first, units, QueryParams())
    frame, outcome = make_frame(context, "shower")
    assert isinstance(outcome, Outcome)
    draw = Draw(id="sample", name="Shower", start_s=7 * 3600, duration_s=300)
    sample = Draw(id="wrong", name="Shower", start_s=7 * 3600, duration_s=300)
    scope = "sample.wrong"
    typed = Typed(
        scope,
        {"duration_s": ["five bars"]},
        {"duration_s": "“five bars”: that is not a number with a unit. Type for example 7 min."},
    )
    ramp = []
    for place in range(29):
        celsius = place * STOPS[-1][0] / 28
        text = with_unit(celsius, "temperature", units, 3) if place % 4 == 0 else ""
        ramp.append((f"{place * 100 / 29:.2f}", colour(celsius), text, ink_on(celsius)))
    return ElementsPage(
        ramp=tuple(ramp),
        form=make_form(draw, "sample.right", units, None),
        wrong=make_form(sample, scope, units, typed, only=("name", "duration_s")),
        frame=frame,
        chart=make_chart(outcome, 1, "litres", units),
        glance=make_glance(outcome, units),
        signs=tuple(dict.fromkeys([*GLYPHS.values(), "part"])),
    )
