"""Limits of the checks by rule set, as data a licensed reader can correct line by line."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from typing import Any

from isotherma.core.checks.rules import Limit, Rules


@cache
def rule_sets() -> Mapping[str, Rules]:
    """Load every rule set.

    Returns
    -------
    mapping of str to Rules
        By name; "strictest" has the hardest of each. [SI]
    """
    text = files(__package__).joinpath("limits.toml").read_text(encoding="utf-8")
    data: dict[str, Any] = tomllib.loads(text)
    names = tuple(data.pop("rule_sets"))
    titles = data.pop("titles")
    found = {}
    for name in names:
        limits = {
            key: Limit(row.get(name, row.get("all")), row.get("sources", {}).get(name)
                       or row.get("source", "ours"))
            for key, row in data.items()
        }  # fmt: skip
        found[name] = Rules(name, titles[name], limits)
    return found
