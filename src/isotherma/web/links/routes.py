"""Links without account: a design to look at, its files; a review from looking to signature."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from isotherma.files.photo import MOST_BYTES, PhotoRefused
from isotherma.files.project_file import EXTENSION, write_project
from isotherma.services.accounts import TOO_MANY, Refused
from isotherma.services.long_work import Asker, UnderWay
from isotherma.services.vehicles import NotFound
from isotherma.web.dossier.asked import SETS
from isotherma.web.frame.context import ServicesDep
from isotherma.web.links.opened import HEADERS, LinkOpened, TooMany, opened
from isotherma.web.links.page import link_page, review_page, said_items
from isotherma.web.persons import person_of
from isotherma.web.rendering import PageClass, attached, file_name, render, units_of

router = APIRouter()
Token = Annotated[str, Path(min_length=10, max_length=100, pattern=r"^[\w-]+$")]
Word = Annotated[str, Query(max_length=20)]
# a browser sends every field of a file, most of them empty
MOST_FIELDS, MOST_FILES, MOST_PART, MOST_PHOTOS = 1600, 800, 4000, 12


def _quiet(answer: Response) -> Response:
    """Let nobody index it, and tell nobody where one came from."""
    for name, value in HEADERS.items():
        answer.headers[name] = value
    return answer


def _too_many() -> Response:
    answer = Response(TOO_MANY, 429, media_type="text/plain")
    answer.headers["retry-after"] = "900"
    return _quiet(answer)


def _page(request: Request, page: PageClass, status: int = 200) -> Response:
    return _quiet(render(request, page, status))


@router.get("/l/{token}", name="link.show")
def look(request: Request, services: ServicesDep, token: Token, chapter: Word = "") -> Response:
    """Show a design to whoever has the link, a chapter at a time."""
    try:
        found = opened(request, services, token, "look", note=not chapter)
    except TooMany:
        return _too_many()
    return _page(request, link_page(found, token, chapter))


@router.get("/l/{token}/file", name="link.file")
def file(request: Request, services: ServicesDep, token: Token) -> Response:
    """Give the project file of what the link shows, and of no other variant."""
    try:
        context = opened(request, services, token, "look").context
    except TooMany:
        return _too_many()
    alone = context.project.model_copy(update={"variants": (context.variant,)})
    name = f"{file_name(context.project.name)}{EXTENSION}"
    return _quiet(attached(write_project(alone), "application/json", name))


@router.get("/l/{token}/dossier", name="link.dossier")
def dossier(request: Request, services: ServicesDep, token: Token) -> Response:
    """Give the dossier of what the link shows; while it is written, say so."""
    try:
        found = opened(request, services, token, "look")
    except TooMany:
        return _too_many()
    asked = {"chapters": SETS["whole"], "paper": "a4", "revision": found.revision_id,
             "terms": {}}  # fmt: skip
    made = services.dossiers.ask(
        found.link.vehicle_id,
        found.link.variant_id,
        asked,
        units_of(request).value,
        Asker(person_of(request), f"link {found.link.link_id}"),
    )
    if isinstance(made, UnderWay):
        answer = Response("It is being written; load this again in a few seconds.", 202,
                          media_type="text/plain")  # fmt: skip
        answer.headers["refresh"] = "3"
        return _quiet(answer)
    name = f"{file_name(found.context.project.name)}-dossier.pdf"
    return _quiet(attached(made, "application/pdf", name))


@router.get("/r/{token}", name="review.show")
def review(request: Request, services: ServicesDep, token: Token, trade: Word = "") -> Response:
    """Ask a licensed person to look: what is of their trade first."""
    try:
        found = opened(request, services, token, "review", note=not trade)
    except TooMany:
        return _too_many()
    return _page(request, review_page(found, token, trade))


@router.get("/r/{token}/photos/{number}", name="review.photo")
def photo(
    request: Request, services: ServicesDep, token: Token,
    number: Annotated[int, Path(ge=1, lt=2**63)],
) -> Response:  # fmt: skip
    """Give a photograph of the variant that is reviewed."""
    try:
        found = opened(request, services, token, "review")
    except TooMany:
        return _too_many()
    kept = services.photos.body(found.link.vehicle_id, found.link.variant_id, number)
    if kept is None:
        raise NotFound
    return _quiet(Response(kept.body, media_type=kept.media_type))


@router.post("/r/{token}/sign", name="review.sign")
async def sign(request: Request, services: ServicesDep, token: Token) -> Response:
    """Keep what was looked at and signed, or show it again with what is missing."""
    async with request.form(
        max_files=MOST_FILES, max_fields=MOST_FIELDS, max_part_size=1_000_000
    ) as form:
        texts = {key[:220]: str(value)[:MOST_PART] for key, value in form.items()
                 if isinstance(value, str)}  # fmt: skip
        sent = {
            key[2:]: await value.read(MOST_BYTES + 1) for key, value in form.items()
            if isinstance(value, UploadFile) and key.startswith("p.") and value.filename
        }  # fmt: skip
    sent = dict(list(sent.items())[:MOST_PHOTOS])
    return await run_in_threadpool(_signed, request, services, token, texts, sent)


def _signed(
    request: Request, services: ServicesDep, token: str, texts: dict[str, str],
    sent: dict[str, bytes],
) -> Response:  # fmt: skip
    try:
        found = opened(request, services, token, "review")
    except TooMany:
        return _too_many()
    trade = texts.get("trade", "")
    try:
        _keep(services, found, trade, texts, sent)
    except Refused as error:
        page = review_page(found, token, trade, texts=texts, error=error.why, wrong=error.field)
        return _page(request, page, error.status)
    except PhotoRefused as error:
        page = review_page(found, token, trade, texts=texts, error=error.why, wrong="photo")
        return _page(request, page, 422)
    words = "It is kept, with your name, as you looked at it today. Thank you."
    return _page(request, review_page(found, token, trade, notice=words))


def _keep(
    services: ServicesDep, found: LinkOpened, trade: str, texts: dict[str, str],
    sent: dict[str, bytes],
) -> None:  # fmt: skip
    """Keep a review with its photographs, all of it or nothing."""
    link, context = found.link, found.context
    items = said_items(context, trade, texts, {})
    services.sharing.check(items, **_said(texts, trade))
    photos = {}
    wanted = {one.id for one in items}
    for key, data in sent.items():
        if key in wanted:
            photos[key] = services.photos.add(
                link.vehicle_id,
                link.variant_id,
                [data],
                about=f"review {key}",
                note="from a review",
                by=texts.get("name", ""),
            )[0]
    services.sharing.sign(
        link,
        context.project,
        found.revision_id,
        said_items(context, trade, texts, photos),
        note=texts.get("note", ""),
        **_said(texts, trade),
    )


def _said(texts: dict[str, str], trade: str) -> dict[str, str]:
    said = {key: texts.get(key, "") for key in ("name", "licence", "on")}
    return {**said, "trade": trade}
