"""Write docs/checks.md: every limit with its source, every id with its words."""

from __future__ import annotations

import tomllib
from importlib.resources import files
from pathlib import Path

import isotherma.wording.english as english
from isotherma.catalogue.rules import rule_sets
from isotherma.core.checks import run
from isotherma.core.checks.found import CHECKS

PATH = Path(__file__).parents[1] / "docs" / "checks.md"
HEAD = """# Limits of the checks, and their words

Made from the code by `scripts/checks_table.py`; a test fails when it is not up to date. Figures of
standards were written from knowledge, without the texts at hand: check the current text. A limit
is corrected in `src/isotherma/catalogue/rules/limits.toml`, one line each; “ours” is our own
cautious figure.

"""


def made() -> str:
    """Give the text of the file."""
    sets = rule_sets()
    lines = ["| limit | " + " | ".join(one.title for one in sets.values()) + " |",
             "| --- |" + " --- |" * len(sets)]  # fmt: skip
    for name in next(iter(sets.values())).limits:
        cells = [f"{one.limits[name].value} ({one.limits[name].source})" for one in sets.values()]
        lines.append(f"| `{name}` | " + " | ".join(cells) + " |")
    words = tomllib.loads(files(english).joinpath("checks.toml").read_text(encoding="utf-8"))
    lines += ["", "| id | says | mends it |", "| --- | --- | --- |"]
    order = {group: place for place, group in enumerate(run.GROUPS)}
    for key in sorted(CHECKS, key=lambda one: (order[one.partition(".")[0]], one)):
        lines.append(f"| `{key}` | {words[key]['says']} | {words[key]['mend']} |")
    return HEAD + "\n".join(lines) + "\n"


if __name__ == "__main__":
    PATH.write_text(made(), encoding="utf-8")
