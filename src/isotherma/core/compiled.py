"""The one place that knows the compiler: a typed face for `numba.njit`, cached on disk."""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import Any, ParamSpec, TypeVar, cast

import numba

# where the package says, also when somebody imported the compiler before the package
_config: Any = numba.config
_config.CACHE_DIR = os.environ["NUMBA_CACHE_DIR"]

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
    # said aloud, since a kernel would else take after a lean one that is the first to call it
    return cast(Callable[P, R], njit(cache=True, error_model="numpy", _nrt=True)(function))


def lean(function: Callable[P, R]) -> Callable[P, R]:
    """Compile a kernel that makes no arrays, so that it need not count who holds them.

    Every array handed to a kernel is held by whoever called from Python until it comes back.
    Counting that again at each inner call is an atomic step of the processor, and took four
    tenths of a day's time.

    Parameters
    ----------
    function : callable
        A function of numbers and arrays only, which makes, slices off and returns none. [-]

    Returns
    -------
    callable
        The same, compiled at its first call and kept on disk. [-]
    """
    njit: Any = numba.njit
    return cast(Callable[P, R], njit(cache=True, error_model="numpy", _nrt=False)(function))


def compile_for(function: Callable[..., object], *arguments: object) -> None:
    """Compile a kernel for arguments of these types without running it.

    Parameters
    ----------
    function : callable
        A kernel. [-]
    arguments : numbers and arrays
        As it will be called with; only their types count. [-]

    Returns
    -------
    None
        It is kept on disk. [-]
    """
    dispatcher: Any = function
    typeof: Any = numba.typeof
    dispatcher.compile(tuple(typeof(argument) for argument in arguments))
