"""What is kept: found once, bounded by bytes, the oldest let go, failures not kept."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest

from isotherma.catalogue.demo import drover
from isotherma.core.cache import CORE, CORE_BYTES, SMALL_BYTES, Cache, Caches, remembered


def kept(count: int, name: str = "things") -> Cache[object]:
    """Room for so many small things."""
    return Cache(Caches(count * SMALL_BYTES), name)


def test_it_is_found_once():
    things, asked = kept(3), []

    def find():
        asked.append(1)
        return 7

    assert things.peek("a") is None
    assert things.once("a", find) == things.once("a", find) == things.peek("a") == 7
    assert len(asked) == 1


def test_the_one_not_used_for_longest_goes_first():
    things = kept(2)
    things.once("a", lambda: "A")
    things.once("b", lambda: "B")
    assert things.peek("a") == "A"  # looked at, so it is newer than b
    things.once("c", lambda: "C")
    assert things.peek("b") is None and things.peek("a") == "A" and things.peek("c") == "C"


def test_all_of_one_owner_share_its_room_and_never_take_more():
    owner = Caches(10_000)
    large: Cache[int] = Cache(owner, "large", lambda _: 4_000)
    small: Cache[int] = Cache(owner, "small", lambda _: 500)
    for number in range(50):
        large.put(number, number)
        small.put(number, number)
        assert owner.used_bytes <= 10_000
    assert large.peek(49) == small.peek(49) == 49
    assert large.peek(0) is None and small.peek(0) is None
    large.put(50, 50)
    assert small.peek(50) is None, "the same key of two kinds is two keys"


def test_what_is_larger_than_all_the_room_is_given_and_not_kept():
    huge: Cache[int] = Cache(Caches(10_000), "huge", lambda _: 20_000)
    assert huge.once("a", lambda: 5) == 5
    assert huge.peek("a") is None and huge.once("a", lambda: 6) == 6


def test_what_fails_is_tried_again():
    things = kept(2)
    with pytest.raises(ZeroDivisionError):
        things.once("a", lambda: 1 // 0)
    assert things.once("a", lambda: 5) == 5


def test_an_error_that_is_kept_holds_no_frames():
    def fails():
        try:
            raise KeyError("inner")
        except KeyError as inner:
            raise ValueError("outer") from inner

    try:
        fails()
    except ValueError as error:
        caught = error
    things = kept(2)
    assert things.once("a", lambda: caught) is caught
    assert caught.__traceback__ is None and caught.__cause__ is None
    assert caught.__context__ is None


def test_none_is_a_result_too():
    things, asked = kept(2), []
    for _ in range(2):
        assert things.once("a", lambda: asked.append(1)) is None
    assert len(asked) == 1


def test_several_threads_get_the_same():
    things = kept(50)
    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(lambda n: things.once(n % 20, lambda: n % 20), range(400)))
    assert found == [n % 20 for n in range(400)]


def test_equal_documents_have_the_same_digest_and_others_not():
    one, same = drover().brief, drover().brief
    assert one is not same and one.digest == same.digest
    other = one.model_copy(update={"days": one.days + 1})
    assert other.digest != one.digest, "a copy never keeps the digest of what it was"
    assert other.model_copy(update={"days": one.days}).digest == one.digest
    assert one == same and one.model_dump() == same.model_dump()


def test_digests_of_many_documents_all_differ():
    base = drover().brief
    found = {base.model_copy(update={"days": days}).digest for days in range(1, 61)}
    assert len(found) == 60


def test_a_remembered_function_is_asked_once_for_the_same_and_its_errors_are_not_kept():
    asked: list[tuple[float, float]] = []

    @remembered("a test", lambda _: 100)
    def share(part: float, *, of: float) -> float:
        """Give a share."""
        asked.append((part, of))
        return part / of

    assert share(1.0, of=4.0) == share(1.0, of=4.0) == 0.25
    assert share(1.0, of=2.0) == 0.5
    assert asked == [(1.0, 4.0), (1.0, 2.0)]
    assert share.__doc__ == "Give a share."
    for _ in range(2):
        with pytest.raises(ZeroDivisionError):
            share(1.0, of=0.0)
    assert asked[2:] == [(1.0, 0.0), (1.0, 0.0)]
    assert CORE.used_bytes <= CORE_BYTES
