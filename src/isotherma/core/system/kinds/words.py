"""Properties that are written for people: no figure hangs on them."""

from __future__ import annotations

from typing import Final

WORDS_ONLY: Final = frozenset({
    "name", "note", "who", "price", "priced_on", "owned", "picture", "evidence",
    "examples", "hurts", "struck", "kept", "will_not_have",
})  # fmt: skip
