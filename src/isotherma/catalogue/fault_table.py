"""The table of symptoms, faults and tests that ships; its weights and chances are judgement."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from isotherma.core.faults.table import Fault, FaultTable, FaultTest, Symptom

NOT_PLAYED = ("", "-")


@cache
def fault_table() -> FaultTable:
    """Load every symptom, fault and test.

    Returns
    -------
    FaultTable
        In the order of the file. [minutes, litres]
    """
    text = files(__package__).joinpath("faults.toml").read_text(encoding="utf-8")
    rows = tomllib.loads(text)
    return FaultTable(
        {key: Symptom(key, row["w"], row["b"], row.get("stop"))
         for key, row in rows["symptoms"].items()},
        {key: _fault(key, row) for key, row in rows["faults"].items()},
        {key: _test(key, row) for key, row in rows["tests"].items()},
    )  # fmt: skip


def _kinds(words: str) -> tuple[str, ...]:
    return () if words == "-" else tuple(words.split())


def _fault(key: str, row: dict[str, Any]) -> Fault:
    return Fault(
        key, _kinds(row["k"]), float(row["w"]), "" if row["play"] in NOT_PLAYED else row["play"],
        row["s"], {name: (low, high) for name, (low, high) in row.get("m", {}).items()},
        row.get("who", "builder"), row["fix"], row.get("needs"),
    )  # fmt: skip


def _test(key: str, row: dict[str, Any]) -> FaultTest:
    minutes, litres, money, danger = row["c"]
    return FaultTest(
        key, row["w"], minutes, litres, money, danger, row["who"], _kinds(row["k"]),
        row.get("needs"), row.get("reads"), row.get("out", {}), row.get("undo"),
    )  # fmt: skip
