"""Properties that nothing reads yet, and what will read them."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import cache
from importlib.resources import files


@cache
def kept_for() -> Mapping[str, str]:
    """Load what is entered and only kept.

    Returns
    -------
    mapping of str to str
        By the name of the property: what it is kept for. [-]
    """
    text = files("isotherma.catalogue").joinpath("kept_for.toml").read_text(encoding="utf-8")
    return {name: reader for reader, names in tomllib.loads(text).items() for name in names}
