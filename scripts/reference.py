"""Write docs/kinds.md from the documents of the core."""

from __future__ import annotations

from pathlib import Path

from isotherma.services.reference import reference_markdown

if __name__ == "__main__":
    page = Path(__file__).parent.parent / "docs" / "kinds.md"
    page.write_text(reference_markdown(), encoding="utf-8")
