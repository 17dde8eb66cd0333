"""Results that are kept: found once, the oldest let go, failures not kept."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest

from isotherma.catalogue.demo import drover
from isotherma.core.kept import Kept
from isotherma.services.kept import text_of


def test_it_is_found_once():
    kept, asked = Kept[int](3), []

    def find():
        asked.append(1)
        return 7

    assert kept.peek("a") is None
    assert kept.once("a", find) == kept.once("a", find) == kept.peek("a") == 7
    assert len(asked) == 1


def test_the_one_not_used_for_longest_goes_first():
    kept = Kept[str](2)
    kept.once("a", lambda: "A")
    kept.once("b", lambda: "B")
    assert kept.peek("a") == "A"  # looked at, so it is newer than b
    kept.once("c", lambda: "C")
    assert kept.peek("b") is None and kept.peek("a") == "A" and kept.peek("c") == "C"


def test_what_fails_is_tried_again():
    kept = Kept[int](2)
    with pytest.raises(ZeroDivisionError):
        kept.once("a", lambda: 1 // 0)
    assert kept.once("a", lambda: 5) == 5


def test_none_is_a_result_too():
    kept, asked = Kept[None](2), []
    for _ in range(2):
        assert kept.once("a", lambda: asked.append(1)) is None
    assert len(asked) == 1


def test_several_threads_get_the_same():
    kept = Kept[int](50)
    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(lambda n: kept.once(n % 20, lambda: n % 20), range(400)))
    assert found == [n % 20 for n in range(400)]


def test_equal_documents_have_the_same_text_and_others_not():
    one, same = drover().brief, drover().brief
    assert one is not same and text_of(one) == text_of(same) == text_of(one)
    other = one.model_copy(update={"days": one.days + 1})
    assert text_of(other) != text_of(one)
    assert type(one).model_validate_json(text_of(one)) == one


def test_texts_never_follow_an_id_that_was_given_again():
    base = drover().brief
    for days in range(1, 400):  # more than are kept, each gone before the next is made
        brief = base.model_copy(update={"days": days})
        assert f'"days":{days},' in text_of(brief)
        del brief
