"""A box of probes: what its channels mean is kept, its lines are passed on, some are kept."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator
from dataclasses import replace
from typing import Annotated
from urllib.parse import urlencode

import anyio
from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import Response
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import QueryParams

from isotherma.core.quantity import UnitSystem
from isotherma.files.readings_csv import SESSION_KINDS
from isotherma.services.probe import (
    Heard,
    ProbeRefused,
    heard,
    judged_address,
    kept_lines,
    mapped,
    rows_of,
)
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest
from isotherma.web.log.page import log_page
from isotherma.web.log.probe import PROBE
from isotherma.web.rendering import go_to, render
from isotherma.wording import figure_words

router = APIRouter(prefix=DESIGN)
Address = Annotated[str, Form(max_length=120)]
Line = Annotated[int, Form(ge=0, lt=2**53)]
LONGEST = 100_000  # lines that are kept at once


@router.post("/log/probe/map", name="design.log.probe.map")
async def meaning(design: DesignDep, request: Request) -> Response:
    """Keep what the channels of a box mean."""
    async with request.form() as form:
        said = {key[3:]: str(value) for key, value in form.items()
                if key.startswith("is.") and value}  # fmt: skip
        typed, home = str(form.get("address", ""))[:120], form.get("home") == "1"

    def keep() -> Response:
        try:
            address = judged_address(typed, at_home=home)
        except ProbeRefused as error:
            return _refused(design, typed, home, error.why)
        means = {key: ".".join(filter(None, one)) for key, one in mapped(said).items()}
        design.services.logbook.keep_mapping(
            design.vehicle_id, design.variant_id, PROBE, address, means
        )
        return go_to(design.request, _page(design, address, home))

    return await run_in_threadpool(keep)


@router.get("/log/probe/live", name="design.log.probe.live")
async def live(
    design: DesignDep, address: Annotated[str, Query(max_length=120)],
    home: Annotated[bool, Query()] = False,
) -> Response:  # fmt: skip
    """Pass the lines of a box on as they come; the database is not held meanwhile."""
    try:
        asked = judged_address(address, at_home=home)
    except ProbeRefused as error:
        return Response(error.why, 422, media_type="text/plain")
    kinds = await run_in_threadpool(
        lambda: mapped(design.services.logbook.mapping(
            design.vehicle_id, design.variant_id, PROBE, asked))
    )  # fmt: skip
    units = design.units

    async def events() -> AsyncIterator[ServerSentEvent]:
        async for one in heard(asked):
            yield ServerSentEvent(event=one.state, data=_told(one, kinds, units))

    return EventSourceResponse(events(), ping=20)


@router.post("/log/probe/keep", name="design.log.probe.keep")
def keep(
    design: DesignDep, address: Address, first: Line = 0, last: Line = 0,
    session: Annotated[str, Form(max_length=80)] = "",
    kind: Annotated[str, Form(max_length=20)] = "draw", home: Annotated[bool, Form()] = False,
) -> Response:  # fmt: skip
    """Fetch lines the box has kept, and keep them as readings of a session."""
    place = (design.vehicle_id, design.variant_id)
    try:
        asked = judged_address(address, at_home=home)
        if kind not in SESSION_KINDS:
            raise ProbeRefused("There is no such kind of session.")
        if not first <= last < first + LONGEST:
            raise ProbeRefused(f"Say from which line to which, {LONGEST} at most.")
        means = mapped(design.services.logbook.mapping(*place, PROBE, asked))
        if not means:
            raise ProbeRefused("Say first what the channels mean.")
        lines, bad = anyio.run(kept_lines, asked, first, last)
    except ProbeRefused as error:
        return _refused(design, address, home, error.why)
    name = " ".join(session.split()) or "probes"
    rows = rows_of(lines, means, name, kind)
    design.services.logbook.note(*place, rows)
    words = f"{len(rows)} readings kept of {len(lines)} lines"
    words += f", {bad} could not be read" if bad else ""
    context = replace(design.context(notice=""), query=QueryParams({"session": name}))
    return render(design.request, log_page(context, notice=words, view="sessions"))


def _told(one: Heard, kinds: dict[str, tuple[str, str | None]], units: UnitSystem) -> str:
    """Write what was heard for the page: figures in the reader's units."""
    if one.line is None:
        return json.dumps({"state": one.state})
    values = {}
    for key, (quantity, _) in kinds.items():
        value = one.line.value(key)
        values[key] = "no reading" if value is None else figure_words(quantity, value, units)
    return json.dumps({"state": one.state, "n": one.line.n, "lost": one.lost, "values": values})


def _page(design: DesignRequest, address: str, home: bool) -> str:
    asked = {"view": PROBE, "address": address, **({"home": "1"} if home else {})}
    return f"{design.path('design.log')}?{urlencode(asked)}"


def _refused(design: DesignRequest, address: str, home: bool, why: str) -> Response:
    """Say why not, with the address as it was typed."""
    asked = {"address": address, **({"home": "1"} if home else {})}
    context = replace(design.context(), query=QueryParams(asked))
    return render(design.request, log_page(context, view=PROBE, refused=why), 422)
