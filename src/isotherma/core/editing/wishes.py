"""Wishes of a person's own: put in, judged by, taken out."""

from __future__ import annotations

from isotherma.core.editing.values import fresh_id, set_values
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Judgement, Project, Wish


def add_wish(project: Project, name: str, *, hard: bool) -> Project:
    """Put a wish in, last in the list.

    Parameters
    ----------
    project : Project
        The document. [-]
    name : str
        Its text. [-]
    hard : bool
        Whether a no strikes. [-]

    Returns
    -------
    Project
        With one more wish; nothing is judged by it yet. [-]
    """
    key = fresh_id(name, [wish.id for wish in project.wishes])
    return _with(project, (*project.wishes, Wish(id=key, name=name, hard=hard)))


def remove_wish(project: Project, wish_id: str) -> Project:
    """Take a wish out, with what was judged by it.

    Parameters
    ----------
    project : Project
        The document. [-]
    wish_id : str
        Which. [-]

    Returns
    -------
    Project
        Without it. [-]

    Raises
    ------
    ChangeRefused
        If it is not there.
    """
    _wish(project, wish_id)
    return _with(project, tuple(wish for wish in project.wishes if wish.id != wish_id))


def judge(project: Project, wish_id: str, of: str, says: str, why: str) -> Project:
    """Say what a wish makes of a way of heating or a variant; an empty verdict takes it back.

    Parameters
    ----------
    project : Project
        The document. [-]
    wish_id : str
        By which wish. [-]
    of : str
        Id of a way of heating or a variant. [-]
    says, why : str
        "yes", "no", "so-so" or "", and a reason. [-]

    Returns
    -------
    Project
        With that judgement. [-]

    Raises
    ------
    ChangeRefused
        If the wish is not there.
    pydantic.ValidationError
        If the verdict is none of these.
    """
    wish = _wish(project, wish_id)
    others = tuple(one for one in wish.judgements if one.of != of)
    made = [{"of": of, "says": says, "why": why}] if says else []
    judged = tuple(Judgement.model_validate(one) for one in made)
    changed = Wish(id=wish.id, name=wish.name, hard=wish.hard, judgements=(*others, *judged))
    return _with(project, tuple(changed if one.id == wish_id else one for one in project.wishes))


def _wish(project: Project, wish_id: str) -> Wish:
    found = next((wish for wish in project.wishes if wish.id == wish_id), None)
    if found is None:
        raise ChangeRefused(path=f"wishes.{wish_id}", reason="gone")
    return found


def _with(project: Project, wishes: tuple[Wish, ...]) -> Project:
    return set_values(project, {"wishes": [wish.model_dump() for wish in wishes]})
