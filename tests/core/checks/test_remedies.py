"""Remedies that are one change: made, the finding is gone."""

from __future__ import annotations

from typing import Any

import pytest

from isotherma.core import editing
from isotherma.core.checks.remedies import OFF, REMEDIES, changes_of
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from tests.core.checks.designs import Doc, looked, mended
from tests.core.checks.test_each_check import FLAWS as EACH
from tests.core.checks.test_more_checks import FLAWS as MORE

Row = tuple[str, str, Doc, Doc, dict[str, Any]]
ROWS: list[Row] = [
    (of, severity, sound, flaw, {"rules": rules}) for of, severity, sound, flaw, rules in EACH
] + list(MORE)


def applied(document, changes):
    system = dict(document)
    rest = {name: system.pop(name) for name in ("brief", "vehicle") if name in system}
    variant = Variant(id="v", name="V", system=System.model_validate(system))
    project = editing.set_values(
        Project(name="P", variants=(variant,)),
        {f"variants.v.system.{path}": after for path, _, after in changes},
    )
    return {**project.variants[0].system.model_dump(), **rest}


@pytest.mark.parametrize(
    ("of", "severity", "sound", "flaw", "how"), ROWS,
    ids=[f"{row[0]}-{place}" for place, row in enumerate(ROWS)],
)  # fmt: skip
def test_what_a_button_changes_takes_the_finding_away(of, severity, sound, flaw, how):
    document = mended(sound, flaw)
    found = [one for one in looked(document, **how) if (one.id, one.severity.value) == (
        of, severity)]  # fmt: skip
    dumped = {name: value for name, value in document.items() if name not in ("brief", "vehicle")}
    system = System.model_validate(dumped)
    changes = changes_of(system, found[0])
    if of not in (*REMEDIES, *OFF):
        assert changes == ()
        return
    if not changes:
        pytest.skip("a hand must do more")
    after = looked(applied(document, changes), **how)
    place = found[0].place, found[0].state
    assert place not in [(one.place, one.state) for one in after]


def test_most_remedies_were_tried():
    tried = set()
    for of, _, sound, flaw, how in ROWS:
        if of in (*REMEDIES, *OFF):
            document = mended(sound, flaw)
            system = System.model_validate(
                {name: value for name, value in document.items()
                 if name not in ("brief", "vehicle")}
            )  # fmt: skip
            for one in looked(document, **how):
                if one.id == of and changes_of(system, one):
                    tried.add(of)
    assert set(REMEDIES) | set(OFF) == tried
