"""Joints at the bench: which thread, which adapters, with our tables."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from isotherma.catalogue.joints import adapters, size_is_known, threads
from isotherma.core.ends import read_end
from isotherma.core.joints.resolver import Asked, Chain, Why, resolve
from isotherma.core.joints.threads import Identified, Measured, identify

Reason = Why | Literal["unclear_end", "unknown_size"]


@dataclass(frozen=True, slots=True)
class Joined:
    """Two ends as they were read, and the chain between them; `about` names what is refused."""

    ends: tuple[str, str]
    chain: Chain
    reason: Reason | None = None
    about: tuple[str, ...] = ()


def which_thread(measured: Measured) -> Identified:
    """Say which thread of our tables was measured."""
    return identify(measured, threads())


def join(one: str, other: str, asked: Asked) -> Joined:
    """Find the fewest adapters of our tables between two ends as somebody wrote them."""
    first, second = read_end(one), read_end(other)
    none = Chain(refused="no_chain")
    names = (one if first is None else first.name, other if second is None else second.name)
    strange = tuple(text for text, end in ((one, first), (other, second)) if end is None)
    if first is None or second is None:
        return Joined(names, none, "unclear_end", strange)
    unsized = tuple(end.name for end in (first, second) if not size_is_known(end))
    if unsized:
        return Joined(names, none, "unknown_size", unsized)
    found = resolve(first, second, adapters(), asked)
    return Joined(names, found, found.refused)


def end_names() -> tuple[str, ...]:
    """List every end of our adapters, to choose from."""
    return tuple(sorted({end.name for row in adapters() for end in (row.a, row.b)}))
