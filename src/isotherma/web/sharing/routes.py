"""Sharing a vehicle: with accounts, by links; answers to reviews; changes as they happen."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Form
from fastapi.responses import Response
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.concurrency import run_in_threadpool

from isotherma.services.accounts import Refused
from isotherma.services.vehicles import NotFound
from isotherma.services.visitors import visitor
from isotherma.web.doors import who_asks
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest
from isotherma.web.frame.responses import show
from isotherma.web.rendering import go_to, path_for, render
from isotherma.web.sharing.page import share_page

router = APIRouter(prefix=DESIGN)
Text = Annotated[str, Form(max_length=200)]
Number = Annotated[int, Form(ge=1, lt=2**31)]


@router.get("/share", name="design.share")
def share(design: DesignDep) -> Response:
    """Who else may see it; what was signed; who changed what when."""
    return show(design, "share")


def _back(design: DesignRequest) -> Response:
    return go_to(design.request, design.path("design.share"))


@router.get("/events", name="design.events")
async def events(design: DesignDep) -> Response:
    """Tell of every change of this vehicle while somebody looks on, and may."""
    request, services = design.request, design.services
    number = design.vehicle_id
    # NotFound before anything is sent
    opened = await run_in_threadpool(services.vehicles.last_change, number)

    async def told() -> AsyncIterator[ServerSentEvent]:
        seen = opened.id
        async for _ in request.app.state.live.looks(number):
            try:
                if not await run_in_threadpool(_still, design):
                    return
                last = await run_in_threadpool(services.vehicles.last_change, number)
                if last.id != seen:
                    seen = last.id
                    said = {"head": last.id, "by": last.by, "what": last.label}
                    yield ServerSentEvent(event="head", data=json.dumps(said))
            except NotFound:
                return

    return EventSourceResponse(told(), ping=15)


def _still(design: DesignRequest) -> bool:
    """Say whether who opened a stream is still signed in, and may still look."""
    now, then = who_asks(design.request), visitor()
    return (now.kind, now.account_id) == (then.kind, then.account_id) and (
        design.services.sharing.allows(now, design.vehicle_id, "look")
    )


@router.post("/share/account", name="design.share.account")
def with_account(design: DesignDep, name: Text = "", may: Text = "look") -> Response:
    """Share it with an account."""
    try:
        design.services.sharing.share(design.vehicle_id, name, may)
    except Refused as error:
        page = share_page(design.context(), error=error.why, field=error.field, typed=name)
        return render(design.request, page, error.status)
    return _back(design)


@router.post("/share/take-back", name="design.share.take_back")
def take_back(design: DesignDep, number: Number) -> Response:
    """Share it no longer with an account."""
    design.services.sharing.unshare(design.vehicle_id, number)
    return _back(design)


@router.post("/share/link", name="design.share.link")
def link(
    design: DesignDep, kind: Text = "look", lasts: Text = "week", label: Text = "",
    newest: Annotated[bool, Form()] = False,
) -> Response:  # fmt: skip
    """Make a link; its address is shown once."""
    context = design.context()
    try:
        token = design.services.sharing.make_link(
            design.vehicle_id, design.variant_id, kind=kind, lasts=lasts, label=label, newest=newest
        )
    except Refused as error:
        page = share_page(context, error=error.why, field=error.field)
        return render(design.request, page, error.status)
    name = "link.show" if kind == "look" else "review.show"
    path = path_for(design.request, name, token=token)
    return render(design.request, share_page(context, made=f"{context.address}{path}"))


@router.post("/share/revoke", name="design.share.revoke")
def revoke(design: DesignDep, number: Number) -> Response:
    """Let a link open nothing any more."""
    design.services.sharing.revoke(design.vehicle_id, number)
    return _back(design)


@router.post("/share/answer", name="design.share.answer")
def answer(
    design: DesignDep, number: Number, text: Annotated[str, Form(max_length=2000)] = "",
    close: Annotated[bool, Form()] = False,
) -> Response:  # fmt: skip
    """Answer what was signed."""
    design.services.sharing.answer(design.vehicle_id, number, text, close=close)
    return _back(design)
