"""Whether the kernels are compiled: a server answers at once and compiles beside that."""

from __future__ import annotations

import sys
from collections.abc import Callable
from threading import Event, Thread
from typing import Any, Final

from isotherma.core.errors import KernelsCompiling


class KernelCompilation:
    """Kernels that are compiled beside the answers of a server."""

    def __init__(self) -> None:
        self._ready = Event()
        self._ready.set()  # where nobody has begun, who computes first compiles

    def begin(self, work: Callable[[], object]) -> Thread:
        """Begin to compile, and say so until it is done.

        Parameters
        ----------
        work : callable
            Compiles all there is. [-]

        Returns
        -------
        Thread
            At work; a daemon. [-]
        """
        self._ready.clear()
        worker = Thread(target=self._run, args=(work,), name="compiles kernels", daemon=True)
        worker.start()
        return worker

    def _run(self, work: Callable[[], object]) -> None:
        try:
            work()
        finally:
            self._ready.set()

    def waits(self) -> KernelsCompiling | None:
        """Say how far it is; nothing once it is done, or was never begun.

        Returns
        -------
        KernelsCompiling or None
            In the place of a result. [-]
        """
        if self._ready.is_set():
            return None
        made = [bool(kernel.signatures) for kernel in _kernels()]
        return KernelsCompiling(done=sum(made), of=len(made))


def _kernels() -> list[Any]:
    """List the kernels of all modules that were read."""
    found: dict[Any, None] = {}
    for name, module in list(sys.modules.items()):
        if name.startswith("isotherma.core"):
            for value in list(vars(module).values()):
                if hasattr(value, "py_func") and hasattr(value, "signatures"):
                    found[value] = None
    return list(found)


KERNELS: Final = KernelCompilation()
