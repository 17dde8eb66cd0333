"""docs/plans.md is what the code says, and nothing in it is left without a judgement."""

from __future__ import annotations

import isotherma.wording as wording
from scripts.plans_table import JUDGED, PATH, made


def test_the_table_is_up_to_date_and_judged():
    assert PATH.read_text(encoding="utf-8") == made(), "run scripts/plans_table.py"


def test_all_that_may_not_be_computed_has_a_judgement():
    assert set(wording.NOT_COMPUTED) <= set(JUDGED)
    assert all(words.startswith("True") for words in JUDGED.values())
