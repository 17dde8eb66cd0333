"""Doors: who may come through which route. A route that is not in the table opens to nobody.

At home everything is open. Where there are accounts, a vehicle that is not somebody's is not there
for them. Phones of one's own come in by a code from the console, once.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final, Literal
from urllib.parse import quote, urlsplit

from fastapi import Request
from starlette.concurrency import run_in_threadpool

from isotherma.services.accounts import Accounts
from isotherma.services.sharing import Sharing
from isotherma.services.vehicles import NotFound
from isotherma.services.visitors import ALONE, NOBODY, Visitor, reaches, visiting
from isotherma.settings import LOOPBACK, is_loopback
from isotherma.web.rendering import whole_number

Door = Literal["open", "person", "admin", "look", "edit", "own"]
COOKIE: Final = "sign_in"
LOCAL: Final = frozenset({*LOOPBACK, "testclient"})
FORWARDED: Final = ("forwarded", "x-forwarded-for", "x-forwarded-host", "x-real-ip")


class SignInFirst(Exception):
    """Nobody is signed in, and this needs somebody; `back` is where they wanted to go."""

    def __init__(self, back: str) -> None:
        super().__init__("sign in first")
        self.back = back


def _of(door: Door, names: Iterable[str]) -> dict[str, Door]:
    return dict.fromkeys(names, door)


# what needs no sign-in; those of links look at their token themselves
_OPEN: Final = (
    "alive", "settings.save", "elements.show", "kinds.show", "words.show", "method.show",
    "sign_in.show", "sign_in.send", "invitation.show", "invitation.accept", "pair.show",
    "pair.accept", "link.show", "link.file", "link.dossier",
    "review.show", "review.sign", "review.photo",
)  # fmt: skip
_PERSON: Final = (
    "home.show", "vehicle.import", "start.show", "start.create", "vehicle.create", "jump.show",
    "kernels.show", "sums.show", "joints.thread", "joints.meet", "sums.put", "work.cancel",
    "me.show", "me.password", "me.end", "me.token", "me.pair", "sign_out",
    "api.docs", "api.schema", "api.vehicles", "api.vehicle.create", "api.job",
)  # fmt: skip
_ADMIN: Final = ("accounts.show", "accounts.invite", "accounts.delete")
_LOOK: Final = (
    "home.variant", "vehicle.export", "vehicle.archive", "versions.show", "design.brief",
    "design.heat", "design.offer", "design.sizes", "design.sizes.found", "design.own",
    "design.layout", "design.effect", "design.route_svg", "design.parts",
    "design.runs_file", "design.own.file", "design.spaces", "design.verdicts",
    "design.flow", "design.flow.network", "design.power", "design.shower",
    "design.certainty", "design.mends", "design.trace", "design.timeline", "design.budgets",
    "design.year", "design.levers", "design.checks", "design.checks.mark",
    "design.checks.finding", "design.checks.table", "design.shopping", "design.parts_file",
    "design.build", "design.faults", "design.faults.suspects", "design.faults.practice",
    "design.use", "design.use.card", "design.use.cards", "design.dossier",
    "design.dossier.file", "design.log", "design.log.file", "design.photos.show",
    "design.sweep", "design.swept", "design.smallest", "design.sweep.csv", "design.compare",
    "design.compare.found", "design.compare.csv", "design.whatif", "vehicle.duplicate",
    "design.share", "design.events", "api.project", "api.simulate", "api.check", "api.parts",
    "api.plan", "api.dossier",
)  # fmt: skip
_EDIT: Final = (
    "vehicle.rename", "versions.name", "versions.back", "design.runs", "design.own.keep",
    "design.own.remove", "design.own.read", "design.build.tick", "design.build.open",
    "design.build.stage", "design.build.calendar", "design.faults.symptom",
    "design.faults.reading", "design.faults.test", "design.faults.unsay",
    "design.faults.change", "design.faults.end", "design.use.calendar", "design.log.note",
    "design.log.forget", "design.log.import", "design.log.columns",
    "design.log.file.forget", "design.log.probe.map", "design.log.probe.keep",
    "design.photos.add", "design.photos.forget", "design.edit", "design.undo",
    "design.redo", "design.end.set", "design.run.measure", "design.price.set",
    "design.line.ordered", "design.line.bought", "design.line.open", "design.part.bought",
    "design.currency.set", "design.tradition.set", "design.hole.plan", "design.hole.set",
    "design.check.rules", "design.check.acknowledge", "design.check.take_back",
    "design.family.strike", "design.family.back", "design.system.family",
    "design.system.guess", "design.system.known", "design.measured.take",
    "design.measured.cold", "design.gauge.take", "design.measured.forget",
    "design.part.move", "design.part.put", "design.trip.lay", "design.day.add",
    "design.day.remove", "design.stop.add", "design.stop.remove", "design.stop.plan",
    "design.wish.add", "design.wish.remove", "design.wish.judge", "design.variant.first",
    "design.owned.add", "design.part.add", "design.part.fit", "design.part.insert",
    "design.part.replace", "design.draw.add", "design.draw.repeat", "design.draw.remove",
    "design.use.add", "design.use.remove", "design.variant.copy", "design.variant.remove",
    "design.system.usual", "design.system.layout", "design.brief.keep",
    "design.owned.remove", "design.changes.make", "design.system.copy",
    "design.system.empty", "design.diverter.place", "design.part.remove", "design.port.cap",
    "design.run.join", "design.run.remove", "design.piece.add", "design.piece.remove",
    "design.state.say", "design.state.day", "design.phase.day", "design.state.position",
    "design.state.place", "design.state.put_back", "design.log.probe.live",
    "api.project.put", "api.readings",
)  # fmt: skip
_OWN: Final = (
    "vehicle.delete", "vehicle.restore", "design.share.account", "design.share.take_back",
    "design.share.link", "design.share.revoke", "design.share.answer",
)  # fmt: skip
DOORS: Final[dict[str, Door]] = {
    **_of("open", _OPEN), **_of("person", _PERSON), **_of("admin", _ADMIN), **_of("look", _LOOK),
    **_of("edit", _EDIT), **_of("own", _OWN),
}  # fmt: skip


async def guard(request: Request) -> None:
    """Let a request in, or not; everything behind it asks as who it is.

    NotFound for what is not theirs, SignInFirst where nobody is signed in.
    """
    name = str(getattr(request.scope.get("route"), "name", ""))
    door = DOORS.get(name)
    if door is None:
        raise NotFound
    mode = request.app.state.mode
    who = ALONE if mode == "alone" else await run_in_threadpool(who_asks, request)
    visiting(who)
    request.state.may = "own"
    if door == "open" or who.all:
        if door == "admin":
            raise NotFound
        return
    if who.kind == "nobody":
        raise SignInFirst(request.url.path if request.method == "GET" else "/")
    if door == "person":
        return
    if door == "admin":
        if not who.admin:
            raise NotFound
        return
    number = whole_number(str(request.path_params.get("vehicle_id", "")))
    if number < 0:
        raise NotFound
    sharing: Sharing = request.app.state.services.sharing
    may = await run_in_threadpool(sharing.may, who, number)
    if not reaches(may, door):
        raise NotFound
    request.state.may = may


def who_asks(request: Request) -> Visitor:
    """Say who asks, by what the browser, phone or program shows."""
    mode = request.app.state.mode
    if mode == "alone" or (mode == "lan" and is_local(request)):
        return ALONE
    accounts: Accounts = request.app.state.services.accounts
    token = shown_token(request)
    return accounts.visitor(token, phones=mode == "lan") if token else NOBODY


def shown_token(request: Request) -> str:
    """Give what is shown: a program's in its header, a browser's in its cookie."""
    head = request.headers.get("authorization", "")
    if head[:7].lower() == "bearer ":
        return head[7:].strip()
    return request.cookies.get(COOKIE, "")


def is_local(request: Request) -> bool:
    """Say whether it comes from this very machine, and from nobody behind a proxy on it."""
    if any(name in request.headers for name in FORWARDED):
        return False
    host = urlsplit(f"//{request.headers.get('host', '')}").hostname or ""
    return address_of(request) in LOCAL and (host in LOCAL or host == "testserver")


def address_of(request: Request) -> str:
    """Give the address a request comes from, as the server sees it."""
    return request.client.host if request.client is not None else ""


def may_send_passwords(request: Request) -> bool:
    """Say whether a password may travel: by TLS, on this machine, or where plain is allowed."""
    if request.url.scheme == "https" or request.app.state.plain_http:
        return True
    if any(name in request.headers for name in FORWARDED):
        return False  # a proxy nobody named: how it came to that one is not known
    return is_loopback(address_of(request)) or address_of(request) in LOCAL


def sign_in_path(back: str) -> str:
    """Give where one signs in, and comes back from."""
    return f"/sign-in?back={quote(back, safe='/')}" if back and back != "/" else "/sign-in"


def local_path(path: str) -> str:
    """Keep a return path on this server."""
    return path if path.startswith("/") and not path.startswith(("//", "/\\")) else "/"
