"""Pages about Isotherma itself: kinds of parts, elements of the interface, kernels."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from isotherma.services.readiness import KERNELS
from isotherma.web.frame.context import ServicesDep
from isotherma.web.reference.documents import index, method_page, words_page
from isotherma.web.reference.elements import elements_page
from isotherma.web.reference.kernels import kernels_page
from isotherma.web.reference.kinds import kinds_page
from isotherma.web.rendering import is_htmx, path_for, render, units_of

router = APIRouter()


@router.get("/elements", name="elements.show")
def elements(request: Request, services: ServicesDep) -> Response:
    """Show every element of the interface."""
    waits = KERNELS.waits()
    if waits is not None:  # it shows a day of the demo vehicle
        return render(request, kernels_page(waits, request.url.path, units_of(request)))
    return render(request, elements_page(services, request.app.state.rooms, units_of(request)))


@router.get("/kinds", name="kinds.show")
def kinds(request: Request) -> Response:
    """Show every kind of part with its properties."""
    return render(request, kinds_page())


@router.get("/words", name="words.show")
def words(request: Request) -> Response:
    """Say what the words used here mean."""
    return render(request, words_page())


@router.get("/method", name="method.show")
def method(request: Request) -> Response:
    """Say how everything is computed, and what is not."""
    return render(request, method_page())


@router.get("/jump", name="jump.show")
def jump(request: Request) -> Response:
    """Give what the palette finds beside what stands on a page."""
    paths = {page: path_for(request, f"{page}.show") for page in ("words", "method")}
    return JSONResponse([[words, f"{paths[page]}#{slug}"] for words, page, slug in index()])


@router.get("/kernels", name="kernels.show")
def kernels(request: Request) -> Response:
    """Say how far the kernels are compiled; a page that waits for them asks again and again."""
    back = "" if is_htmx(request) else path_for(request, "home.show")  # "": the page that asks
    return render(request, kernels_page(KERNELS.waits(), back, units_of(request)))
