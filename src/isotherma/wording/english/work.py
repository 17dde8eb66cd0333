"""Long work in words: how far it is, what it waits for, why it ended."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

# by kind of work: what has been done, of how much where that is known, else so far
_DOING: Final[Mapping[str, tuple[str, str]]] = {
    "band": ("{done} of {whole} uncertain figures tried", "the first uncertain figures are tried"),
    "mends": ("{done} of {whole} changes tried", "{done} of at most 20 changes tried"),
    "sizing": ("{done} of {whole} sizes tried", "{done} sizes tried"),
    "month": ("{done} of {whole} months run", "another month is run"),
    "remedies": ("{done} of {whole} days run", "{done} days run"),
    "sweep": ("{done} of {whole} runs made", "{done} runs of this row made"),
    "can_do": ("{done} of {whole} days run", "{done} days run"),
    "levers": ("{done} of {whole} levers tried", "{done} levers tried"),
    "inverse": ("{done} of {whole} sets tried", "{done} sets of figures tried"),
    "version_two": ("{done} of {whole} changes tried", "{done} changes tried"),
    "lead": ("{done} of {whole} days warmed", "{done} days warmed"),
    "dossier": ("{done} of {whole} chapters written", "the first chapter is written"),
    "learn": ("{done} of {whole} fits made", "the readings are put together"),
    "strategies": ("{done} of {whole} days run", "{done} days run"),
    "holding": ("{done} of {whole} days run", "{done} days run"),
}
WORK_ENDED: Final[Mapping[str, str]] = {
    "lost_its_workers": "Two workers ended while they were at it, and it was not taken up again.",
    "other_code": "The worker is of another version than this page: end it and start it again.",
    "not_kept": "It was computed, but the database could not keep it.",
    "mistake": "Isotherma made a mistake; the worker’s log has the rest.",
}
NO_WORKER: Final = (
    "It waits, and nobody works: start a worker with bin/isotherma work, here or on another "
    "machine that reaches the database."
)


def work_words(
    kind: str, state: str, *, done: int, whole: int, before: int, workers: int, error: str
) -> str:
    """Say how long work stands.

    Parameters
    ----------
    kind, state : str
        What it is, and "waiting", "running", "cancelled" or "failed". [-]
    done, whole : int
        How far it is, and of how much; 0 where nobody knows. [-]
    before, workers : int
        What waits before it, and who works. [-]
    error : str
        Why it has failed, as a code. [-]

    Returns
    -------
    str
        A sentence. [-]
    """
    if state == "cancelled":
        return "Stopped."
    if state == "failed":
        return WORK_ENDED.get(error, "It cannot be computed as the design stands.")
    if workers == 0:
        return NO_WORKER
    if state == "waiting":
        if before == 0:
            return "It is taken up in a moment."
        return f"{before} before it {'waits' if before == 1 else 'wait'} too."
    known, unknown = _DOING[kind]
    said = (known if whole else unknown).format(done=done, whole=whole)
    return f"{said[:1].upper()}{said[1:]}."
