"""One sentence of truth, made of the numbers of a day."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.brief import Brief
from isotherma.core.climate import MONTHS
from isotherma.core.quantity import UnitSystem, duration_words, shown, with_unit
from isotherma.core.results.draws import DrawResult, WhyNot
from isotherma.core.results.last_day import LastDay
from isotherma.core.results.ledger import TITLES, Entry
from isotherma.core.results.outcome import Outcome
from isotherma.core.timeline.record import InventoryKind
from isotherma.wording.english.causes import cause_words
from isotherma.wording.reader import Reader

BURST_K = 3.0
ENDS: Final[Mapping[InventoryKind, str]] = {
    "battery": "the battery is empty",
    "gas": "the gas bottle is empty",
    "diesel": "the fuel has come to what must stay in the tank",
}
TOO_COLD: Final = "the gas bottle is too cold to give what the flame takes"
_NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")


def _count(number: int) -> str:
    return _NUMBERS[number] if number < len(_NUMBERS) else str(number)


def reason_words(draw: DrawResult, longest_wait_s: float, units: UnitSystem) -> str:
    """Say in a clause why a draw is not as asked.

    Parameters
    ----------
    draw : DrawResult
        A draw; met or not. [-]
    longest_wait_s : float
        The brief's limit on waiting. [s]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        A clause that can follow the draw's name; "" for a draw as asked. [-]
    """
    match draw.why_not:
        case None:
            return ""
        case WhyNot.NO_FLOW:
            return "gets no water: as everything stands, nothing brings it to the outlet"
        case WhyNot.PUMP_OFF:
            return "gets no water: the pump is off as everything stands"
        case WhyNot.BLOWN if draw.used_m3 < 1e-6:
            return "gets no water: the fuse of the pump blows, and the pump stands"
        case WhyNot.BLOWN:
            return "loses its water: the fuse of the pump blows"
        case WhyNot.NO_POWER:
            return "gets no water: the battery is empty and the pump stands"
        case WhyNot.NO_GAS:
            return "loses its flame: the gas bottle is empty or too cold"
        case WhyNot.NO_FUEL:
            return "loses its flame: the fuel has come to what must stay in the tank"
        case WhyNot.DRY if draw.used_m3 < 1e-6:
            return "gets no water: none is left in the tank"
        case WhyNot.DRY:
            return "stops when the fresh water runs out"
        case WhyNot.NEVER_WARM:
            return f"never gets warm: {_at_most(draw, units)}"
        case WhyNot.STAYS_COOL:
            return f"stays cool: {_at_most(draw, units)}"
        case WhyNot.TOO_HOT:
            assert draw.peak_c is not None  # what was too hot was felt
            peak = with_unit(draw.peak_c, "temperature", units)
            return f"is too hot for {duration_words(draw.hot_over_s)}, up to {peak}"
        case WhyNot.RUNS_COOL:
            if draw.cool_after_s is None:
                return f"is warm for only {duration_words(draw.comfort_s)}"
            return f"runs cool after {duration_words(draw.cool_after_s)}"
        case WhyNot.LONG_WAIT:
            assert draw.wait_s is not None  # what is warm late is warm
            waited = duration_words(draw.wait_s)
            return f"is warm only after {waited}; {duration_words(longest_wait_s)} was the limit"


def _at_most(draw: DrawResult, units: UnitSystem) -> str:
    """Say how warm it got, and how hot a burst was before that."""
    held, peak = draw.held_c, draw.peak_c
    if peak is None:
        return "no water came"
    if held is None:
        return f"{with_unit(peak, 'temperature', units)} at most, for a moment"
    words = f"{with_unit(held, 'temperature', units)} at most"
    if peak > held + BURST_K:
        words += f", after a burst of {with_unit(peak, 'temperature', units)}"
    return words


def _washes(brief: Brief, draws: tuple[DrawResult, ...], day: int, units: UnitSystem) -> str:
    """Say how the draws of a day went; `day` is its number in a trip of unlike days, else 0."""
    month = MONTHS[brief.month - 1] + (f", on day {day}" if day else "")
    if not draws:
        return "No draw is described yet, so nothing is used but what stands in the brief"
    failed = [draw for draw in draws if not draw.met]
    total = len(draws)
    durations = {duration_words(draw.draw.duration_s) for draw in draws}
    noun = "wash" if total == 1 else "washes"
    length = f" of {durations.pop()}" if len(durations) == 1 else ""
    head = f"{_count(total).capitalize()} {noun}{length} in {month}"
    if not failed:
        tail = {1: "warm to the end", 2: "both warm to the end"}.get(total, "all warm to the end")
        return f"{head}, {tail}"
    worst = next((draw for draw in failed if draw.why_not is WhyNot.TOO_HOT), failed[0])
    reason = reason_words(worst, brief.budgets.longest_wait_s, units)
    name = worst.draw.name
    if total == 1:
        return f"{head}: “{name}” {reason}"
    good = total - len(failed)
    return (
        f"{head}: “{name}” {reason}; {_count(good) if good else 'none'} of {_count(total)} as asked"
    )


def _again(draws: tuple[DrawResult, ...]) -> str:
    if not draws or draws[-1].ready_again_s is None or draws[-1].ready_again_s < 60:
        return ""
    return f", then wait {duration_words(draws[-1].ready_again_s)} until the store is hot again"


def _low(title: str) -> str:
    """Begin a title small; names in it keep their capitals."""
    return title[:1].lower() + title[1:]


def _binding(days: int, ledger: tuple[Entry, ...], units: UnitSystem) -> str:
    entry = next((row for row in ledger if row.binds), None)
    if entry is None or entry.margin is None:
        return ""
    title = f"{TITLES[entry.budget]} of {entry.of}" if entry.of else TITLES[entry.budget]
    stretch = "the day" if days == 1 else f"the {days} days"
    if entry.budget == "warmth":
        return f"; warmth is what ends {stretch}"
    if entry.budget == "waiting":
        if entry.margin < 0:
            return "; waiting is what spoils it"
        return "; nothing runs out, and the wait is closest to its limit"
    if entry.ends_on_day is not None:
        what = "the day" if days == 1 else "the trip"
        when = "" if days == 1 else f", on day {entry.ends_on_day} of {days}"
        return f"; {_low(title)} is what ends {what}{when}"
    spare = with_unit(entry.margin, entry.style, units)
    return f"; nothing runs out in {stretch}, and {_low(title)} is closest with {spare} to spare"


def verdict(outcome: Outcome, units: UnitSystem) -> str:
    """Make the sentence every design opens with; what broke the day comes first."""
    brief, draws = outcome.brief, outcome.draws
    day = outcome.number if outcome.legs else 0
    binding = _binding(outcome.course.days, outcome.ledger, units)
    said = f"{_washes(brief, draws, day, units)}{_again(draws)}{binding}."
    if not outcome.causes:
        return said
    return f"{cause_words(outcome.causes[0], Reader.of(outcome.system, units))}. {said}"


def ready_words(draw: DrawResult) -> str:
    """Say when the store is hot again after a draw."""
    if draw.ready_again_s is None:
        return "not before the next"
    return duration_words(draw.ready_again_s) if draw.ready_again_s >= 1 else "at once"


def last_day_words(last: LastDay, outcome: Outcome, units: UnitSystem) -> str:
    """Say what ends on a later day and what comes of it, beside the draws of the day shown."""
    said = []
    for ended in last.timeline.ended:
        how = TOO_COLD if ended.how == "too cold" else ENDS[ended.carried]
        said.append(f"{how} at {shown(ended.clock_s, 'clock', units)}")
    if any(drawn.dry for drawn in last.timeline.drawn):
        said.append("the fresh water runs out")
    elif last.fresh_ends:
        said.append("the fresh water runs out, though not in a draw")
    words = f"On day {last.number} {' and '.join(said) or 'less is left than a day takes'}"
    limit = outcome.brief.budgets.longest_wait_s
    worse = [
        draw for draw, before in zip(last.draws, last.before, strict=True)
        if draw.why_not not in (None, before.why_not)
    ]  # fmt: skip
    come = [f"“{draw.draw.name}” {reason_words(draw, limit, units)}" for draw in worse[:2]]
    if len(worse) > 2:
        come.append(f"{len(worse) - 2} more are not as asked")
    return f"{words}: {'; '.join(come)}." if come else f"{words}; the draws are as shown."
