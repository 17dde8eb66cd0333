"""Bench sums: one-line answers that need no vehicle, and their inverses."""

from __future__ import annotations

from typing import Final

from isotherma.core.bench_sums.base import Answer as Answer
from isotherma.core.bench_sums.base import Cell as Cell
from isotherma.core.bench_sums.base import Figure as Figure
from isotherma.core.bench_sums.base import Put as Put
from isotherma.core.bench_sums.base import Sum as Sum
from isotherma.core.bench_sums.base import Table as Table
from isotherma.core.bench_sums.base import Values as Values
from isotherma.core.bench_sums.flowing_and_heating import FLOWING_AND_HEATING
from isotherma.core.bench_sums.knobs import KNOBS
from isotherma.core.bench_sums.tanks_and_weight import TANKS_AND_WEIGHT

SUMS: Final[tuple[Sum, ...]] = (*FLOWING_AND_HEATING, *TANKS_AND_WEIGHT, *KNOBS)


def answer(sum_id: str, values: Values) -> Answer:
    """Work out a bench sum.

    Parameters
    ----------
    sum_id : str
        Its id. [-]
    values : mapping of str to float
        What it asks for, all of it; the start stands for what is left out. [SI]

    Returns
    -------
    Answer
        Figures, the answer first. [SI]

    Raises
    ------
    KeyError
        If there is no such sum.
    CannotBe
        If the values contradict each other.
    TargetNotReached
        If the loss is no less than the heat.

    Examples
    --------
    >>> watts = answer("measured", {"amps": 15.0, "supply": 12.0}).figures[0].value
    >>> watts
    180.0
    >>> share = answer("mix", {"hot": 60.0, "cold": 10.0, "want": 35.0}).figures[0].value
    >>> share
    0.5
    >>> rise = answer("rise", {"flow": 5e-3 / 60, "power": 10e3, "cold": 10.0}).figures[0].value
    >>> round(rise, 1)
    28.7
    >>> pipe = answer("pipe", {"bore": 0.01, "length": 4.0, "flow": 1e-4})
    >>> round(pipe.figures[0].value * 1e3, 3)
    0.314
    >>> head = answer("bucket", {"volume": 0.01, "time": 120.0, "pressure": 0.0})
    >>> round(head.figures[0].value * 60e3, 6)
    5.0
    >>> label = {"watts": 200.0, "volts": 12.0, "supply": 24.0, "length": 0.0, "area": 6e-6}
    >>> round(answer("element", label).figures[0].value)
    800
    >>> heated = answer("heat-up", {"power": 1000.0, "loss": 0.0})
    >>> round(heated.figures[0].value / 60)
    35
    >>> again = {"time": heated.figures[0].value, "loss": 0.0}
    >>> round(answer("heated", again).figures[0].value)
    1000
    >>> lost = answer("cooled", {"from": 65.0, "to": 40.0, "air": 15.0, "time": 86400.0})
    >>> round(lost.figures[0].value, 2)
    0.33
    >>> need = answer("power", {"flow": 5e-3 / 60, "cold": 10.0, "want": 38.7}).figures[0].value
    >>> round(need, -2)
    10000.0
    """
    found = next((item for item in SUMS if item.id == sum_id), None)
    if found is None:
        raise KeyError(sum_id)
    filled = {ask.key: values.get(ask.key, ask.start) for ask in found.asks}
    return found.work(filled)
