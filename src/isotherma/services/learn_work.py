"""Learning as long work: asked for once for a design and its readings, followed, cancelled."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from hashlib import sha256
from typing import Final

from isotherma.core.cache import Cache, Caches
from isotherma.core.faults.readings import Reading
from isotherma.core.learning.estimate import HeldOut, Learned, Learning, Residual
from isotherma.core.learning.gauge import GaugeLearned
from isotherma.core.learning.parameters import Parameter
from isotherma.core.learning.rows import Row
from isotherma.core.project import Project, Variant
from isotherma.files.readings_csv import read_readings, write_readings
from isotherma.services.comparisons import found_or_asked
from isotherma.services.computing import stands_key
from isotherma.services.learning import LearnedAll, learn
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.turns import Cancelled, Stopped, long_turn

LEARN_WORK: Final = "learn"
WRITTEN: Final = (
    LearnedAll, Learning, Learned, Residual, HeldOut, GaugeLearned, Parameter, Row, Reading,
)  # fmt: skip


def compute_learned(
    project: Project, variant: Variant, readings: str, told: Callable[[int, int], None],
    stopped: Stopped,
) -> LearnedAll:  # fmt: skip
    """Learn from readings; Cancelled when stopped.

    Parameters
    ----------
    project, variant : Project, Variant
        The design as it was entered. [SI]
    readings : str
        A table of readings, as `write_readings` writes it. [-]
    told : callable
        Hears of fits done and of all. [-]
    stopped : callable
        Asked after every fit. [-]

    Returns
    -------
    LearnedAll
        Nothing is changed. [SI]
    """
    rows, _ = read_readings(readings, None)

    def ran(done: int, whole: int) -> None:
        told(done, whole)
        if stopped():
            raise Cancelled

    with long_turn(stopped):
        return learn(project, variant, rows, ran)


class LearnService:
    """Learns from the log and remembers what came out.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._found: Cache[LearnedAll] = Cache(caches, "learn", lambda _: 50_000)

    def learned(
        self, project: Project, variant: Variant, rows: Sequence[Row], asker: Asker
    ) -> LearnedAll | UnderWay:
        """Give what readings say of a design, or how far finding it is.

        What was taken already is put aside: readings are held against the design as entered.
        """
        bare = variant.model_copy(update={"measured": ()})
        asked = project.model_copy(update={"variants": tuple(
            bare if one.id == variant.id else one for one in project.variants)})  # fmt: skip
        readings = write_readings(rows)
        key = (*stands_key(asked, bare), sha256(readings.encode()).hexdigest())
        return found_or_asked(
            self._work, self._found, LEARN_WORK, key, (asked, bare, {"readings": readings}),
            asker, lambda: learn(asked, bare, rows), WRITTEN,
        )  # fmt: skip
