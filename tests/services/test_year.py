"""A trip in every month: the same as twelve runs of their own, and of equal months the same."""

from __future__ import annotations

from dataclasses import replace

import pytest

from isotherma import catalogue
from isotherma.catalogue.demo_trips import drover_on_trip
from isotherma.core import editing
from isotherma.core.brief import Brief
from isotherma.core.cache import Caches
from isotherma.core.project import Project, Variant
from isotherma.core.simulate import simulate
from isotherma.services import year
from isotherma.services.long_work import Asker
from isotherma.services.year import MonthRow, YearService, in_month, month_row
from isotherma.wording import month_words, year_words


@pytest.fixture(scope="module")
def show() -> Project:
    return drover_on_trip()


def rows_of(project: Project, at: int = 0) -> tuple[MonthRow, ...]:
    service = YearService(Caches(1_000_000))
    found = service.rows(project, project.variants[at], Asker())
    assert all(isinstance(row, MonthRow) for row in found)
    return tuple(row for row in found if isinstance(row, MonthRow))


def test_a_year_is_twelve_single_runs(show):
    variant = show.variants[0]
    rows = rows_of(show)
    assert [row.month for row in rows] == list(range(1, 13))
    for row in rows:
        brief = Brief.model_validate({**show.brief.model_dump(), "month": row.month})
        climate = catalogue.climate(brief)
        alone = simulate(brief, variant.system, climate, state=variant.standing).trip
        assert row.air_c == climate.air_c
        assert (row.failure, row.needed) == (alone.failure, alone.needed)
        assert row.draws_met == sum(day.draws_met for day in alone.days)
        assert (row.days, row.draws) == (len(alone.days), sum(day.draws for day in alone.days))
    assert len({row.air_c for row in rows}) > 6
    assert len({row.draws_met for row in rows}) > 2  # summer is not winter


def test_twelve_equal_months_give_twelve_equal_answers(show, monkeypatch):
    spring = catalogue.climate(in_month(show, 4).brief)
    monkeypatch.setattr(catalogue, "climate", lambda brief: spring)
    rows = rows_of(show)
    assert {replace(row, month=4) for row in rows} == {rows[3]}


def test_what_cannot_be_run_is_said_of_every_month(show):
    nowhere = editing.set_values(show, {"brief.region": "nowhere"})
    lost = month_row(nowhere, nowhere.variants[0].id, 3)
    assert lost.air_c is None and lost.error == "unknown_region"
    empty = Variant(id="bare", name="Bare")
    row = month_row(show.model_copy(update={"variants": (empty,)}), empty.id, 3)
    assert row.error and row.failure is None and row.draws == 0


def test_a_month_is_run_once(show, monkeypatch):
    service, variant = YearService(Caches(1_000_000)), show.variants[0]
    first = service.rows(show, variant, Asker())
    monkeypatch.setattr(year, "month_row", lambda *_: pytest.fail("run again"))
    assert service.rows(show, variant, Asker()) == first
    # the month the brief stands in does not matter to a year
    assert service.rows(in_month(show, 9), variant, Asker()) == first


def test_a_year_in_words():
    assert month_words(None, 4) == "as asked"
    assert year_words([], 12) == "As asked in no month."
    assert year_words([], 0).startswith("It cannot be run")
    assert year_words(["July"], 12) == "As asked in July; not in 11 of 12 months."
    assert year_words(["May"] * 12, 12) == "As asked in every month."
    assert year_words(["May"] * 3, 3) == "As asked in all that ran."
