"""What a link opens, as pages are made from it: one variant, of one kept state or the newest."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import Request
from starlette.datastructures import QueryParams

from isotherma.services.accounts import Refused
from isotherma.services.sharing import LinkKind, Opened
from isotherma.services.vehicles import NotFound
from isotherma.services.visitors import ALONE, visiting
from isotherma.web.doors import address_of
from isotherma.web.frame.context import PageContext, Services
from isotherma.web.rendering import units_of

HEADERS = {
    "x-robots-tag": "noindex, nofollow", "referrer-policy": "no-referrer",
    "cache-control": "no-store",
}  # fmt: skip


class TooMany(Exception):
    """Too many wrong links were tried from one address."""


@dataclass(frozen=True, slots=True)
class LinkOpened:
    """An open link, and what pages of it are made from."""

    link: Opened
    context: PageContext
    revision_id: int


def opened(
    request: Request, services: Services, token: str, kind: LinkKind, *, note: bool = False
) -> LinkOpened:
    """Open a link; NotFound where it opens nothing, TooMany where too many were tried."""
    agent = request.headers.get("user-agent", "")[:120] or "no name"
    found = services.sharing.open(token, kind, agent if note else "")
    if found is None:
        try:
            services.accounts.guess(address_of(request))
        except Refused:
            raise TooMany from None
        raise NotFound
    visiting(ALONE)  # as whoever made the link, and for this one vehicle alone
    head = services.vehicles.open(found.vehicle_id)
    revision = found.revision_id or head.head_id
    shown = services.dossiers.opened(found.vehicle_id, revision)
    if all(one.id != found.variant_id for one in shown.project.variants):
        raise NotFound
    context = PageContext(
        services, (), shown, found.variant_id, units_of(request), QueryParams(""),
        path_of=lambda *_, **__: "", may="look",
    )  # fmt: skip
    return LinkOpened(found, context, revision)
