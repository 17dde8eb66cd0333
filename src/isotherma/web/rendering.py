"""Templates: strict, escaped, one page class each; full page or its part for htmx."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass, fields
from functools import cache, partial
from pathlib import Path
from typing import Any, ClassVar, Protocol
from urllib.parse import quote

from fastapi import Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape
from starlette.datastructures import FormData

from isotherma.core.quantity import UnitSystem
from isotherma.services.visitors import visitor
from isotherma.wording.reader import in_units

HERE = Path(__file__).parent
STATIC = HERE / "static"
# folders whose templates find each other by name alone; names are unique among them
ROOMS = (
    "frame", "home", "start", "brief", "heat", "layout", "parts", "spaces", "flow",
    "shower", "budgets", "sweep", "compare", "power", "checks", "shopping", "build",
    "faults", "log", "use", "dossier", "accounts", "sharing", "links", "api", "photos",
    "sums", "versions", "reference", "work",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Visit:
    """Who looks at a page: how the server is run, as whom, what they may do with the vehicle."""

    mode: str
    name: str
    account: bool
    admin: bool
    may: str


def visit_of(request: Request) -> Visit:
    """Say who looks at a page."""
    who = visitor()
    return Visit(request.app.state.mode, who.name, who.kind == "account", who.admin,
                 getattr(request.state, "may", "own"))  # fmt: skip


class PageClass(Protocol):
    """A frozen dataclass of display-ready values that names its template."""

    template: ClassVar[str]
    __dataclass_fields__: ClassVar[dict[str, Any]]


@cache
def environment() -> Environment:
    """Make the template environment once."""
    made = Environment(
        loader=FileSystemLoader([HERE / room for room in ROOMS]),
        autoescape=select_autoescape(default=True, default_for_string=True),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    made.filters["in_units"] = lambda text, units: in_units(str(text), UnitSystem.named(units))
    return made


def units_of(request: Request) -> UnitSystem:
    """Read the person's units from the cookie; metric when there is none."""
    cookies = request.cookies
    return UnitSystem.named(cookies.get("units", cookies.get("habit")))  # its older name


def scheme_of(request: Request) -> str:
    """Read light, dark or the system's own from the cookie."""
    wanted = request.cookies.get("scheme", "")
    return wanted if wanted in {"light", "dark"} else "auto"


def is_htmx(request: Request) -> bool:
    """Say whether htmx asks for a part; a history restore gets the full page."""
    return "hx-request" in request.headers and "hx-history-restore-request" not in request.headers


def render(request: Request, page: PageClass, status_code: int = 200) -> Response:
    """Render a page class with its template, whole or as the part htmx swaps in."""
    template = page.template
    name = f"_{template}" if is_htmx(request) else template
    values = {field.name: getattr(page, field.name) for field in fields(page)}
    values |= {
        "page": page,
        "path_for": partial(path_for, request),
        "units": units_of(request).value,
        "scheme": scheme_of(request),
        "here": request.url.path + (f"?{request.url.query}" if request.url.query else ""),
        "visit": visit_of(request),
    }
    html = environment().get_template(name).render(values)
    return HTMLResponse(html, status_code=status_code, headers={"Vary": "HX-Request"})


def path_for(request: Request, name: str, **parts: object) -> str:
    """Give the address of a route by its name; NoMatchFound if there is none such.

    A page asks for some thirty of them, and asking the router each time goes through all routes.
    """
    paths: dict[str, str] = request.app.state.paths
    if name not in paths:
        marks = {key: f"~{key}~" for key in parts}
        paths[name] = str(request.app.url_path_for(name, **marks))
    path = paths[name]
    for key, part in parts.items():
        path = path.replace(f"~{key}~", quote(str(part), safe="/"))
    return f"{request.scope.get('root_path', '')}{path}"


def go_to(request: Request, path: str) -> Response:
    """Send the browser to a path of ours after a change."""
    if is_htmx(request):
        return Response(status_code=204, headers={"HX-Redirect": path})
    return RedirectResponse(path, status_code=303)


def file_name(name: str) -> str:
    """Make a plain file name from a vehicle's name."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    return re.sub(r"[^A-Za-z0-9]+", "-", plain).strip("-").lower() or "vehicle"


def attached(content: str | bytes, media_type: str, name: str) -> Response:
    """Answer with a file to be kept."""
    head = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(content, media_type=media_type, headers=head)


def form_number(form: FormData, name: str) -> int:
    """Read a whole number a form carries along; −1 for anything else."""
    return whole_number(str(form.get(name, "")))


def whole_number(text: str) -> int:
    """Read a number as rows and revisions have one; −1 for anything else."""
    return int(text) if text.isascii() and text.isdecimal() and len(text) < 10 else -1


def svg_file(picture: object, vehicle: str) -> bytes:
    """Write a drawing as a file of its own, its look inside."""
    rules = (STATIC / "isotherma.css").read_text(encoding="utf-8")
    start = rules.index("/* --- the route --- */")
    look = rules[: rules.index("@media (prefers")].partition(":root {")[2]
    body = environment().get_template("route_file.svg").render(picture=picture, vehicle=vehicle)
    style = f"<style>svg{{font-family:sans-serif;{look}{rules[start:]}</style>"
    head, _, rest = body.strip().partition(">")
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{head}>{style}{rest}\n'.encode()
