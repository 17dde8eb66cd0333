"""The page of the dossier: which chapters, which paper, which version; then the file."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import ClassVar
from urllib.parse import urlencode

from isotherma.services.dossier_work import DOSSIER_WORK
from isotherma.services.long_work import UnderWay
from isotherma.web.dossier.asked import CHAPTERS, PAPERS, SETS, Asked, read_asked
from isotherma.web.frame.context import Mark, PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.frame.under_way import UnderWayView, under_way_view


@dataclass(frozen=True, slots=True)
class DossierPage:
    """What goes on paper."""

    template: ClassVar[str] = "dossier.html"
    frame: Frame
    empty: bool
    chapters: tuple[tuple[str, str, bool], ...] = ()
    sets: tuple[tuple[str, str, str], ...] = ()
    papers: tuple[tuple[str, str, bool], ...] = ()
    versions: tuple[tuple[int, str, bool], ...] = ()
    texts: Mapping[str, str] = field(default_factory=dict)
    errors: Mapping[str, str] = field(default_factory=dict)
    currency: str = ""
    work: UnderWayView | None = None
    file_path: str = ""
    size: str = ""


SET_WORDS = (("whole", "All of it", "every chapter but the offer"),
             ("short", "The short one", "verdict, route, parts, a warm shower"),
             ("offer", "An offer", "verdict, route, parts, what it costs"))  # fmt: skip


def _query(asked: Asked) -> str:
    rows = [("ask", "1"), *(("chapter", key) for key in asked.chapters), ("paper", asked.paper)]
    rows += [("revision", str(asked.revision))] if asked.revision else []
    rows += [(name, text) for name, text in asked.texts.items() if text]
    return urlencode(rows)


def made(context: PageContext, asked: Asked) -> bytes | UnderWay:
    """Give the file that is asked for, or how far it is."""
    opened = context.opened
    return context.services.dossiers.ask(
        opened.vehicle_id, context.variant_id, asked.payload(), context.units.value, context.asker
    )


def dossier_page(context: PageContext) -> DossierPage:
    """Put the page together; where one is asked for, begin it or say how far it is."""
    frame, _ = make_frame(context, "dossier")
    if not context.variant.system.parts:
        return DossierPage(frame, True)
    asked = read_asked(context.query, context.units)
    here = context.path_of("design.dossier")
    work, path, size = None, "", ""
    if asked.wanted and not asked.errors:
        found = made(context, asked)
        if isinstance(found, UnderWay):
            work = under_way_view(found, DOSSIER_WORK, f"{here}?{_query(asked)}", "#dossier-made")
        else:
            path = f"{context.path_of('design.dossier.file')}?{_query(asked)}"
            size = f"{len(found) / 1e6:.1f} MB"
    chosen = asked.chapters
    history = context.services.vehicles.history(context.opened.vehicle_id)
    versions = [(one.id, f"{one.at:%Y-%m-%d %H:%M}, {one.name or one.label}",
                 one.id == asked.revision) for one in history if one.name][:30]  # fmt: skip
    if asked.revision and all(one[0] != asked.revision for one in versions):
        versions += [(one.id, f"{one.at:%Y-%m-%d %H:%M}, {one.label}", True)
                     for one in history if one.id == asked.revision]  # fmt: skip
    return DossierPage(
        frame, False, tuple((key, words, key in chosen) for key, words in CHAPTERS.items()),
        tuple((words, more, f"{here}?set={key}") for key, words, more in SET_WORDS if key in SETS),
        tuple((key, words, key == asked.paper) for key, words in PAPERS.items()),
        tuple(versions), asked.texts, asked.errors, context.project.currency, work, path, size,
    )  # fmt: skip


def dossier_mark(context: PageContext, _: object) -> Mark:
    """Nothing here is wrong by itself."""
    if not context.variant.system.parts:
        return Mark("missing", "missing: parts")
    return Mark("done", "done")
