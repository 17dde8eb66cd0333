"""Seconds a page of a dossier takes, and of the short one whole, on Folio.

Usage: PYTHONPATH=src .venv/bin/python bench/dossier.py    (needs nothing running)
"""

from __future__ import annotations

import io
import shutil
import tempfile
import time
from importlib import import_module
from pathlib import Path

from starlette.datastructures import QueryParams

from isotherma.catalogue.demo import folio
from isotherma.core.cache import Caches
from isotherma.core.quantity import UnitSystem
from isotherma.ops.cluster import Cluster
from isotherma.services.kernels import compile_kernels
from isotherma.services.long_work import LongWork
from isotherma.services.stored_results import StoredResults
from isotherma.store.engine import open_engine, open_sessions
from isotherma.store.migrate import migrate
from isotherma.web.dossier.asked import SETS
from isotherma.web.dossier.document import dossier_pdf
from isotherma.web.frame.context import PageContext
from isotherma.web.furnishing import services_on

A_PAGE_S, SHORT_S = 0.4, 5.0


def pages_of(pdf: bytes) -> int:
    """Count the pages of a PDF."""
    from pypdf import PdfReader

    return len(PdfReader(io.BytesIO(pdf)).pages)


def main() -> None:
    """Write the short one and the whole one, each with nothing computed before."""
    compile_kernels()
    began = time.perf_counter()
    import_module("weasyprint")  # as a worker does before it takes any work
    print(f"import: {time.perf_counter() - began:.1f} s", flush=True)
    folder = Path(tempfile.mkdtemp(prefix="isotherma-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgres", for_tests=True)
    try:
        cluster.start()
        cluster.create_database("bench")
        migrate(cluster.url("bench"))
        engine = open_engine(cluster.url("bench"))
        sessions = open_sessions(engine)
        for name in ("short", "whole"):
            caches, keeping = Caches(90_000_000), StoredResults(sessions)
            services = services_on(sessions, caches, caches, keeping, LongWork(sessions, keeping))
            number = services.vehicles.create(folio(), "Started")
            context = PageContext(
                services, (), services.vehicles.open(number), "button", UnitSystem.METRIC,
                QueryParams(""), path_of=lambda *_, **__: "",
            )  # fmt: skip
            asked = {"chapters": SETS[name], "paper": "a4", "terms": {}}
            began = time.perf_counter()
            pdf = dossier_pdf(context, asked, "Version 1", "2027-03-28", lambda *_: None,
                              lambda: False)  # fmt: skip
            took, pages = time.perf_counter() - began, pages_of(pdf)
            limit = f"{took / SHORT_S:.2f} of what it may take, " if name == "short" else ""
            print(f"{name}: {took:.1f} s, {pages} pages, {limit}{took / pages:.2f} s a page, "
                  f"{took / pages / A_PAGE_S:.2f} of what a page may take", flush=True)  # fmt: skip
            keeping.settle()
        engine.dispose()
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
