"""What a box of probes says: its channels, what they mean, what a sound design gives."""

from __future__ import annotations

from dataclasses import dataclass

import anyio

from isotherma.core.errors import CoreError
from isotherma.core.faults.readings import KINDS, Reading
from isotherma.core.faults.typed import offered
from isotherma.services.building import labels_of
from isotherma.services.diagnosing import foretold
from isotherma.services.probe import ProbeRefused, about, judged_address, mapped
from isotherma.web.frame.context import PageContext
from isotherma.wording import quantity_title, range_words

PROBE = "probe"
OF_UNIT = {"C": ("temp", "air"), "L/min": ("flow",), "L": ("litres",), "V": ("volts",),
           "A": ("amps",)}  # fmt: skip
USUAL = "http://127.0.0.1:"


@dataclass(frozen=True, slots=True)
class ChannelRow:
    """A channel: what it may mean, what was chosen, what a sound design gives of it."""

    key: str
    title: str
    unit: str
    offered: tuple[tuple[str, str, bool], ...]
    foretold: str


@dataclass(frozen=True, slots=True)
class ProbePart:
    """A box of probes as far as it is known."""

    address: str = ""
    home: bool = False
    name: str = ""
    channels: tuple[ChannelRow, ...] = ()
    error: str = ""
    known: tuple[str, ...] = ()


def probe_part(context: PageContext, error: str = "") -> ProbePart:
    """Ask the box the address names; without one say which were asked before."""
    place = (context.opened.vehicle_id, context.variant_id)
    known = context.services.logbook.mappings(*place, PROBE)
    typed = context.query.get("address", "").strip()
    home = context.query.get("home") == "1"
    if not typed:
        return ProbePart(known[0] if known else USUAL, home, known=known, error=error)
    try:
        address = judged_address(typed, at_home=home)
        box = anyio.run(about, address)
    except ProbeRefused as refusal:
        return ProbePart(typed, home, error=refusal.why, known=known)
    chosen = mapped(context.services.logbook.mapping(*place, PROBE, address))
    rows = tuple(
        _row(context, one.key, one.title, one.unit, chosen.get(one.key)) for one in box.channels
    )
    return ProbePart(address, home, box.name, rows, error, known)


def _row(
    context: PageContext, key: str, title: str, unit: str, chosen: tuple[str, str | None] | None
) -> ChannelRow:
    names = labels_of(context.variant.system)
    fits = OF_UNIT.get(unit, ())
    choices = [
        (f"{kind}.{part}" if part else kind, kind, part)
        for kind, part in offered(context.variant.system) if kind in fits
    ]  # fmt: skip
    return ChannelRow(
        key, title, unit,
        tuple((name, quantity_title(name, names), chosen == (kind, part))
              for name, kind, part in choices),
        "" if chosen is None else _foretold(context, *chosen),
    )  # fmt: skip


def _foretold(context: PageContext, kind: str, part: str | None) -> str:
    """Give what a sound design gives of a quantity, steady; nothing where it is not computed."""
    if kind not in KINDS or part is None:
        return ""
    try:
        found = foretold(context.services.fault_finding, context.project, context.variant,
                         Reading(kind, part, 0.0))  # fmt: skip
    except CoreError:
        return ""
    return "" if found is None else range_words(kind, found.low, found.high, context.units)
