"""Every property a form asks for is read, or says what it is kept for; that list only shrinks."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import isotherma
from isotherma.catalogue.kept_for import kept_for

SOURCE = Path(isotherma.__file__).parent
DOCUMENTS = re.compile(r"^core/(system|brief)/|^core/project")
# declaring, filling in and showing a property is not reading it; “fails” is a key of our JSON too
QUIET = re.compile(
    r"/kinds/|^catalogue/|/migrations|run_table|/forms|reference|trip_json|sizing_files"
)


def _declared() -> Iterator[str]:
    for path in sorted(SOURCE.rglob("*.py")):
        if not DOCUMENTS.search(path.relative_to(SOURCE).as_posix()):
            continue
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.ClassDef):
                continue
            for item in node.body:
                if isinstance(item, ast.AnnAssign) and isinstance(item.target, ast.Name):
                    kind = ast.unparse(item.annotation)
                    if "ClassVar" not in kind and "Final" not in kind and item.target.id[0] != "_":
                        yield item.target.id


def _words() -> set[str]:
    found: set[str] = set()
    for path in SOURCE.rglob("*.py"):
        text = path.read_text(encoding="utf-8")
        if QUIET.search(path.relative_to(SOURCE).as_posix()):
            found |= set(re.findall(r"\bself\.(\w+)", text))
            continue
        for member, word in re.findall(r"\.(\w+)\b|[\"'](\w+)[\"']", text):
            found.add(member or word)
    return found


def test_what_is_typed_is_read_or_says_what_it_is_kept_for():
    unread = set(_declared()) - _words()
    kept = set(kept_for())
    assert unread - kept == set(), "nothing reads these: read them, or say what they are kept for"
    assert kept - unread == set(), "these are read now: take them out of catalogue/kept_for.toml"
