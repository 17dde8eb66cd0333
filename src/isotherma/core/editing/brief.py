"""Draws and uses of the brief: added, repeated, taken away."""

from __future__ import annotations

from collections.abc import Sequence

from isotherma.core.brief import Draw
from isotherma.core.editing.trip import forgotten
from isotherma.core.editing.values import fresh_id
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project


def add_draw(project: Project, draw: Draw) -> Project:
    """Add a draw to the brief, under an id of its own.

    Parameters
    ----------
    project : Project
        The document. [-]
    draw : Draw
        Its id may be taken already. [-]

    Returns
    -------
    Project
        With one more draw. [-]
    """
    draws = project.brief.draws
    taken = [other.id for other in draws]
    named = draw.model_copy(update={"id": fresh_id(draw.name, taken)})
    return _with_draws(project, (*draws, named))


def repeat_draw(project: Project, draw_id: str) -> Project:
    """Add the same draw again, a minute after it could have ended.

    Parameters
    ----------
    project : Project
        The document. [-]
    draw_id : str
        Which draw to repeat. [-]

    Returns
    -------
    Project
        With one more draw, after every draw that already follows in a row. [-]

    Raises
    ------
    ChangeRefused
        If the draw is not there, or the day has no room after it.
    """
    path = f"brief.draws.{draw_id}"
    draws = project.brief.draws
    source = next((draw for draw in draws if draw.id == draw_id), None)
    if source is None:
        raise ChangeRefused(path=path, reason="gone")
    taken = {draw.start_s for draw in draws}
    step_s = source.duration_s + source.stops * source.stop_s + 60.0
    start_s = source.start_s + step_s
    while start_s in taken:
        start_s += step_s
    if start_s >= 86400:
        raise ChangeRefused(path=path, reason="no_room_after")
    return add_draw(project, source.model_copy(update={"start_s": start_s, "who": ""}))


def remove_draw(project: Project, draw_id: str) -> Project:
    """Take a draw out of the brief; ChangeRefused if it is not there.

    Parameters
    ----------
    project : Project
        The document. [-]
    draw_id : str
        Which. [-]

    Returns
    -------
    Project
        With one draw less. [-]
    """
    left = tuple(draw for draw in project.brief.draws if draw.id != draw_id)
    if len(left) == len(project.brief.draws):
        raise ChangeRefused(path=f"brief.draws.{draw_id}", reason="gone")
    data = project.model_dump()
    data["brief"]["draws"] = [draw.model_dump() for draw in left]
    forgotten(data["brief"], "without_draws", draw_id)
    return Project.model_validate(data)


def add_use(project: Project, purpose: str) -> Project:
    """Add water by the litre to the brief, its litres still none.

    Parameters
    ----------
    project : Project
        The document. [-]
    purpose : str
        One of the purposes. [-]

    Returns
    -------
    Project
        With one more use. [-]
    """
    uses = project.brief.uses
    use = {
        "id": fresh_id(purpose, [other.id for other in uses]),
        "name": purpose.capitalize(),
        "purpose": purpose,
    }
    data = project.model_dump()
    data["brief"]["uses"] = [*(other.model_dump() for other in uses), use]
    return Project.model_validate(data)


def remove_use(project: Project, use_id: str) -> Project:
    """Take a use out of the brief; ChangeRefused if it is not there.

    Parameters
    ----------
    project : Project
        The document. [-]
    use_id : str
        Which. [-]

    Returns
    -------
    Project
        With one use less. [-]
    """
    left = [use.model_dump() for use in project.brief.uses if use.id != use_id]
    if len(left) == len(project.brief.uses):
        raise ChangeRefused(path=f"brief.uses.{use_id}", reason="gone")
    data = project.model_dump()
    data["brief"]["uses"] = left
    forgotten(data["brief"], "without_uses", use_id)
    return Project.model_validate(data)


def _with_draws(project: Project, draws: tuple[Draw, ...]) -> Project:
    data = project.model_dump()
    data["brief"]["draws"] = [draw.model_dump() for draw in draws]
    return Project.model_validate(data)


def touched(before: Project, after: Project) -> Project:
    """Take the mark of an example from what an edit has changed.

    Parameters
    ----------
    before, after : Project
        The document without and with the edit. [-]

    Returns
    -------
    Project
        The second; what differs in the brief is nobody's example any more. [-]
    """
    left = tuple(
        name for name in after.brief.examples
        if getattr(before.brief, name, None) == getattr(after.brief, name, None)
    )  # fmt: skip
    return after if left == after.brief.examples else _with_examples(after, left)


def keep_examples(project: Project, names: Sequence[str]) -> Project:
    """Make examples of the brief a person's own, as they stand.

    Parameters
    ----------
    project : Project
        The document. [-]
    names : sequence of str
        Which fields of the brief. [-]

    Returns
    -------
    Project
        With these marks gone. [-]
    """
    left = tuple(name for name in project.brief.examples if name not in names)
    return _with_examples(project, left)


def _with_examples(project: Project, examples: tuple[str, ...]) -> Project:
    brief = project.brief.model_copy(update={"examples": examples})
    return project.model_copy(update={"brief": brief})
