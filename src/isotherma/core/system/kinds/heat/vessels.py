"""What keeps hot water: stores, combis, canisters, sun containers, a kettle."""

from __future__ import annotations

from collections.abc import Mapping
from math import log, pi
from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.fields import (
    Area,
    Bore,
    Capacity,
    Conductivity,
    Film,
    HeatPower,
    Hours,
    Loss,
    Pressure,
    Setting,
    Share,
    Size,
    Temperature,
    Thickness,
    Time,
    Volume,
    Watts,
    known,
    known_or,
)
from isotherma.core.system.kinds.heat.base import (
    BOARDS,
    DIESEL_CAUTION,
    ELECTRIC_CAUTION,
    GAS_CAUTION,
    Board,
    HeatPart,
)
from isotherma.core.system.pieces import (
    Around,
    Band,
    GasSetting,
    Port,
    Sealing,
    about,
    certain,
    power,
    spread,
    through,
    usual,
)
from isotherma.core.thermal.losses import as_wide_as_tall_m, box_loss_w_per_k, cylinder_loss_w_per_k
from isotherma.core.water import HEAT_J_PER_M3_K


class Insulated(HeatPart):
    """A vessel in insulation: what it loses by board and thickness, or as measured."""

    usual = {
        "film_w_per_m2_k": usual(4.0, 8.0, 10.0, "still air on a bare surface; foil-faced about 4"),
        "fittings_share": usual(0.05, 0.2, 0.5, "pipes and straps through the insulation"),
    }
    board: Board | None = known("Insulated with")
    insulation_m: Thickness | None = known("Its thickness")
    insulation_w_per_m_k: Conductivity | None = known("Its conductivity")
    film_w_per_m2_k: Film | None = known(
        "Its surface sheds", "Heat from a bare surface to still air; a foil face sheds half."
    )
    fittings_share: Share | None = known(
        "Added for fittings", "Pipes and straps through the insulation."
    )
    loss_w_per_k: Loss | None = known("Standing loss", "Measured loss; wins over the estimate.")
    cooled_from_c: Temperature | None = known("Cooled from", "Left alone, nothing drawn.")
    cooled_to_c: Temperature | None = known("Cooled to")
    cooled_in_s: Annotated[Hours, Field(gt=0)] | None = known("In")
    cooled_air_c: Temperature | None = known("Air around it then")

    def _cooling(self, capacity_j_per_k: float) -> Band | None:
        """Loss from a night's cooling."""
        start, end, span = self.cooled_from_c, self.cooled_to_c, self.cooled_in_s
        if start is None or end is None or not span:
            return None
        air = 12.0 if self.cooled_air_c is None else self.cooled_air_c
        if not air < end < start:
            return None
        loss = capacity_j_per_k / span * log((start - air) / (end - air))
        spread = 0.08 if self.cooled_air_c is not None else 0.2
        return about(loss, spread, "from how far it cooled, one temperature throughout")

    def conductivity(self) -> Band:
        """Conductivity of its insulation: given, by its board, or the range of boards."""
        if self.insulation_w_per_m_k is not None:
            return certain(self.insulation_w_per_m_k, "given")
        if self.board is not None:
            low, likely, high = BOARDS[self.board]
            return Band(low, likely, high, f"{self.board} as sold")
        return Band(0.022, 0.035, 0.05, "not said what it is; most boards lie between")


class Store(Insulated):
    """An insulated store of hot water; elements, burners and coils sit in it."""

    kind: Literal["store"] = "store"
    title = "Store"
    ports = (
        Port("inlet", "water"),
        Port("outlet", "water"),
        Port("relief", "fluid", needed=False),
        Port("drain", "fluid", needed=False),
        Port("vent", "air", needed=False),
    )
    printed = ("volume_m3", "form", "height_m", "length_m", "breadth_m", "board", "insulation_m",
               "cooled_from_c", "cooled_to_c", "cooled_in_s", "cooled_air_c")  # fmt: skip
    needs = ("volume_m3",)
    caution = (
        "A closed store heated without a way to expand bursts: relief valve led outside, "
        "nothing between store and relief that can shut, and a thermal cut-out of its own."
    )
    usual = {
        **Insulated.usual,
        "insulation_m": usual(0.015, 0.025, 0.04, "moulded foam around small stores"),
        "jet_share": usual(0.05, 0.1, 0.25, "the inlet jet stirs the lowest quarter"),
        "unreachable": usual(0.0, 0.05, 0.1, "corners the flow passes by"),
        "wall_w_m_per_k": usual(0.02, 0.04, 0.4, "steel; aluminium conducts ten times more"),
        "inlet_share": certain(0.0, "at the bottom"),
        "outlet_share": certain(1.0, "at the top"),
    }
    volume_m3: Volume | None = known("Volume")
    nature: Literal["closed", "open to its spout", "open vented"] = Field(
        default="closed", title="Closed or open"
    )
    form: Literal["upright", "box"] = Field(default="upright", title="Shape")
    height_m: Size | None = known("Inside height", "Empty: as tall as it is wide.")
    length_m: Size | None = known("Inside length", "Of a box.")
    breadth_m: Size | None = known("Inside breadth", "Of a box.")
    metal: (
        Literal["stainless steel", "enamelled steel", "aluminium", "copper", "plastic"] | None
    ) = known("Vessel")
    layers: Annotated[int, Field(ge=1, le=40)] | None = known(
        "Layers", "Empty: from volume and proportions."
    )
    body_j_per_k: Capacity | None = known("Heat in the vessel")
    wall_w_m_per_k: Annotated[float, Field(ge=0, le=5)] | None = known(
        "Vessel wall conduction",
        "Conductivity times area of the wall; steel about 0.04 W·m/K.",
    )
    jet_share: Share | None = known(
        "Stirred by the inlet", "Share of the store the cold coming in stirs."
    )
    unreachable: Annotated[Share, Field(le=0.5)] | None = known(
        "Out of reach", "Share of the water the flow passes by."
    )
    inlet_share: Share | None = known("Inlet height", "Share of its height; empty: at the bottom.")
    outlet_share: Share | None = known("Outlet height", "Share of its height; empty: at the top.")
    refill: Literal["while drawing", "in batches"] | None = known("An open one is refilled")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Volume of a box, vessel heat, conduction of the metal, standing loss."""
        found: dict[str, Band] = {}
        sides = (self.length_m, self.breadth_m, self.height_m)
        box = self.form == "box" and None not in sides
        volume = self.volume_m3
        if volume is None and box:
            a, b, c = (side for side in sides if side is not None)
            found["volume_m3"] = Band(0.88 * a * b * c, 0.95 * a * b * c, a * b * c,
                                      "its inside measures, less the air on top")  # fmt: skip
            volume = found["volume_m3"].likely
        # 150 J/K per litre: a 1.5 mm steel vessel with its fittings, 1.5 kJ/K at ten litres
        per_m3 = {"aluminium": 1.1e5, "plastic": 0.9e5}.get(self.metal or "", 1.5e5)
        if volume is not None:
            found["body_j_per_k"] = about(per_m3 * volume, 0.3, "vessel and fittings by its litres")
        if self.metal == "aluminium":
            found["wall_w_m_per_k"] = Band(0.2, 0.4, 0.8, "an aluminium wall")
        elif self.metal in ("plastic", "copper"):
            k = 0.005 if self.metal == "plastic" else 0.7
            found["wall_w_m_per_k"] = about(k, 0.5, f"a {self.metal} wall")
        if volume is not None:
            if self.height_m is None:
                found["height_m"] = certain(as_wide_as_tall_m(volume), "as tall as it is wide")
            loss = self._loss(volume, found)
            if loss is not None:
                found["loss_w_per_k"] = loss
        return found

    def _loss(self, volume: float, found: Mapping[str, Band]) -> Band | None:
        body = self.body_j_per_k
        if body is None:
            body = found["body_j_per_k"].likely
        measured = self._cooling(volume * 4.14e6 + body)  # ρc of water near 60 °C [J/m³K]
        if measured is not None:
            return measured
        k = self.conductivity()
        thick = self.insulation_m
        bands = self.usual["insulation_m"]
        t = (thick, thick, thick) if thick is not None else (bands.high, bands.likely, bands.low)
        film, share = self.film_w_per_m2_k, self.fittings_share
        f, s = self.usual["film_w_per_m2_k"], self.usual["fittings_share"]
        films = (film, film, film) if film is not None else (f.low, f.likely, f.high)
        shares = (share, share, share) if share is not None else (s.low, s.likely, s.high)
        sizes = zip(t, (k.low, k.likely, k.high), films, shares, strict=True)
        values = [self._loss_of(volume, *row) for row in sizes]
        said = "" if thick is not None else "; its thickness is not said"
        return spread(values, f"insulation on its faces, {k.because}{said}")

    def _loss_of(self, volume: float, thick: float, k: float, film: float, share: float) -> float:
        faces = {
            "insulation_m": thick,
            "insulation_w_per_m_k": k,
            "film_w_per_m2_k": film,
        }
        if self.form == "box" and self.length_m and self.breadth_m and self.height_m:
            box = box_loss_w_per_k(
                length_m=self.length_m, width_m=self.breadth_m, height_m=self.height_m, **faces
            )
            return (1 + share) * box
        height = known_or(self.height_m, as_wide_as_tall_m(volume))
        side, end = cylinder_loss_w_per_k(
            volume_m3=volume, height_m=height, fittings_share=share, **faces
        )
        return side + 2 * end

    def lacking(self) -> Mapping[str, str]:
        """Name the ways to know the volume."""
        return {"volume_m3": "litres on the label, or the inside measures of a box",
                "loss_w_per_k": "its litres and its insulation",
                "body_j_per_k": "its litres"}  # fmt: skip


class Combi(Insulated):
    """One heater for cabin air and a small store of water."""

    kind: Literal["combi"] = "combi"
    title = "Combi heater"
    ports = (
        Port("inlet", "water"),
        Port("outlet", "water"),
        Port("drain", "fluid", needed=False),
        Port("gas", "gas", needed=False),
        Port("fuel", "fuel", needed=False),
        Port("air", "air", many=True, needed=False),
        power(),
    )
    printed = ("volume_m3", "rated_w", "fuel", "mains_w", "heats_in_s", "from_c", "to_c")
    turned = ("set_c", "water_first")
    needs = ("volume_m3", "heats_in_s")
    positions = ("ready", "off")
    caution = (
        "By what it burns: gas, flue and exhaust are work for licensed people. Fit a carbon "
        "monoxide alarm. Never run it without water unless its maker allows it."
    )
    usual = {
        **Insulated.usual,
        "body_j_per_k": usual(3500.0, 4500.0, 5500.0, "an aluminium body of about ten litres"),
        "cabin_share": usual(0.3, 0.6, 0.9, "in winter the cabin takes most"),
        "from_c": usual(12.0, 15.0, 15.0, "makers time it from mains water"),
        "to_c": usual(60.0, 60.0, 65.0, "makers time it to its usual setting"),
        "running_w": usual(8.0, 20.0, 45.0, "fan and electronics"),
        "loss_w_per_k": usual(1.0, 1.6, 2.4, "moulded foam with large openings"),
    }
    volume_m3: Volume | None = known("Water in it")
    rated_w: HeatPower | None = known("Heat on the label")
    fuel: Literal["propane", "butane", "diesel"] | None = known("Fuel", "Empty: mains only.")
    mains_w: Watts | None = known("On mains")
    heats_in_s: Annotated[Time, Field(gt=0)] | None = known(
        "Heats its water in", "The maker's time; cabin off."
    )
    from_c: Temperature | None = known("From")
    to_c: Temperature | None = known("To")
    set_c: Setting = Field(default=60.0, title="Set to")
    cabin_share: Share | None = known("Share to the cabin", "While both are wanted.")
    water_first: bool = Field(default=True, title="Water goes first")
    may_stand_empty: bool | None = known("May heat the cabin while empty")
    sealed: Sealing | None = known("Air and flue")
    gas_pa: Pressure | None = known("Gas pressure on the plate")
    gas_setting: GasSetting | None = known("Gas pressure screw")
    body_j_per_k: Capacity | None = known("Heat in its body")
    running_w: Watts | None = known("Electricity while running")

    def care(self) -> str:
        """Give the caution by what it burns."""
        if self.fuel == "diesel":
            return DIESEL_CAUTION
        return GAS_CAUTION if self.fuel is not None else ELECTRIC_CAUTION

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Guess the heating time where the maker's is not known, or the heat from that time."""
        if self.volume_m3 is None:
            return {}
        warming_j = (self.volume_m3 * 4.17e6 + 4500.0) * 45.0  # 15 → 60 °C with its body
        heat_w = known_or(self.rated_w, self.mains_w)
        if not heat_w:
            if self.heats_in_s is None or self.fuel is None:
                return {}
            burnt_w = warming_j / self.heats_in_s
            return {
                "rated_w": Band(
                    1.3 * burnt_w, 2.0 * burnt_w, 3.2 * burnt_w,
                    "twice what its water takes up in the maker's time: combis give water only "
                    "part of their heat",
                )
            }  # fmt: skip
        ideal = warming_j / heat_w
        return {
            "heats_in_s": Band(
                1.3 * ideal, 2.0 * ideal, 3.2 * ideal,
                "twice what the burner alone would take from 15 to 60 °C: combis give water only "
                "part of their heat; the maker's time is better",
            )
        }  # fmt: skip

    def lacking(self) -> Mapping[str, str]:
        """Name what the sheet says."""
        return {"volume_m3": "litres on the label", "heats_in_s": "the maker's heat-up time"}


class Canister(Insulated):
    """A short tube with an element in it: a little hot water at the tap."""

    kind: Literal["canister"] = "canister"
    title = "Canister"
    ports = (*through("water"), Port("relief", "fluid", needed=False))
    printed = ("tube_length_m", "tube_bore_m", "volume_m3", "nature", "metal", "board",
               "insulation_m")  # fmt: skip
    needs = ("volume_m3",)
    caution = "An element in an empty canister melts it: a cut-out of its own, and water first."
    usual = {
        **Insulated.usual,
        "loss_w_per_k": usual(0.1, 0.25, 0.5, "a short tube in foam sleeve"),
    }
    tube_length_m: Size | None = known("Tube length", "Inside, between its ends.")
    tube_bore_m: Bore | None = known("Tube inside diameter")
    volume_m3: Volume | None = known("Volume")
    nature: Literal["closed", "open to its spout"] = Field(
        default="closed",
        title="Closed or open",
        description="Open to its spout: the tap is before it, and nothing can shut it in.",
    )
    metal: Literal["stainless steel", "copper", "aluminium"] | None = known("Tube of")
    body_j_per_k: Capacity | None = known("Heat in its body")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Volume and body from the tube."""
        found: dict[str, Band] = {}
        volume = self.volume_m3
        if volume is None and self.tube_length_m is not None and self.tube_bore_m is not None:
            tube = pi / 4 * self.tube_bore_m**2 * self.tube_length_m
            found["volume_m3"] = Band(
                0.93 * tube, 0.97 * tube, tube, "length and inside diameter, less the element in it"
            )
            volume = found["volume_m3"].likely
        if volume is not None:
            found["body_j_per_k"] = about(4.5e5 * volume, 0.4, "tube wall and ends by its litres")
            measured = self._cooling(volume * 4.14e6)
            if measured is not None:
                found["loss_w_per_k"] = measured
        return found

    def lacking(self) -> Mapping[str, str]:
        """Name the ways to know the volume."""
        return {"volume_m3": "length and inside diameter of the tube, or its millilitres",
                "body_j_per_k": "the tube's measures"}  # fmt: skip


class SunContainer(HeatPart):
    """A container of water left in the sun."""

    kind: Literal["sun_container"] = "sun_container"
    title = "Sun-warmed container"
    ports = (*through("water"), Port("vent", "air", needed=False))
    printed = ("volume_m3", "face_m2", "dark")
    needs = ("volume_m3",)
    caution = "Feel the water first: a dark tube in high summer can reach 60 °C."
    usual = {
        "absorbed": usual(0.5, 0.7, 0.9, "dark plastic, dusty"),
        "loss_w_per_k": usual(2.0, 5.0, 9.0, "bare in moving air"),
    }
    volume_m3: Volume | None = known("Volume")
    face_m2: Area | None = known("Face to the sun")
    absorbed: Share | None = known("Sun it takes in")
    dark: bool = Field(default=True, title="Dark")
    loss_w_per_k: Loss | None = known("Loss to the air")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """The face it turns to the sun, by its litres."""
        if self.volume_m3 is None:
            return {}
        face = self.volume_m3 ** (2 / 3)
        return {"face_m2": Band(0.7 * face, face, 1.6 * face, "a cube of its litres, or flatter")}

    def lacking(self) -> Mapping[str, str]:
        """Name what to read or measure."""
        return {"volume_m3": "litres on the label", "face_m2": "its litres"}


class Kettle(HeatPart):
    """A kettle or pot on a stove: the honest baseline."""

    kind: Literal["kettle"] = "kettle"
    title = "Kettle"
    ports = ()
    printed = ("volume_m3", "stove_w", "boils_in_s")
    needs = ("volume_m3",)
    caution = "Boiling water is carried: pour cold first, hot into it, and keep children away."
    usual = {
        "stove_w": usual(800.0, 1500.0, 2500.0, "one ring of a camping stove"),
        "efficiency": usual(0.3, 0.45, 0.6, "pot on an open ring, out of the wind"),
    }
    volume_m3: Volume | None = known("Litres it takes")
    stove_w: HeatPower | None = known("Ring on the stove")
    fuel: Literal["propane", "butane", "mains", "battery", "spirit", "wood"] = Field(
        default="propane", title="Heated by"
    )
    efficiency: Annotated[Share, Field(gt=0)] | None = known("Reaches the water")
    boils_in_s: Annotated[Time, Field(gt=0)] | None = known("Boils in", "Timed, full.")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Time to the boil from the ring."""
        if self.volume_m3 is None:
            return {}
        ring = self.usual["stove_w"]
        watts = (ring.low, ring.likely, ring.high)
        if self.stove_w is not None:
            watts = (self.stove_w,) * 3
        share = self.usual["efficiency"]
        shares = (
            (self.efficiency,) * 3 if self.efficiency else (share.low, share.likely, share.high)
        )
        heat = self.volume_m3 * HEAT_J_PER_M3_K * 85.0  # 15 → 100 °C
        slow, likely, fast = (heat / (w * s) for w, s in zip(watts, shares, strict=True))
        return {"boils_in_s": Band(fast, likely, slow, "85 K by ring and share that gets in")}

    def lacking(self) -> Mapping[str, str]:
        """Name what to measure."""
        return {"volume_m3": "litres it takes", "boils_in_s": "litres it takes"}
