"""A page that says one thing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar


@dataclass(frozen=True, slots=True)
class MessagePage:
    """A page that says one thing: not found, an error of ours."""

    template: ClassVar[str] = "message.html"
    title: str
    text: str
    status: int
