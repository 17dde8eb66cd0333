"""Runs that join ports: pipe for liquids, gas or fuel pipe, cable, hot-air duct."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, ClassVar, Final, Literal, get_args

from pydantic import Field, field_validator
from typing_extensions import override

from isotherma.core.fields import (
    Bore,
    CableArea,
    Coefficient,
    Conductivity,
    Contact,
    Count,
    Document,
    Length,
    Name,
    Note,
    PhaseRef,
    Pressure,
    Resistance,
    Rise,
    Slug,
    SpaceRef,
    Temperature,
    Thickness,
    WallThickness,
    known,
    refusal,
)
from isotherma.core.system.kinds.heat import BOARDS, Board
from isotherma.core.system.pieces import Around, Band, Medium, about, certain, usual
from isotherma.core.system.tubes import (
    FITTINGS,
    Family,
    Material,
    Nominal,
    gauge_area_m2,
    material_of,
    sizes_of,
    tube,
)

ROUNDABOUT: Final = 1.4  # along two walls of a square instead of across it
LEAST_RUN_M: Final = 0.1  # shorter is no run but a joint
COPPER_OHM_M: Final = 1.78e-8  # stranded copper at about 25 °C, IEC 60228 class 5


class PortRef(Document):
    """One port of one part."""

    part: Slug
    port: Annotated[str, Field(pattern=r"^[a-z_]{1,20}$")]

    def __str__(self) -> str:
        return f"{self.part}.{self.port}"


class Leg(Document):
    """A straight stretch of a run, and the turn at its end; the last one has none."""

    length_m: Length = Field(title="Length", description="To where the middle lines meet.")
    turn_deg: Annotated[float, Field(ge=0, lt=180)] = Field(default=0.0, title="Turn after it")
    by: Literal["formed", "elbow"] = Field(default="formed", title="Turned by")


Measured = Literal["between centres", "between faces", "the tube itself"]
MEASURED: Final = get_args(Measured)
Legs = Annotated[tuple[Leg, ...], Field(max_length=40)]


def turns_of(legs: tuple[Leg, ...]) -> tuple[Leg, ...]:
    """Give the legs that end in a turn, in order.

    Parameters
    ----------
    legs : tuple of Leg
        Of a run. [m, °]

    Returns
    -------
    tuple of Leg
        One for each bend and elbow. Where the first leg says no turn and the last does, turns
        stand at the beginning of legs. [m, °]
    """
    return tuple(leg for leg in legs if leg.turn_deg > 0.0)


def _legs_said(legs: tuple[Leg, ...]) -> tuple[Leg, ...]:
    if len(turns_of(legs)) >= max(1, len(legs)):
        raise refusal("turn_after_last", turns=str(len(turns_of(legs))), legs=str(len(legs)))
    return legs


class RunBase(Document):
    """What every run has: two ends, a length, where it goes."""

    title: ClassVar[str] = ""
    carries: ClassVar[tuple[Medium, ...]] = ()
    caution: ClassVar[str] = ""
    printed: ClassVar[tuple[str, ...]] = ()
    usual: ClassVar[Mapping[str, Band]] = {}
    needs: ClassVar[tuple[str, ...]] = ()

    id: Slug
    name: Name = Field(default="", title="Name")
    start: PortRef
    end: PortRef
    length_m: Length | None = known("Length")
    rise_m: Rise = Field(default=0.0, title="Rise", description="End above start.")
    space: SpaceRef | None = known("Space", "Where it runs.")
    phase: PhaseRef | None = known("Phase", "When it is laid; empty: with the first.")
    clips: Count | None = known("Clips")
    note: Note = Field(default="", title="Note")

    @property
    def label(self) -> str:
        """Give the name, or the id where it has none."""
        return self.name or self.id

    def care(self) -> str:
        """Give the caution for this very run; of most, that of its kind."""
        return self.caution

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Derive figures from what is printed; a length nobody measured from where its ends are."""
        if self.length_m is not None or around.span_m is None:
            return {}
        way = max(LEAST_RUN_M, around.span_m)
        return {
            "length_m": Band(
                way, ROUNDABOUT * way, 2.0 * way, "how far apart its ends are, and a way round"
            )
        }  # fmt: skip

    def lacking(self) -> Mapping[str, str]:
        """Name the ways to know what is unknown."""
        return {"length_m": "its length, by tape"}


class MeasuredRun(RunBase):
    """A run that is cut from tube: measured between what, leg by leg."""

    measured: Measured | None = known(
        "Measured", "Between what its length and legs were taken; it decides where it is cut."
    )
    legs: Legs = Field(
        default=(), title="Legs", description="Straight stretches and the turns between them."
    )

    _turns = field_validator("legs")(_legs_said)

    @property
    def legs_m(self) -> float | None:
        """Give the sum of its legs [m]; None where none are said."""
        return sum(leg.length_m for leg in self.legs) if self.legs else None

    @property
    def laid_m(self) -> float | None:
        """Give how long it is [m]: as measured, else its legs together."""
        return self.legs_m if self.length_m is None else self.length_m

    def turned(self, by: str, counted: int) -> int:
        """Count the turns made in a way: by the legs where there are any, else as counted."""
        if not self.legs:
            return counted
        return sum(leg.by == by for leg in turns_of(self.legs))

    @override
    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Derive figures from what is printed; the length from legs, else from its ends."""
        summed = self.legs_m
        if self.length_m is None and summed is not None:
            return {"length_m": about(summed, 0.02, "its legs together")}
        return super().worked_out(around)


class Pipe(MeasuredRun):
    """A run of pipe or hose for water, waste or the primary."""

    kind: Literal["pipe"] = "pipe"
    title = "Pipe"
    carries = ("water", "primary", "waste", "fluid")
    printed = ("family", "nominal", "length_m", "rise_m", "elbows", "formed_bends", "joiners",
               "tails", "board", "insulation_m", "space")  # fmt: skip
    needs = ("length_m", "bore_m")
    usual = {"insulation_m": usual(0.0, 0.0, 0.0, "bare unless said")}
    family: Family | None = known("Family")
    nominal: Nominal | None = known("Nominal size", "As printed on it.")
    bore_m: Bore | None = known("Inside diameter")
    wall_m: WallThickness | None = known("Wall")
    elbows: Count = Field(default=0, title="Elbow fittings")
    formed_bends: Count = Field(default=0, title="Formed bends")
    joiners: Count = Field(default=0, title="Straight joiners")
    tails: Count = Field(default=0, title="Hose tails and adapters")
    joint: (
        Literal["push-in", "crimp", "clamped hose", "soldered", "compression", "welded"] | None
    ) = known("Joints")
    loss_k: Coefficient | None = known("Fittings", "Sum of loss coefficients of its fittings.")
    board: Board | None = known("Insulated with")
    insulation_m: Thickness | None = known("Insulation")
    insulation_w_per_m_k: Conductivity | None = known("Its conductivity")
    secured: Literal["locked and inserted", "locked", "inserted", "neither"] | None = known(
        "Push-in joints held by", "Locking clips outside, inserts within."
    )
    bend_m: Length | None = known("Tightest bend", "Radius of its middle line.")
    max_c: Temperature | None = known("Rated up to", "Highest temperature printed on it.")
    max_pa: Pressure | None = known("Rated pressure", "Highest pressure printed on it.")
    drinking: Literal["fit", "not fit"] | None = known("For drinking water")

    def counted(self, name: str) -> int:
        """Count fittings of a kind: "elbows", "formed_bends", "joiners" or "tails"."""
        said: int = getattr(self, name)
        by = {"elbows": "elbow", "formed_bends": "formed"}.get(name)
        return said if by is None else self.turned(by, said)

    @property
    def material(self) -> Material:
        """Give the material class of its wall; plastic where the family is not said."""
        return material_of(self.family) if self.family is not None else "plastic"

    @property
    def covering_m(self) -> float:
        """Give the thickness of its insulation; none unless said."""
        bare = self.usual["insulation_m"].likely
        return bare if self.insulation_m is None else self.insulation_m

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Bore and wall from family and size, losses from the fittings counted."""
        found = dict(super().worked_out(around))
        if self.family is not None and self.nominal is not None:
            size = tube(self.family, self.nominal)
            if size is not None:
                found["bore_m"], found["wall_m"] = size.bore, size.wall
        if "wall_m" not in found and self.bore_m is not None:
            share = {"plastic": 0.14, "copper": 0.06, "hose": 0.25}[self.material]
            found["wall_m"] = about(share * self.bore_m, 0.3, "usual for its bore and family")
        low = likely = high = 0.0
        for name, row in FITTINGS.items():
            count = self.counted(name)
            low, likely, high = (
                total + count * k for total, k in zip((low, likely, high), row, strict=True)
            )
        found["loss_k"] = Band(low, likely, high, "fittings counted, each by its kind")
        if self.board is not None:
            a, b, c = BOARDS[self.board]
            found["insulation_w_per_m_k"] = Band(a, b, c, f"{self.board} as sold")
        else:
            found["insulation_w_per_m_k"] = Band(0.034, 0.038, 0.042, "rubber foam, as most use")
        return found

    def lacking(self) -> Mapping[str, str]:
        """Name the ways to know the bore."""
        words = "family and nominal size, or its inside diameter"
        if self.family is not None and self.nominal is not None:
            sizes = ", ".join(sizes_of(self.family))
            words = f"a size {self.family} is sold in ({sizes}), or its inside diameter"
        return {"length_m": "its length, by tape", "bore_m": words, "wall_m": words}


class FuelPipe(MeasuredRun):
    """A pipe or hose for gas or liquid fuel."""

    kind: Literal["fuel_pipe"] = "fuel_pipe"
    title = "Gas or fuel pipe"
    carries = ("gas", "fuel")
    caution = (
        "Gas pipe is work for a licensed fitter: clipped, sleeved at holes, tested for "
        "tightness before first use."
    )
    printed = ("outside_m", "length_m", "way", "bends", "joints", "dated", "space")
    outside_m: Bore | None = known("Outside diameter")
    wall_m: WallThickness | None = known("Wall")
    bore_m: Bore | None = known("Inside diameter")
    way: Literal["copper", "steel", "hose"] = Field(default="copper", title="Made of")
    bends: Count = Field(default=0, title="Bends")
    joints: Count = Field(default=2, title="Joints")
    dated: Name = Field(default="", title="Date on the hose")

    @property
    def turns(self) -> int:
        """Count its turns: by its legs where there are any, else as counted."""
        return len(turns_of(self.legs)) if self.legs else self.bends

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Bore from outside and wall."""
        found = dict(super().worked_out(around))
        if self.outside_m is None:
            return found
        wall = {"copper": 0.8e-3, "steel": 1.0e-3, "hose": 3.5e-3}[self.way]
        thick = wall if self.wall_m is None else self.wall_m
        bore = self.outside_m - 2 * thick
        if bore <= 1e-3:
            return found
        said = "" if self.wall_m else f"; {self.way} of this size has about {wall * 1e3:g} mm"
        found["bore_m"] = about(bore, 0.03, f"outside less two walls{said}")
        found["wall_m"] = about(wall, 0.3, f"{self.way} of this size")
        return found

    def lacking(self) -> Mapping[str, str]:
        """Name what to measure."""
        return {"bore_m": "outside diameter, by caliper", "wall_m": "outside diameter",
                "length_m": "its length, by tape"}  # fmt: skip


class Cable(RunBase):
    """A cable: two conductors there and back."""

    kind: Literal["cable"] = "cable"
    title = "Cable"
    carries = ("power",)
    caution = (
        "A fuse near the source, no larger than the cable bears; mains only by a licensed "
        "electrician."
    )
    printed = ("area_m2", "gauge", "length_m", "space")
    needs = ("length_m", "loop_ohm")
    usual = {"contacts_ohm": usual(0.001, 0.004, 0.02, "crimped lugs and a fuse holder")}
    area_m2: CableArea | None = known("Copper area")
    gauge: Annotated[int, Field(ge=-3, le=30)] | None = known(
        "Wire gauge", "American gauge number; 0 for 1/0, −1 for 2/0."
    )
    loop_ohm: Resistance | None = known("Resistance there and back")
    contacts_ohm: Contact | None = known(
        "Contacts", "Lugs, fuse holder and switch on it, together."
    )

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Area from the gauge, resistance from area and length."""
        found = dict(super().worked_out(around))
        area, length = self.area_m2, self.length_m
        if length is None and "length_m" in found:
            length = found["length_m"].likely
        if area is None and self.gauge is not None:
            found["area_m2"] = certain(gauge_area_m2(self.gauge), f"wire gauge {self.gauge}")
            area = found["area_m2"].likely
        if area is not None and length is not None:
            loop = COPPER_OHM_M * 2 * length / area
            found["loop_ohm"] = Band(
                0.95 * loop, loop, 1.25 * loop, "copper there and back; lugs and heat add some"
            )
        return found

    def lacking(self) -> Mapping[str, str]:
        """Name what is printed on it."""
        words = "mm² or gauge printed on its sheath"
        return {"area_m2": words, "loop_ohm": f"{words}, and its length",
                "length_m": "its length, by tape"}  # fmt: skip


class Duct(RunBase):
    """A duct for hot air, or for a tank's breath."""

    kind: Literal["duct"] = "duct"
    title = "Duct"
    carries = ("air",)
    printed = ("bore_m", "length_m", "space")
    usual = {"bore_m": usual(0.05, 0.06, 0.09, "hot-air hose")}
    bore_m: Bore | None = known("Bore")
    lagged: bool = Field(default=False, title="Lagged")


AnyRun = Pipe | FuelPipe | Cable | Duct
Run = Annotated[AnyRun, Field(discriminator="kind")]
RUNS: Final[dict[str, type[RunBase]]] = {
    run.model_fields["kind"].default: run for run in get_args(AnyRun)
}
