"""A day under other names: what ran is the same, only what parts, runs and draws are called."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from isotherma.core.brief import Draw
from isotherma.core.timeline.record import Day


def named_as(day: Day, labels: Mapping[str, str], draws: Sequence[Draw]) -> Day:
    """Give a day with the names of documents that differ in names alone.

    Parameters
    ----------
    day : Day
        As it was run; it stays as it is. [-]
    labels : mapping of str to str
        Names of parts and runs by id. [-]
    draws : sequence of Draw
        Of the brief. [-]

    Returns
    -------
    Day
        The same arrays and figures. [-]
    """
    called = {draw.id: {"name": draw.name, "who": draw.who} for draw in draws}
    return replace(
        day,
        drawn=tuple(
            replace(
                drawn,
                draw=drawn.draw.model_copy(update=called.get(drawn.draw.id, {})),
                way=tuple(replace(step, label=labels.get(step.id, step.label))
                          for step in drawn.way),
            )
            for drawn in day.drawn
        ),
        pipes=tuple(replace(pipe, label=labels.get(pipe.id, pipe.label)) for pipe in day.pipes),
    )  # fmt: skip
