"""The Flow page, to look at, and its network as a file for other solvers."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import Response

from isotherma.core.errors import CoreError
from isotherma.files.network_text import EXTENSION, network_text
from isotherma.services.flows import Asked
from isotherma.web.flow.asked import flow_asked, opens_of, state_of
from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import show
from isotherma.web.rendering import attached, file_name

router = APIRouter(prefix=DESIGN)


@router.get("/flow", name="design.flow")
def flow(design: DesignDep) -> Response:
    """What every pipe and valve does, in any state with any outlets open."""
    return design.services.unchanged.answer(
        design.request, design.vehicle_id, lambda: show(design, "flow")
    )


@router.get("/flow/network", name="design.flow.network")
def network(design: DesignDep) -> Response:
    """Give the network of a state, solved with what is open, in the text other solvers read."""
    context = design.context()
    asked, variant = flow_asked(context.query), context.built
    state = state_of(variant, asked.state)
    opens, _ = opens_of(variant.system, asked)
    found = design.services.flowing.result(
        context.project, variant, state, Asked(opens=opens, dirty=asked.dirty)
    )
    if isinstance(found, CoreError):
        return show(design, "flow", status=422)
    name = context.project.name
    title = name if state is None else f"{name}: {state.name}"
    return attached(network_text(found.point.solved, title=title), "text/plain; charset=us-ascii",
                    f"{file_name(name)}-{design.variant_id}{EXTENSION}")  # fmt: skip
