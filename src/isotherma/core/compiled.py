"""The one place that knows the compiler: a typed face for `numba.njit`, cached on disk."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, ParamSpec, TypeVar, cast

import numba

P = ParamSpec("P")
R = TypeVar("R")


def compiled(function: Callable[P, R]) -> Callable[P, R]:
    """Compile a kernel on plain numbers and arrays; divide by zero as numpy does.

    Parameters
    ----------
    function : callable
        A function of numbers and arrays only. [-]

    Returns
    -------
    callable
        The same, compiled at its first call and kept on disk. [-]
    """
    njit: Any = numba.njit
    return cast(Callable[P, R], njit(cache=True, error_model="numpy")(function))


def inlined(function: Callable[P, R]) -> Callable[P, R]:
    """Compile a helper into its callers: for those that are handed many arrays at each step.

    Parameters
    ----------
    function : callable
        A function of numbers and arrays only. [-]

    Returns
    -------
    callable
        The same; callers carry its code. [-]
    """
    njit: Any = numba.njit
    return cast(Callable[P, R], njit(inline="always", error_model="numpy")(function))
