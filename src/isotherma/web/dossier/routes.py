"""The dossier: to choose from, and the file."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import Response

from isotherma.services.long_work import UnderWay
from isotherma.web.dossier.asked import read_asked
from isotherma.web.dossier.page import made
from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import show
from isotherma.web.rendering import attached, file_name, go_to

router = APIRouter(prefix=DESIGN)


@router.get("/dossier", name="design.dossier")
def dossier(design: DesignDep) -> Response:
    """Choose what goes on paper; once it is made, where it is."""
    return show(design, "dossier")


@router.get("/dossier/file", name="design.dossier.file")
def file(design: DesignDep) -> Response:
    """Give a dossier that is made; one that is not sends back to the page."""
    context = design.context()
    asked = read_asked(context.query, context.units)
    found = None if asked.errors else made(context, asked)
    if found is None or isinstance(found, UnderWay):
        return go_to(design.request, f"{design.path('design.dossier')}?{design.request.url.query}")
    name = f"{file_name(context.project.name)}-{design.variant_id}-dossier.pdf"
    return attached(found, "application/pdf", name)
