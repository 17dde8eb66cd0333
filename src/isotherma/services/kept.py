"""Documents as text, written once for each object."""

from __future__ import annotations

from isotherma.core.fields import Document
from isotherma.core.kept import Kept
from isotherma.core.project import Variant

_texts: Kept[tuple[Document, str]] = Kept(200)


def text_of(document: Document) -> str:
    """Write a frozen document as text that is the same for equal ones, once for each object.

    Kept with its text a document lives on, so its id stays its own.
    """
    return _texts.once(id(document), lambda: (document, document.model_dump_json()))[1]


def stands_text(variant: Variant) -> str:
    """Write a variant's system and the state of its day: what its figures depend on."""
    state = variant.standing
    return f"{state.id if state is not None else ''} {text_of(variant.system)}"
