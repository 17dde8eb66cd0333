"""The page of what is bought, cut and drilled: four views, each with an address of its own."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Final

from isotherma.services.shopping import TRADITIONS, shopping
from isotherma.web.frame.context import Mark, PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.shopping.buy import BuyView, buy_view
from isotherma.web.shopping.drilling import HolesView, holes_view
from isotherma.web.shopping.ends import EndsView, ends_view
from isotherma.web.shopping.pieces import PiecesView, pieces_view

VIEWS: Final = (("buy", "What to buy"), ("pieces", "Pieces"), ("holes", "Holes"), ("ends", "Ends"))


@dataclass(frozen=True, slots=True)
class ShoppingPage:
    """What to buy, what to cut, where to drill, and which ends are to meet."""

    template: ClassVar[str] = "shopping.html"
    frame: Frame
    empty: bool
    view: str
    views: tuple[tuple[str, str, bool], ...]
    traditions: tuple[tuple[str, str, bool], ...] = ()
    buy: BuyView | None = None
    pieces: PiecesView | None = None
    holes: HolesView | None = None
    ends: EndsView | None = None


def shopping_page(context: PageContext) -> ShoppingPage:
    """Make the page in the view its address asks for."""
    asked = context.query.get("view", "")
    view = asked if asked in {key for key, _ in VIEWS} else "buy"
    views = tuple((key, words, key == view) for key, words in VIEWS)
    system = context.variant.system
    frame, _ = make_frame(context, "shopping")
    if not system.parts:
        return ShoppingPage(frame, True, view, views)
    phases = {phase.id for phase in system.phases}
    phase = context.query.get("phase", "")
    made = shopping(context.project, context.variant, phase=phase if phase in phases else None)
    said = system.tradition or ""
    return ShoppingPage(
        frame, False, view, views,
        (("", "metric, assumed", not said), *((one, one, one == said) for one in TRADITIONS)),
        buy_view(context, made) if view == "buy" else None,
        pieces_view(context, made) if view == "pieces" else None,
        holes_view(context, made) if view == "holes" else None,
        ends_view(context, made) if view == "ends" else None,
    )  # fmt: skip


def shopping_mark(context: PageContext, _: object) -> Mark:
    """What is not known before tube is cut is how its runs were measured."""
    pipes = context.variant.system.pipes
    if not context.variant.system.parts:
        return Mark("missing", "missing: parts")
    if any(run.measured is None for run in pipes):
        return Mark("missing", "missing: how runs were measured")
    return Mark("done", "done")
