"""Fit, reach and bypass in sentences."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.setup.fit import Filled, Fit, Misfit
from isotherma.core.setup.reach import Reach

_WHY: Final[Mapping[Misfit, str]] = {
    Misfit.TOO_TALL: "{part} is {over} too tall for {other}",
    Misfit.TOO_WIDE: "{part} is {over} too long or wide for {other}, whichever way it stands",
    Misfit.NO_ELBOWS: "{part} goes into {other}, but {over} are missing for elbows and tails",
    Misfit.NO_SERVICE: "{part} goes into {other}, but {over} are missing to service it",
    Misfit.COLLIDES: "{part} and {other} stand in each other by {over}",
    Misfit.TOO_MUCH: "{other} is smaller by {over} than what is to go into it",
    Misfit.RISES_OTHERWISE: "{part} is entered with a rise of {over}, but where its ends stand "
    "it rises {least} to {most}",
}


def fit_sentence(fit: Fit, units: UnitSystem) -> str:
    """Say what does not fit, and by how much."""
    style = "volume" if fit.why is Misfit.TOO_MUCH else "bore"
    over = with_unit(fit.over, style, units, 2)
    least, most = (with_unit(end, style, units, 2) for end in (fit.least, fit.most))
    words = _WHY[fit.why].format(part=fit.label, other=fit.other, over=over, least=least, most=most)
    return f"{words}."


def filled_sentence(space: Filled, units: UnitSystem) -> str:
    """Say how full a space is, and of how many parts nobody knows the size."""
    taken = with_unit(space.taken_m3, "volume", units, 3)
    words = f"{space.name}: {taken} of parts"
    if space.room_m3 is not None:
        words += f" in {with_unit(space.room_m3, 'volume', units, 3)}"
    if space.unknown:
        words += f"; {space.unknown} without a size"
    return f"{words}."


def reach_sentences(
    reach: Reach, spilt_m3: float, shut: tuple[str, ...], labels: Mapping[str, str],
    units: UnitSystem,
) -> tuple[str, ...]:  # fmt: skip
    """Say what comes out to get at a part, what it costs, what bridges it."""
    out = ", then ".join(labels.get(key, key) for key in reach.order)
    words = f"To change it: take out {out}" if out else "To change it: it stands open"
    if reach.hatch and not out:
        words = "To change it: through its hatch"
    words += (
        f"; {reach.joints} joint{'' if reach.joints == 1 else 's'}, about "
        f"{duration_words(reach.seconds_s)}"
    )
    if spilt_m3 > 1e-5:
        closed = f" with {' and '.join(labels.get(key, key) for key in shut)} shut" if shut else ""
        words += f", {with_unit(spilt_m3, 'volume', units, 2)} run out{closed}"
    said = [f"{words}."]
    if reach.bypass is not None:
        tube = " ".join(item for item in (reach.bypass.nominal, reach.bypass.family) if item)
        said.append(
            f"On the road a tube bridges it: {with_unit(reach.bypass.length_m, 'length', units, 2)}"
            f"{' of ' + tube if tube else ''} from {labels[reach.bypass.before]} to "
            f"{labels[reach.bypass.after]}."
        )
    return tuple(said)
