"""Drawings of the pages for paper: the same SVG, its look written into it, light."""

from __future__ import annotations

import re
from functools import cache
from typing import Final

from markupsafe import Markup

from isotherma.web.rendering import STATIC, environment

# the report library draws no outline under letters, and knows no names of colours
ON_PAPER: Final = ".route .label, .chart text { stroke: none; }"
_RULE: Final = re.compile(r"([^{}@]+)\{([^{}]*)\}")
_CLASS: Final = re.compile(r"\.([\w-]+)")
_NAME: Final = re.compile(r"var\((--[\w-]+)(?:,\s*([^()]*))?\)")
_HOOK: Final = re.compile(r'\sdata-[\w-]+(?:="[^"]*")?')  # for scripts, and no XML where bare
_STATES: Final = (":hover", ":focus", ":target", "@", "::")


@cache
def _rules() -> tuple[tuple[str, str], ...]:
    """Read the rules of our style that may be for drawings, names of colours filled in."""
    text = (STATIC / "isotherma.css").read_text(encoding="utf-8")
    text = re.sub(r"/\*.*?\*/", "", text, flags=re.DOTALL)
    start = text.index(":root {")
    light = text[start : text.index("}", start)]
    named = dict(re.findall(r"(--[\w-]+):\s*([^;]+);", light))
    text = re.sub(r"@media[^{]*\{(?:[^{}]*\{[^{}]*\})*[^{}]*\}", "", text)
    found = []
    for selector, body in _RULE.findall(text):
        if any(mark in selector for mark in _STATES) or not _CLASS.search(selector):
            continue
        filled = _NAME.sub(lambda name: str(named.get(name[1], name[2] or "#000")), body)
        found.append((selector.strip(), filled.strip()))
    return tuple(found)


def on_paper(svg: str) -> Markup:
    """Write into a drawing the rules of our style that are about what is in it."""
    there = {name for classes in re.findall(r'class="([^"]*)"', svg) for name in classes.split()}
    rules = []
    for selector, body in _rules():
        fits = [one for one in selector.split(",")
                if (named := _CLASS.findall(one)) and set(named) <= there]  # fmt: skip
        if fits:
            rules.append(f"{','.join(fits)}{{{body}}}")
    style = f"<style>{' '.join(rules)} {ON_PAPER}</style>"
    svg = _HOOK.sub("", svg)
    # its size is the paper's: only what it shows decides its shape
    sized = re.sub(r'^<svg([^>]*?) width="[^"]*" height="[^"]*"', r"<svg\1", svg)
    return Markup(re.sub(r"(<svg[^>]*>)", lambda found: found[1] + style, sized, count=1))


def drawn(macros: str, call: str, **values: object) -> Markup:
    """Draw with a macro of the pages: `macros` its template, `call` how it is called."""
    source = f"{{% import '{macros}' as m with context %}}{{{{ m.{call} }}}}"
    page = environment().from_string(source).render(**values)
    start, end = page.find("<svg"), page.rfind("</svg>")
    return on_paper(page[start : end + 6]) if start >= 0 else Markup("")
