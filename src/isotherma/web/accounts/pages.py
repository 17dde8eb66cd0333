"""Pages of coming in, as templates show them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Final

from markupsafe import Markup

NO_CODE: Final = Markup("")


@dataclass(frozen=True, slots=True)
class SignInPage:
    """Name and password; or why no password is taken here."""

    template: ClassVar[str] = "sign_in.html"
    name: str = ""
    back: str = "/"
    error: str = ""
    refused: str = ""


@dataclass(frozen=True, slots=True)
class InvitationPage:
    """Make an account by an invitation."""

    template: ClassVar[str] = "invitation.html"
    token: str
    admin: bool
    gone: bool
    name: str = ""
    error: str = ""
    field: str = ""
    refused: str = ""


@dataclass(frozen=True, slots=True)
class PairPage:
    """Pair this phone, by a press of its own: a preview of the address must not use it up."""

    template: ClassVar[str] = "pair.html"
    token: str
    gone: bool
    error: str = ""
    plain: bool = False


@dataclass(frozen=True, slots=True)
class ComesIn:
    """Something that may come in as oneself."""

    id: int
    kind: str
    label: str
    since: str
    used: str
    here: bool


@dataclass(frozen=True, slots=True)
class MePage:
    """What may come in as oneself; one's password."""

    template: ClassVar[str] = "me.html"
    name: str
    account: bool
    lan: bool
    rows: tuple[ComesIn, ...]
    token: str = ""
    pair_path: str = ""
    pair_code: Markup = NO_CODE
    error: str = ""
    field: str = ""
    notice: str = ""


@dataclass(frozen=True, slots=True)
class AccountRow:
    """An account of the workshop."""

    id: int
    name: str
    admin: bool
    words: str
    here: bool


@dataclass(frozen=True, slots=True)
class AccountsPage:
    """Who has an account, and how somebody gets one."""

    template: ClassVar[str] = "accounts.html"
    rows: tuple[AccountRow, ...]
    invitation: str = ""
    code: Markup = NO_CODE
    error: str = ""
    error_for: int = 0
    typed: str = ""
    notice: str = ""
