"""Cut the letters of the dossier out of the pages' own: one plain file a weight, every script.

The pages' letters vary in weight and come packed for the wire. A report would unpack them and fix
their weight anew each time, half a second of it. Run by hand after `scripts/vendor.py` brings new
ones; what it writes is committed.
Usage: .venv/bin/python scripts/paper_letters.py
"""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import Any

from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont

ROOT = Path(__file__).parents[1]
PAGES = ROOT / "src/isotherma/web/static/vendor"
PAPER = ROOT / "src/isotherma/web/dossier/letters"
WEIGHTS = {400: "Regular", 600: "SemiBold", 700: "Bold"}
PARTS = ("latin", "latin-ext")
USUAL_WIDTH = 100
FAMILY_NAME, STYLE_NAME, UNIQUE_NAME, FULL_NAME, POSTSCRIPT_NAME = 1, 2, 3, 4, 6


def cut(part: str, weight: int, folder: Path) -> str:
    """Fix one file of the pages at a weight; give the path of what was written."""
    font: Any = TTFont(PAGES / f"archivo-{part}.woff2")
    fixed: Any = instantiateVariableFont(font, {"wght": weight, "wdth": USUAL_WIDTH})
    fixed.flavor = None
    path = folder / f"{part}-{weight}.ttf"
    fixed.save(path)
    return str(path)


def main() -> None:
    """Write one file a weight and the licence beside them."""
    PAPER.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        for weight, style in WEIGHTS.items():
            font: Any = Merger().merge([cut(part, weight, Path(scratch)) for part in PARTS])
            names = {
                FAMILY_NAME: "Archivo", STYLE_NAME: style, UNIQUE_NAME: f"Archivo-{style}",
                FULL_NAME: f"Archivo {style}", POSTSCRIPT_NAME: f"Archivo-{style}",
            }  # fmt: skip
            for record in font["name"].names:
                if record.nameID in names:
                    record.string = names[record.nameID]
            font["OS/2"].usWeightClass = weight
            font.save(PAPER / f"archivo-{weight}.ttf")
    shutil.copy(PAGES / "archivo.LICENSE", PAPER / "archivo.LICENSE")


if __name__ == "__main__":
    main()
