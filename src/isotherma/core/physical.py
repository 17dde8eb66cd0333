"""What the engine reads of a document: the same where only names, notes or prices differ."""

from __future__ import annotations

import json
from hashlib import sha256
from typing import Any

from isotherma.core.fields import DIGEST_LETTERS, Document
from isotherma.core.system.kinds.words import WORDS_ONLY


def physical_digest(document: Document) -> str:
    """Name what the engine reads of a document in few letters.

    Parameters
    ----------
    document : Document
        A brief or a system. [-]

    Returns
    -------
    str
        The same for documents that differ in names, notes, prices or pictures alone. [-]
    """
    bare = _without_words(document.model_dump(mode="json"))
    text = json.dumps(bare, sort_keys=True, separators=(",", ":"))
    return sha256(text.encode()).hexdigest()[:DIGEST_LETTERS]


def _without_words(value: Any) -> Any:  # noqa: ANN401 - any JSON
    if isinstance(value, dict):
        return {key: _without_words(item) for key, item in value.items() if key not in WORDS_ONLY}
    return [_without_words(item) for item in value] if isinstance(value, list) else value
