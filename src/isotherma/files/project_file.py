"""The project file `.isotherma.json`: brief, variants, format version; no secrets.

What cannot be read is refused whole, with what is wrong, where, and how to mend it.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from time import monotonic
from typing import Any, Final, NoReturn

from pydantic import ValidationError

from isotherma.core.project import FORMAT, FORMAT_VERSION, Project
from isotherma.files.migrations import migrated
from isotherma.wording import validation_sentences

MAX_BYTES: Final = 2_000_000
MAX_DEPTH: Final = 24
MAX_ITEMS: Final = 800  # runs of a system, the longest list there is
MAX_S: Final = 20.0
Stopped = Callable[[], bool]
EXTENSION: Final = ".isotherma.json"


class FileRefused(Exception):
    """A file that was not read; the message is for a person."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code
        self.message = message


def write_project(project: Project) -> bytes:
    """Write a project as a file, the same bytes for equal projects.

    Parameters
    ----------
    project : Project
        What to keep. [-]

    Returns
    -------
    bytes
        UTF-8 JSON, two spaces of indent, keys in the order of the documentation. [-]
    """
    data = {"format": FORMAT, "format_version": FORMAT_VERSION, **project.model_dump(mode="json")}
    return (json.dumps(data, ensure_ascii=False, indent=2) + "\n").encode()


def _refuse_constant(text: str) -> NoReturn:
    raise FileRefused("not_a_number", f"The file holds {text}, which is no number. Put one there.")


def _unique(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) != len(pairs):
        seen: set[str] = set()
        for key, _ in pairs:
            if key in seen:
                raise FileRefused(
                    "key_twice",
                    f"The key “{key[:40]}” stands twice in one object. Keep one of them.",
                )
            seen.add(key)
    return found


def _bounded(content: object) -> None:
    """Refuse lists longer than any a project has, and torn letters, before items are judged."""
    waiting: list[tuple[str, object]] = [("", content)]
    while waiting:
        path, item = waiting.pop()
        if isinstance(item, dict):
            waiting += [(f"{path}.{key}" if path else key, value) for key, value in item.items()]
        elif isinstance(item, list):
            if len(item) > MAX_ITEMS:
                raise FileRefused(
                    "too_many",
                    f"“{path[:80]}” has {len(item)} items; nothing in a project has more than "
                    f"{MAX_ITEMS}. Is it the right file?",
                )
            waiting += [(path, value) for value in item]
        elif isinstance(item, str) and any("\ud800" <= letter <= "\udfff" for letter in item):
            raise FileRefused(
                "torn_letter", f"“{path[:80]}” holds half a character. Type that text again."
            )


def _depth(data: bytes) -> int:
    """Deepest nesting of brackets, strings left out: cheap, before any parser recurses."""
    depth = deepest = 0
    inside = escaped = False
    for byte in data:
        if inside:
            if escaped:
                escaped = False
            elif byte == 0x5C:
                escaped = True
            elif byte == 0x22:
                inside = False
        elif byte == 0x22:
            inside = True
        elif byte in b"[{":
            depth += 1
            deepest = max(deepest, depth)
        elif byte in b"]}":
            depth -= 1
    return deepest


def never() -> bool:
    """Nobody stops it."""
    return False


def read_project(data: bytes, stopped: Stopped = never) -> Project:
    """Read a project file.

    Parameters
    ----------
    data : bytes
        The file's content. [-]
    stopped : callable
        Asked between its steps whether whoever waits has gone. [-]

    Returns
    -------
    Project
        The project, migrated to the current format. [-]

    Raises
    ------
    FileRefused
        If it is too large, broken, of another format, newer, invalid, or takes too long.
    """
    content = json_content(data)
    return _from_content(content, _Patience(stopped))


def json_content(data: bytes) -> object:
    """Read the JSON of a file somebody gives us.

    Parameters
    ----------
    data : bytes
        The file's content. [-]

    Returns
    -------
    object
        Plain values; nothing is known of them yet. [-]

    Raises
    ------
    FileRefused
        If it is too large, no text, broken, nested or long beyond all need.
    """
    if len(data) > MAX_BYTES:
        raise FileRefused(
            "too_large",
            # its size is not told: no more of it may have been read than shows that
            f"The file is too large: a project file has at most {MAX_BYTES / 1e6:.0f} MB. "
            "Is it the right file?",
        )
    if _depth(data) > MAX_DEPTH:
        raise FileRefused("too_deep", "The file nests far deeper than a project file does.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileRefused(
            "not_text", f"Byte {error.start} is no UTF-8 text. Is it a project file?"
        ) from None
    try:
        content = json.loads(text, parse_constant=_refuse_constant, object_pairs_hook=_unique)
    except json.JSONDecodeError as error:
        raise FileRefused(
            "broken",
            f"The file is broken at line {error.lineno}, column {error.colno}: {error.msg}. "
            "Export it again, or mend that line.",
        ) from None
    except (ValueError, RecursionError):
        raise FileRefused("broken", "A number or a nesting in the file is too large.") from None
    _bounded(content)
    return content


class _Patience:
    """How long a file may take: until whoever waits has gone, or a limit is over."""

    def __init__(self, stopped: Stopped) -> None:
        self._stopped, self._until = stopped, monotonic() + MAX_S

    def ask(self) -> None:
        """Refuse to go on when it is over."""
        if self._stopped():
            raise FileRefused("stopped", "Reading the file was stopped. Nothing was kept.")
        if monotonic() > self._until:
            raise FileRefused(
                "too_slow",
                f"The file takes more than {MAX_S:.0f} s to read. Split it into variants of their "
                "own, or import it while less is under way.",
            )


def version_of(content: Mapping[str, object]) -> int:
    """Read the format version of a file.

    Parameters
    ----------
    content : mapping
        Of a file of ours. [-]

    Returns
    -------
    int
        1 to the current one. [-]

    Raises
    ------
    FileRefused
        If it says none, or one that is newer.
    """
    version = content.get("format_version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FileRefused("no_version", "The file has no whole “format_version” of 1 or more.")
    if version > FORMAT_VERSION:
        raise FileRefused(
            "newer",
            f"The file was written by a newer Isotherma (format {version}; this one reads up to "
            f"{FORMAT_VERSION}). Update Isotherma, or export the file from there again.",
        )
    return version


def _from_content(content: object, patience: _Patience) -> Project:
    if not isinstance(content, dict) or content.get("format") != FORMAT:
        raise FileRefused(
            "other_format", f"This is no project file: its “format” is not “{FORMAT}”."
        )
    version = version_of(content)
    rest = {key: value for key, value in content.items() if key not in {"format", "format_version"}}
    try:
        data = migrated(rest, version)
        patience.ask()
        return Project.model_validate_json(json.dumps(data), strict=True)
    except ValidationError as error:
        sentences = validation_sentences(error)
        more = len(sentences) - 5
        tail = f" And {more} more." if more > 0 else ""
        raise FileRefused(
            "invalid", "The file was not read. " + " ".join(sentences[:5]) + tail
        ) from None
