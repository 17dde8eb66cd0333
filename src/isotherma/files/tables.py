"""Texts in tables: written so that a spreadsheet does not run them, and read back the same."""

from __future__ import annotations

from typing import Final

RUNS: Final = "=+-@\t\r"  # what a spreadsheet takes for the beginning of a formula
GUARD: Final = "'"


def safe_text(text: str) -> str:
    """Write a text that a person typed as a cell of a table.

    Parameters
    ----------
    text : str
        Any text; figures are not for this, so a rise of -0.5 stays a number. [-]

    Returns
    -------
    str
        With an apostrophe before what would run, or before an apostrophe. [-]
    """
    return GUARD + text if text[:1] and text[0] in RUNS + GUARD else text


def plain_text(cell: str) -> str:
    """Read a text back from a cell.

    Parameters
    ----------
    cell : str
        As `safe_text` wrote it, or as somebody typed it. [-]

    Returns
    -------
    str
        Without the apostrophe that only kept it from running. [-]
    """
    guarded = cell[:1] == GUARD and cell[1:2] and cell[1] in RUNS + GUARD
    return cell[1:] if guarded else cell
