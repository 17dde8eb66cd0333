"""Tables of threads and adapters, each row with its source."""

from __future__ import annotations

import tomllib
from dataclasses import replace
from functools import cache
from importlib.resources import files
from typing import TYPE_CHECKING, Any

from isotherma.core.ends import End, read_end
from isotherma.core.joints.resolver import Adapter
from isotherma.core.joints.threads import Thread

if TYPE_CHECKING:
    from isotherma.core.system.tubes import Family

INCH_MM = 25.4


def _table(name: str) -> dict[str, Any]:
    return tomllib.loads(files(__package__).joinpath(name).read_text(encoding="utf-8"))


@cache
def threads() -> tuple[Thread, ...]:
    """Load every thread.

    Returns
    -------
    tuple of Thread
        By family, small sizes first. [mm]
    """
    found = []
    for family in _table("threads.toml")["family"]:
        words, play = family["words"], family.get("play_mm", 0.0)
        for size, *figures in family["sizes"]:
            *outsides, pitch = figures
            high = outsides[-1]
            found.append(Thread(
                name=f"{size} {words}".strip(), size=size, low_mm=outsides[0] - play, high_mm=high,
                pitch_mm=pitch if family.get("metric") else INCH_MM / pitch, k=family["k"],
                tapers=family.get("tapers", False), left=family.get("left", False),
                source=family["source"],
            ))  # fmt: skip
    return tuple(found)


@cache
def adapters() -> tuple[Adapter, ...]:
    """Load every adapter, a row for each pair of sizes.

    Returns
    -------
    tuple of Adapter
        In the table's order. [mm]

    Raises
    ------
    ValueError
        If an end of the table is none; shipped tables are tested.
    """
    data = _table("adapters.toml")
    found = []
    for row in data["adapter"]:
        sizes = row["sizes"]
        for size in data["groups"][sizes] if isinstance(sizes, str) else sizes:
            first, _, second = size.partition(">")
            ends = [read_end(row[key].replace("{}", one))
                    for key, one in (("a", first), ("b", second or first))]  # fmt: skip
            if None in ends:
                raise ValueError(f"{row['id']} {size}")
            a, b = (_made_of(end, row) for end in ends if end is not None)
            found.append(Adapter(
                f"{row['id']}-{size.replace(' ', '-').replace('>', '-to-')}", a, b,
                row.get("class", 1), float(row["length_mm"]), row.get("service", ""),
                not row.get("service"), row.get("everywhere", True), row.get("base", True),
            ))  # fmt: skip
    return tuple(found)


def _made_of(end: End, row: dict[str, Any]) -> End:
    """Give a thread of an adapter its material: metal unless it is push-in, stem, click, waste."""
    kinds = f"{row['a']} {row['b']}"
    soft = row.get("material") == "plastic" or any(
        word in kinds for word in ("push-in", "stem", "click", "waste")
    )
    if end.word not in ("male", "female", "nut"):
        return end
    return replace(end, material="plastic" if soft else "metal")


def size_is_known(end: End) -> bool:
    """Say whether a size is in any table of threads, adapters or tubes.

    Parameters
    ----------
    end : End
        Any. [-]

    Returns
    -------
    bool
        True of what has no size. [-]
    """
    if end.word in ("male", "female", "nut"):
        words = end.size if end.family == "metric" else f"{end.size} {end.family}"
        return any(one.name == words for one in threads())
    if not end.size or end.word in ("ring", "blade"):
        return True
    sold = {one.size for row in adapters() for one in (row.a, row.b)
            if one.word == end.word and one.family == end.family}  # fmt: skip
    if end.size in sold:
        return True
    from isotherma.core.system.tubes import sizes_of  # builds every kind: only where it must

    return any(end.size in sizes_of(family) for family in _TUBES_OF.get(end.family or end.word, ()))


_TUBES_OF: dict[str, tuple[Family, ...]] = {
    "plastic": ("semi-rigid plastic",), "inch plastic": ("inch plastic",),
    "copper": ("copper",), "steel": ("copper",), "multilayer": ("multilayer",),
    "hose": ("soft hose",), "barb": ("soft hose",), "cone": ("copper",), "solder": ("copper",),
    "push-in": ("semi-rigid plastic", "inch plastic", "copper"),
    "stem": ("semi-rigid plastic", "inch plastic", "copper"),
    "compression": ("semi-rigid plastic", "copper"),
    "waste spigot": ("waste pipe",), "waste push": ("waste pipe",), "waste weld": ("waste pipe",),
}  # fmt: skip


@cache
def assumed_ends(tradition: str) -> dict[str, str]:
    """Load the ends nobody stated, of one tradition.

    Parameters
    ----------
    tradition : str
        "metric", "UK", "US" or "Australia". [-]

    Returns
    -------
    dict of str to str
        By "kind.port", "kind" or "*.port". [-]
    """
    return {
        of: row.get(tradition, row["metric"])
        for row in _table("assumed.toml")["end"] for of in row["of"]
    }  # fmt: skip
