"""Chapters → one PDF: cover, contents with pages, bookmarks, running heads, tagged for readers."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields
from hashlib import sha256
from importlib.resources import files
from pathlib import Path
from typing import Any, ClassVar, Final

from markupsafe import Markup

from isotherma.core.project import Project, canonical_json
from isotherma.services.turns import Cancelled, Stopped
from isotherma.web.dossier import chapters as design
from isotherma.web.dossier import work_chapters as work
from isotherma.web.dossier.blocks import Chapter
from isotherma.web.dossier.work_chapters import Terms
from isotherma.web.frame.context import PageContext
from isotherma.web.rendering import environment

Told = Callable[[int, int], None]
PAGES: Final[Mapping[str, str]] = {"a4": "A4", "letter": "letter"}
HASH_LETTERS: Final = 12
# cut to one weight a file by scripts/paper_letters.py
LETTERS: Final = Path(__file__).parent / "letters"
WEIGHTS: Final = (400, 600, 700)
_MAKES: Final[Mapping[str, Callable[[PageContext], Chapter]]] = {
    "verdict": design.what_it_does, "brief": design.brief, "route": design.route,
    "spaces": design.spaces, "day": design.day, "budgets": design.budgets,
    "checks": design.checks, "parts": work.parts, "tests": work.tests, "card": work.card,
    "cards": work.cards, "assumed": design.assumed, "sign": work.sign,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class DossierFile:
    """What the paper shows."""

    template: ClassVar[str] = "dossier_file.html"
    vehicle: str
    variant: str
    state: str
    version: str
    digest: str
    made: str
    chapters: tuple[Chapter, ...]
    style: Markup
    letters: tuple[tuple[int, str], ...]


def digest_of(project: Project) -> str:
    """Name a document by its content, as it is written on its dossier."""
    return sha256(canonical_json(project).encode()).hexdigest()[:HASH_LETTERS]


def chapter_of(context: PageContext, name: str, terms: Terms) -> Chapter:
    """Make one chapter."""
    return work.offer(context, terms) if name == "offer" else _MAKES[name](context)


def dossier_pdf(
    context: PageContext, asked: Mapping[str, Any], version: str, made: str, told: Told,
    stopped: Stopped,
) -> bytes:  # fmt: skip
    """Make the PDF; Cancelled when stopped.

    `version` names the kept state it is of, `made` the day it is made on. Nothing is fetched but
    our own letters and drawings.
    """
    from weasyprint import HTML  # a second of importing, which workers begin with
    from weasyprint.urls import URLFetcher

    names = asked["chapters"]
    found = []
    for place, name in enumerate(names):
        if stopped():
            raise Cancelled
        told(place, len(names) + 1)
        found.append(chapter_of(context, name, Terms(**asked["terms"])))
    told(len(names), len(names) + 1)
    style = files("isotherma.web.dossier").joinpath("dossier.css").read_text(encoding="utf-8")
    paper = PAGES[asked["paper"]]
    style += f"\n@page {{ size: {paper}; }}\n@page across {{ size: {paper} landscape; }}\n"
    state = context.variant.standing
    page = DossierFile(
        context.project.name, context.variant.name, "" if state is None else state.name, version,
        digest_of(context.project), made, tuple(found), Markup(style),
        tuple((weight, (LETTERS / f"archivo-{weight}.ttf").as_uri()) for weight in WEIGHTS),
    )  # fmt: skip
    values = {field.name: getattr(page, field.name) for field in fields(page)}
    html = environment().get_template(page.template).render(values)
    if stopped():
        raise Cancelled
    # our own letters and drawings are all that is fetched, whatever a text says
    pdf: bytes = HTML(
        string=html,
        url_fetcher=URLFetcher(allowed_protocols=("file", "data"), allow_redirects=False),
    ).write_pdf(pdf_variant="pdf/ua-1")
    return pdf
