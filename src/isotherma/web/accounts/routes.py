"""Coming in and going: sign-in, invitations, phones, one's own sign-ins, accounts."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Path, Query, Request
from fastapi.responses import Response
from markupsafe import Markup

from isotherma.files.qr import qr_svg
from isotherma.services.accounts import Refused
from isotherma.services.vehicles import NotFound
from isotherma.services.visitors import visitor
from isotherma.web.accounts.pages import (
    NO_CODE,
    AccountRow,
    AccountsPage,
    ComesIn,
    InvitationPage,
    MePage,
    PairPage,
    SignInPage,
)
from isotherma.web.doors import (
    COOKIE,
    address_of,
    local_path,
    may_send_passwords,
    who_asks,
)
from isotherma.web.frame.context import ServicesDep
from isotherma.web.rendering import go_to, path_for, render

router = APIRouter()
YEAR_S = 365 * 86400
PLAIN = (
    "This server is reached without TLS, so a password sent here could be read on the way. Put it "
    "behind a proxy with TLS and name that proxy in ISOTHERMA_PROXIES, or start it with "
    "--plain-http where you know the network."
)
Token = Annotated[str, Path(min_length=10, max_length=100, pattern=r"^[\w-]+$")]
Text = Annotated[str, Form(max_length=200)]
Password = Annotated[str, Form(max_length=1000)]


def _signed(request: Request, answer: Response, token: str) -> Response:
    """Give a browser what it shows from now on."""
    answer.set_cookie(
        COOKIE, token, max_age=YEAR_S, httponly=True, samesite="lax",
        secure=request.url.scheme == "https",
    )  # fmt: skip
    return answer


def _browser(request: Request) -> str:
    """Name the kind of browser, roughly, so that its owner knows it again."""
    agent = request.headers.get("user-agent", "").lower()
    return "a phone" if "mobile" in agent else "a computer" if "mozilla" in agent else "a program"


@router.get("/sign-in", name="sign_in.show")
def show(request: Request, back: Annotated[str, Query(max_length=300)] = "/") -> Response:
    """Ask for name and password."""
    if request.app.state.mode != "accounts":
        raise NotFound
    refused = "" if may_send_passwords(request) else PLAIN
    return render(request, SignInPage(back=local_path(back), refused=refused))


@router.post("/sign-in", name="sign_in.send")
def send(
    request: Request, services: ServicesDep, name: Text = "", password: Password = "",
    back: Annotated[str, Form(max_length=300)] = "/",
) -> Response:  # fmt: skip
    """Sign a browser in; what it showed before counts no more."""
    if request.app.state.mode != "accounts":
        raise NotFound
    if not may_send_passwords(request):
        return render(request, SignInPage(name, local_path(back), refused=PLAIN), 403)
    try:
        token = services.accounts.sign_in(
            " ".join(name.split()), password, address_of(request), label=_browser(request)
        )
    except Refused as error:
        answer = render(request, SignInPage(name, local_path(back), error.why), error.status)
        if error.status == 429:
            answer.headers["retry-after"] = "900"
        return answer
    before = who_asks(request)
    if before.sign_in is not None:
        services.accounts.end(before, before.sign_in)
    return _signed(request, go_to(request, local_path(back)), token)


@router.post("/sign-out", name="sign_out")
def sign_out(request: Request, services: ServicesDep) -> Response:
    """End this browser's sign-in."""
    who = visitor()
    if who.sign_in is not None:
        services.accounts.end(who, who.sign_in)
    answer = go_to(request, "/")
    answer.delete_cookie(COOKIE, httponly=True, samesite="lax")
    return answer


@router.get("/invitation/{token}", name="invitation.show")
def invitation(request: Request, services: ServicesDep, token: Token) -> Response:
    """Ask somebody invited for a name and a password."""
    if request.app.state.mode != "accounts":
        raise NotFound
    kind = services.accounts.invited(token)
    gone = kind not in ("admin", "account")
    if gone:
        services.accounts.guess(address_of(request))
    refused = "" if may_send_passwords(request) else PLAIN
    return render(request, InvitationPage(token, kind == "admin", gone, refused=refused),
                  404 if gone else 200)  # fmt: skip


@router.post("/invitation/{token}", name="invitation.accept")
def accept(
    request: Request, services: ServicesDep, token: Token, name: Text = "", password: Password = ""
) -> Response:
    """Make an account by an invitation, and sign it in."""
    if request.app.state.mode != "accounts":
        raise NotFound
    admin = services.accounts.invited(token) == "admin"
    if not may_send_passwords(request):
        return render(request, InvitationPage(token, admin, False, name, refused=PLAIN), 403)
    try:
        shown = services.accounts.accept(token, name, password, label=_browser(request))
    except Refused as error:
        page = InvitationPage(token, admin, error.status == 404, name, error.why, error.field)
        return render(request, page, error.status)
    return _signed(request, go_to(request, "/"), shown)


@router.get("/pair/{token}", name="pair.show")
def pair(request: Request, services: ServicesDep, token: Token) -> Response:
    """Ask whether this phone is to be paired."""
    if request.app.state.mode != "lan":
        raise NotFound
    gone = services.accounts.invited(token) != "phone"
    if gone:
        services.accounts.guess(address_of(request))
    page = PairPage(token, gone, plain=request.url.scheme != "https")
    return render(request, page, 404 if gone else 200)


@router.post("/pair/{token}", name="pair.accept")
def pair_accept(
    request: Request, services: ServicesDep, token: Token, label: Text = ""
) -> Response:
    """Pair this phone."""
    if request.app.state.mode != "lan":
        raise NotFound
    try:
        shown = services.accounts.pair(token, " ".join(label.split()) or _browser(request))
    except Refused as error:
        return render(request, PairPage(token, True, error.why), error.status)
    return _signed(request, go_to(request, "/"), shown)


def _me(
    request: Request, services: ServicesDep, status: int = 200, *, token: str = "",
    pair: str = "", error: Refused | None = None, notice: str = "",
) -> Response:  # fmt: skip
    who = visitor()
    rows = tuple(
        ComesIn(one.id, one.kind, one.label or one.kind, f"{one.since:%Y-%m-%d}",
                f"{one.used:%Y-%m-%d %H:%M}", one.id == who.sign_in)
        for one in services.accounts.signed_in(who)
    )  # fmt: skip
    address = request.app.state.address
    path = f"{address}{path_for(request, 'pair.show', token=pair)}" if pair else ""
    page = MePage(
        who.name, who.kind == "account", request.app.state.mode == "lan", rows, token, path,
        Markup(qr_svg(path, 40.0)) if path and address else NO_CODE,
        "" if error is None else error.why, "" if error is None else error.field, notice,
    )  # fmt: skip
    return render(request, page, status)


@router.get("/me", name="me.show")
def me(request: Request, services: ServicesDep) -> Response:
    """List what may come in as oneself."""
    return _me(request, services)


@router.post("/me/password", name="me.password")
def password(
    request: Request, services: ServicesDep, old: Password = "", new: Password = ""
) -> Response:
    """Change one's password; every other sign-in ends."""
    if visitor().kind != "account":
        raise NotFound
    try:
        services.accounts.change_password(visitor(), old, new)
    except Refused as error:
        return _me(request, services, error.status, error=error)
    return _me(request, services, notice="The password is changed; all else is signed out.")


@router.post("/me/end", name="me.end")
def end(
    request: Request, services: ServicesDep, number: Annotated[int, Form(ge=1, lt=2**31)]
) -> Response:
    """End one of one's own sign-ins."""
    if not services.accounts.end(visitor(), number):
        raise NotFound
    return go_to(request, path_for(request, "me.show"))


@router.post("/me/token", name="me.token")
def token(request: Request, services: ServicesDep, label: Text = "") -> Response:
    """Make a token for a program; it is shown once."""
    try:
        made = services.accounts.program(visitor(), label)
    except Refused as error:
        return _me(request, services, error.status, error=error)
    return _me(request, services, token=made)


@router.post("/me/pair", name="me.pair")
def make_pair(request: Request, services: ServicesDep) -> Response:
    """Make a code that pairs a phone, once."""
    if request.app.state.mode != "lan":
        raise NotFound
    return _me(request, services, pair=services.accounts.invite("phone"))


def _accounts(
    request: Request, services: ServicesDep, status: int = 200, *, invited: str = "",
    error: str = "", error_for: int = 0, typed: str = "", notice: str = "",
) -> Response:  # fmt: skip
    rows = tuple(
        AccountRow(one.id, one.name, one.admin,
                   f"since {one.since:%Y-%m-%d}, {one.vehicles} "
                   f"vehicle{'' if one.vehicles == 1 else 's'}", one.id == visitor().account_id)
        for one in services.accounts.listed()
    )  # fmt: skip
    address = request.app.state.address
    path = f"{address}{path_for(request, 'invitation.show', token=invited)}" if invited else ""
    code = Markup(qr_svg(path, 40.0)) if path and address else NO_CODE
    return render(request, AccountsPage(rows, path, code, error, error_for, typed, notice), status)


@router.get("/accounts", name="accounts.show")
def accounts(request: Request, services: ServicesDep) -> Response:
    """List who has an account."""
    return _accounts(request, services)


@router.post("/accounts/invite", name="accounts.invite")
def invite(request: Request, services: ServicesDep) -> Response:
    """Make an invitation; its address is shown once."""
    return _accounts(request, services, invited=services.accounts.invite("account"))


@router.post("/accounts/delete", name="accounts.delete")
def delete(
    request: Request, services: ServicesDep, number: Annotated[int, Form(ge=1, lt=2**31)],
    hand_to: Text = "", vehicles: Annotated[str, Form(max_length=10)] = "",
) -> Response:  # fmt: skip
    """Take an account away; its vehicles are handed over or deleted, as was asked."""
    if vehicles not in ("hand", "delete") or (vehicles == "hand" and not hand_to.strip()):
        return _accounts(
            request, services, 422, error_for=number, typed=hand_to,
            error="Say to whom its vehicles go, or that they are deleted.")  # fmt: skip
    try:
        services.accounts.delete(visitor(), number, hand_to=hand_to if vehicles == "hand" else "")
    except Refused as error:
        return _accounts(request, services, error.status, error=error.why, error_for=number,
                         typed=hand_to)  # fmt: skip
    return _accounts(request, services, notice="The account is gone.")
