"""No module imports itself by way of others, also not for types alone."""

from __future__ import annotations

import grimp
import pytest


def circles(modules: dict[str, set[str]]) -> list[set[str]]:
    """Sets of modules that reach each other, by Tarjan's strongly connected components."""
    index: dict[str, int] = {}
    low: dict[str, int] = {}
    stack: list[str] = []
    found: list[set[str]] = []

    def visit(module: str) -> None:
        index[module] = low[module] = len(index)
        stack.append(module)
        for other in modules.get(module, set()):
            if other not in index:
                visit(other)
                low[module] = min(low[module], low[other])
            elif other in stack:
                low[module] = min(low[module], index[other])
        if low[module] == index[module]:
            at = stack.index(module)
            group = set(stack[at:])
            del stack[at:]
            if len(group) > 1:
                found.append(group)

    for module in modules:
        if module not in index:
            visit(module)
    return found


def test_the_package_has_no_circle():
    graph = grimp.build_graph("isotherma", exclude_type_checking_imports=False)
    modules = {name: set(graph.find_modules_directly_imported_by(name)) for name in graph.modules}
    assert len(modules) > 250
    assert circles(modules) == []


@pytest.mark.parametrize(
    ("modules", "expected"),
    [
        ({"a": {"b"}, "b": {"c"}, "c": set()}, []),
        ({"a": {"b"}, "b": {"a"}}, [{"a", "b"}]),
        ({"a": {"b"}, "b": {"c", "d"}, "c": {"a"}, "d": set()}, [{"a", "b", "c"}]),
    ],
)
def test_a_circle_is_found(modules, expected):
    assert circles(modules) == expected
