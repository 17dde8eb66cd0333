"""Ends that are stated, runs that are measured, prices, ticks and holes that are planned."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, field_validator
from typing_extensions import override

from isotherma.catalogue.joints import size_is_known
from isotherma.core import editing
from isotherma.core.ends import nearest_wordings, read_end
from isotherma.core.errors import ChangeRefused, QuantityError
from isotherma.core.joints.leg_text import read_legs
from isotherma.core.joints.run_legs import legs_from
from isotherma.core.project import Project
from isotherma.core.quantity import UnitSystem, parse
from isotherma.services.edit import Edit, Key

Typed = str | None  # None: not said; "": taken back


def _number(text: str, style: str) -> float | None:
    """Read a figure of a form; empty is nobody's word."""
    if not text.strip():
        return None
    try:
        return parse(text, style, UnitSystem.METRIC)
    except QuantityError as error:
        raise ChangeRefused(path="prices", reason="no_figure", text=text,
                            example=error.example) from None  # fmt: skip


class SetEnd(Edit):
    """State what a part has at a port; empty takes it back."""

    name = "end.set"
    part: Key
    port: str = Field(pattern=r"^[a-z_]{1,20}$")
    end: str = Field(default="", max_length=80)

    @property
    @override
    def subject(self) -> str:
        return f"{self.part} {self.port.replace('_', ' ')}: {self.end or 'not stated'}"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        read = read_end(self.end)
        if read is not None and not size_is_known(read):
            near = " / ".join(one for one in nearest_wordings(self.end, 4) if one != read.name)
            raise ChangeRefused(path=f"parts.{self.part}.ends", reason="unknown_size",
                                text=self.end, nearest=near)  # fmt: skip
        return editing.set_end(project, variant_id, self.part, self.port, self.end)


class MeasureRun(Edit):
    """Say between what a run was measured, and its legs bend by bend."""

    name = "run.measure"
    run: Key
    measured: Literal["between centres", "between faces", "the tube itself", ""] = ""
    legs: str = Field(default="", max_length=400)

    @property
    @override
    def subject(self) -> str:
        return f"{self.run} {self.measured or 'not measured'}"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        legs: list[dict[str, Any]] = []
        if self.legs.strip():
            written = read_legs(self.legs, f"runs.{self.run}.legs")
            legs = [leg.model_dump() for leg in legs_from(written)]
        return editing.measure_run(project, variant_id, self.run, self.measured, legs)


class OfItem(Edit):
    """An edit of what is kept of an item of a size; it is named by item and size."""

    item: str = Field(pattern=r"^[a-z][a-z_]{0,39}$")
    size: str = Field(default="", max_length=80)

    @property
    @override
    def subject(self) -> str:
        return f"{self.item.replace('_', ' ')} {self.size}".strip()

    def kept(self, project: Project) -> dict[str, float]:
        """Give what is there and ordered already, 0 where nothing was said."""
        there = editing.price_kept(project, self.item, self.size)
        return {"have": 0.0 if there is None else there.have,
                "ordered": 0.0 if there is None else there.ordered}  # fmt: skip


class SetPrice(OfItem):
    """Keep a price, how it is sold, and how much of it is there or ordered."""

    name = "price.set"
    price: Typed = Field(default=None, max_length=20)
    pack: Typed = Field(default=None, max_length=20)
    priced_on: Typed = Field(default=None, max_length=10)
    have: Typed = Field(default=None, max_length=20)
    ordered: Typed = Field(default=None, max_length=20)

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        values: dict[str, Any] = {"item": self.item, "size": self.size}
        if self.price is not None:
            values["price"] = _number(self.price, "money")
        if self.pack is not None:
            values["pack"] = _number(self.pack, "number")
        if self.priced_on is not None:
            values["priced_on"] = self.priced_on or None
        for name, text in (("have", self.have), ("ordered", self.ordered)):
            if text is not None:
                values[name] = _number(text, "number") or 0.0  # an empty field is none of it
        return editing.keep_price(project, values)


class Counted(OfItem):
    """A tick on a line: so many pieces or metres of it."""

    quantity: float = Field(ge=0, le=10_000, allow_inf_nan=False)


class Ordered(Counted):
    """Tick a line as ordered: so much of it is on its way."""

    name = "line.ordered"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.keep_price(
            project, {"item": self.item, "size": self.size, "ordered": self.quantity}
        )


class Bought(Counted):
    """Tick a line as bought, or there already: with its price and the day, where known."""

    name = "line.bought"
    price: str = Field(default="", max_length=20)
    priced_on: str = Field(default="", max_length=10)

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        there = self.kept(project)
        values: dict[str, Any] = {
            "item": self.item, "size": self.size, "ordered": 0.0,
            "have": there["have"] + self.quantity,
        }  # fmt: skip
        price = _number(self.price, "money")
        if price is not None:
            values |= {"price": price, "priced_on": self.priced_on or None}
        return editing.keep_price(project, values)


class NotThere(OfItem):
    """Take back that a line is there or ordered."""

    name = "line.open"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.keep_price(
            project, {"item": self.item, "size": self.size, "have": 0.0, "ordered": 0.0}
        )


class PartBought(Edit):
    """Tick a part as there, with its price and the day where known; or take that back."""

    name = "part.bought"
    part: Key
    owned: Literal["owned", "to buy"] = "owned"
    price: str = Field(default="", max_length=20)
    priced_on: str = Field(default="", max_length=10)

    @property
    @override
    def subject(self) -> str:
        return self.part

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        path = f"variants.{variant_id}.system.parts.{self.part}"
        values: dict[str, object] = {f"{path}.owned": self.owned}
        price = _number(self.price, "money")
        if price is not None:
            values |= {f"{path}.price": price, f"{path}.priced_on": self.priced_on or None}
        return editing.set_values(project, values)


class SetCurrency(Edit):
    """Say which money prices are in."""

    name = "currency.set"
    currency: str = Field(default="", max_length=8)

    @field_validator("currency")
    @classmethod
    def _plain(cls, text: str) -> str:
        return text.strip()

    @property
    @override
    def subject(self) -> str:
        return self.currency

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.set_values(project, {"currency": self.currency})


class SetTradition(Edit):
    """Say what fittings are sold where they are bought: it decides ends nobody states."""

    name = "tradition.set"
    tradition: Literal["metric", "UK", "US", "Australia", ""] = ""

    @property
    @override
    def subject(self) -> str:
        return self.tradition or "metric, assumed"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        path = f"variants.{variant_id}.system.tradition"
        return editing.set_values(project, {path: self.tradition or None})


class PlanHole(Edit):
    """Plan the hole that a run between two spaces goes through."""

    name = "hole.plan"
    run: Key

    @property
    @override
    def subject(self) -> str:
        return self.run

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.plan_hole(project, variant_id, self.run)


class SetHole(Edit):
    """Say how wide a hole is, what it is drilled in, what is behind, from where the pilot."""

    name = "hole.set"
    hole: Key
    bore: str = Field(default="", max_length=20)
    made_of: Literal["metal", "wood", "plastic", "glass fibre", "tank", ""] = ""
    behind: str = Field(default="", max_length=80)
    drill_from: str = Field(default="", max_length=80)

    @property
    @override
    def subject(self) -> str:
        return self.hole

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        path = f"variants.{variant_id}.system.holes.{self.hole}"
        try:
            bore = parse(self.bore, "bore") if self.bore.strip() else None
        except QuantityError as error:
            raise ChangeRefused(path=path, reason="no_length", text=self.bore,
                                example=error.example) from None  # fmt: skip
        return editing.set_values(project, {
            f"{path}.bore_m": bore, f"{path}.made_of": self.made_of or None,
            f"{path}.behind": self.behind, f"{path}.drill_from": self.drill_from,
        })  # fmt: skip
