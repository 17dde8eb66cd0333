"""Heat: stores, through-flow heaters, liquid and air heaters, what heats and guards them."""

from __future__ import annotations

from collections.abc import Mapping
from math import log, pi
from typing import Annotated, Literal

from pydantic import Field

from isotherma.core import water
from isotherma.core.fields import (
    Area,
    BodyLoss,
    Bore,
    Capacity,
    Clock,
    Conductance,
    Conductivity,
    Count,
    Current,
    Difference,
    Film,
    Flow,
    HeatPower,
    Height,
    Hours,
    Hysteresis,
    Length,
    Loss,
    PartRef,
    Power,
    Pressure,
    Resistance,
    RiseOf,
    Seconds,
    Setting,
    Share,
    Size,
    StartEnergy,
    Temperature,
    Thickness,
    Time,
    TubeLength,
    Voltage,
    Volume,
    Watts,
    known,
    known_or,
)
from isotherma.core.system.pieces import (
    LITRE,
    LITRE_PER_MIN,
    Around,
    Band,
    PartBase,
    Port,
    Switchable,
    about,
    certain,
    power,
    present,
    spread,
    through,
    usual,
)
from isotherma.core.thermal.store import box_loss_w_per_k, cylinder_loss_w_per_k

Fuel = Literal["propane", "butane", "diesel", "petrol"]
Board = Literal["rigid foam", "polystyrene", "rubber foam", "wool", "cork", "vacuum panel"]
# conductivity low, likely, high [W/mK] of boards as sold: EN ISO 10456 table and makers' ranges
BOARDS: Mapping[Board, tuple[float, float, float]] = {
    "rigid foam": (0.022, 0.024, 0.028),
    "polystyrene": (0.030, 0.035, 0.040),
    "rubber foam": (0.034, 0.038, 0.042),
    "wool": (0.033, 0.038, 0.045),
    "cork": (0.038, 0.042, 0.050),
    "vacuum panel": (0.005, 0.007, 0.012),
}
ELECTRIC_CAUTION = (
    "Mains wiring, its earth, residual-current protection and isolator are work for a licensed "
    "electrician; check the current local rules."
)
GAS_CAUTION = (
    "Gas pipe, flue and first fire are work for a licensed gas fitter. Fit a carbon monoxide "
    "alarm. Never run it without water."
)
DIESEL_CAUTION = (
    "Exhaust, its lagging and first fire are work for the trade. Fit a carbon monoxide alarm; "
    "never cut its supply before its after-run, and never run it without water unless its maker "
    "allows it."
)
COOLANT_CAUTION = (
    "Coolant is under pressure and scalds when hot: open it cold, and never join it to drinking "
    "water."
)


class HeatPart(PartBase):
    """A part that makes, keeps or passes heat."""

    side = "heat"


class Source(HeatPart):
    """What elements and burners share: a thermostat, and the hours in which it may run."""

    positions = ("ready", "off")
    sits_in = ("store", "combi", "canister", "sun_container")
    usual = {
        "hysteresis_k": usual(2.0, 4.0, 8.0, "mechanical thermostats of small stores"),
        "sensor_share": usual(0.1, 0.3, 0.7, "a pocket in the lower half"),
        "sensor_lag_s": usual(15.0, 30.0, 60.0, "a sensor strapped on; a pocket is slower"),
    }
    set_c: Setting = Field(default=65.0, title="Thermostat set to")
    hysteresis_k: Hysteresis | None = known("Comes on again after a fall of")
    sensor_share: Share | None = known("Sensor height", "Share of the store's height.")
    sensor_lag_s: Seconds | None = known("Sensor lag")
    window_start_s: Clock = Field(default=0.0, title="May run from")
    window_end_s: Clock = Field(
        default=0.0, title="May run until", description="Equal to “from”: all day."
    )
    rule: Literal["always", "on hook-up", "while driving", "surplus sun", "when switched on"] = (
        Field(default="always", title="Runs")
    )


def _known_store(around: Around) -> tuple[float, float, float] | None:
    """Capacity [J/K], loss [W/K] and surroundings [°C] of the store something sits in."""
    host = around.host
    volume_m3 = getattr(host, "volume_m3", None)
    if host is None or volume_m3 is None:
        return None
    inside = host.worked_out(Around())
    body = getattr(host, "body_j_per_k", None)
    if body is None:
        band = inside.get("body_j_per_k") or host.usual.get("body_j_per_k")
        body = band.likely if band else 0.0
    loss = getattr(host, "loss_w_per_k", None)
    if loss is None:
        band = inside.get("loss_w_per_k")
        loss = band.likely if band else 0.0
    capacity = volume_m3 * water.density_kg_per_m3(20.0)
    capacity *= water.mean_specific_heat_j_per_kg_k(10.0, 60.0)
    return capacity + body, loss, 18.0


class Element(Source):
    """An electric heating element in a store, on mains or on battery voltage."""

    kind: Literal["element"] = "element"
    title = "Element"
    ports = (power(),)
    printed = ("rated_w", "rated_v", "supply_v", "resistance_ohm", "heats_in_s", "from_c", "to_c",
               "set_c", "power_w")  # fmt: skip
    needs = ("power_w",)
    caution = ELECTRIC_CAUTION
    usual = {**Source.usual, "height_share": usual(0.05, 0.1, 0.3, "near the bottom")}
    power_w: Power | None = known("Element power", "That reaches the water.")
    rated_w: Power | None = known("Watts on the label")
    rated_v: Voltage | None = known("At volts on the label")
    supply_v: Voltage | None = known("Volts it gets", "Empty: those on the label.")
    resistance_ohm: Resistance | None = known("Resistance", "Measured across its ends, cold.")
    heats_in_s: Annotated[Time, Field(gt=0)] | None = known(
        "Heats the store in", "Timed, nothing drawn."
    )
    from_c: Temperature | None = known("From")
    to_c: Temperature | None = known("To")
    height_share: Share | None = known("Element height", "Share of the store's height.")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Watts from the label, from ohms, or from the time a known store took."""
        printed_v = known_or(self.rated_v, around.volts_v)
        volts = known_or(self.supply_v, printed_v)
        if self.rated_w is not None:
            if self.supply_v is not None and self.rated_v is not None:
                scaled = self.rated_w * (self.supply_v / self.rated_v) ** 2
                return {"power_w": about(scaled, 0.05, "watts on the label, by volts squared")}
            return {"power_w": about(self.rated_w, 0.05, "watts on the label, ±5 % as made")}
        if self.resistance_ohm is not None and volts is not None:
            watts = volts**2 / self.resistance_ohm
            return {"power_w": about(watts, 0.07, "volts squared over ohms; wires take some")}
        store = _known_store(around)
        timed = self.heats_in_s and self.from_c is not None and self.to_c is not None
        if timed and store is not None and self.from_c is not None and self.to_c is not None:
            capacity, loss, air_c = store
            rise_k = self.to_c - self.from_c
            watts = capacity * rise_k / (known_or(self.heats_in_s, 1.0))
            watts += loss * ((self.from_c + self.to_c) / 2 - air_c)
            if watts > 0:
                return {
                    "power_w": about(
                        watts, 0.12,
                        "heat into the store's water and body in the time it took, and its loss "
                        "on the way; a thermometer and a clock leave about 12 %",
                    )
                }  # fmt: skip
        return {}

    def lacking(self) -> Mapping[str, str]:
        """Name the ways to know the watts."""
        return {"power_w": "watts on the label, or ohms, or the time it took to heat the store"}


class Burner(Source):
    """A gas or diesel burner below a store."""

    kind: Literal["burner"] = "burner"
    title = "Burner"
    ports = (Port("gas", "gas", needed=False), power())
    printed = ("rated_w", "rating", "basis", "fuel", "set_c", "gas_pa", "input_w")
    needs = ("input_w",)
    caution = GAS_CAUTION
    usual = {
        **Source.usual,
        "efficiency": usual(0.72, 0.8, 0.86, "small burners under a store, of the net heat"),
    }
    input_w: HeatPower | None = known("Burner input", "Net.")
    rated_w: HeatPower | None = known("Power on the plate")
    rating: Literal["input", "output"] | None = known("The plate means")
    basis: Literal["net", "gross"] | None = known("Counted")
    efficiency: Annotated[Share, Field(gt=0)] | None = known("Reaches the water")
    fuel: Literal["propane", "butane"] = Field(default="propane", title="Gas")
    gas_pa: Pressure | None = known("Gas pressure on the plate")
    sealed: Literal["room sealed", "open flue", "flueless"] = Field(
        default="room sealed", title="Air and flue"
    )

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Net input from what the plate says."""
        if self.rated_w is None:
            return {}
        share = known_or(self.efficiency, self.usual["efficiency"].likely)
        return {"input_w": net_input(self.rated_w, self.rating, self.basis, self.fuel, share)}

    def lacking(self) -> Mapping[str, str]:
        """Name what the plate says."""
        return {"input_w": "kilowatts or BTU/h on the plate"}


# gross over net heating value, from the pairs in MJ/kg: 50.33/46.34, 49.51/45.72; diesel, petrol
GROSS_OVER_NET: Mapping[Fuel, float] = {
    "propane": 1.086,
    "butane": 1.083,
    "diesel": 1.066,
    "petrol": 1.070,
}


def net_input(
    rated_w: float, rating: str | None, basis: str | None, fuel: Fuel, efficiency: float
) -> Band:
    """Net input from a plate that may mean input or output, net or gross.

    Parameters
    ----------
    rated_w : float
        Power on the plate, > 0. [W]
    rating, basis : str or None
        "input" or "output", "net" or "gross"; None when the plate does not say. [-]
    fuel : str
        Decides gross over net. [-]
    efficiency : float
        Share of the net input that reaches the water. [-]

    Returns
    -------
    Band
        Net input; wide where the plate leaves it open. [W]
    """
    ratio = GROSS_OVER_NET[fuel]
    lows, highs, words = rated_w, rated_w, []
    likely = rated_w
    if rating == "output":
        lows, likely, highs = (rated_w / efficiency for _ in range(3))
        words.append(f"output over {efficiency:.0%} efficiency")
    elif rating is None:
        highs = rated_w / efficiency
        words.append("taken as input, since plates name input more often than output")
    else:
        words.append("input as the plate says")
    if basis == "gross" and rating != "output":
        lows, likely, highs = lows / ratio, likely / ratio, highs / ratio
        words.append(f"gross heat over {ratio:.3f} for {fuel}")
    elif basis is None and rating != "output":
        lows /= ratio
        words.append("taken as net; it may be gross")
    return Band(lows, likely, highs, "; ".join(words))


class Insulated(HeatPart):
    """A vessel in insulation: what it loses by board and thickness, or as measured."""

    usual = {
        "film_w_per_m2_k": usual(4.0, 8.0, 10.0, "still air on a bare surface; foil-faced about 4"),
        "fittings_share": usual(0.05, 0.2, 0.5, "pipes and straps through the insulation"),
    }
    board: Board | None = known("Insulated with")
    insulation_m: Thickness | None = known("Its thickness")
    insulation_w_per_m_k: Conductivity | None = known("Its conductivity")
    film_w_per_m2_k: Film | None = known("Surface film")
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

    def _through(self, area_loss: Mapping[str, float]) -> Band:
        words = f"{self.insulation_m or 0:.3g} m of {self.board or 'insulation'}"
        return Band(area_loss["low"], area_loss["likely"], area_loss["high"], words)


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
    jet_share: Share | None = known("Inlet jet mixed")
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
            a, b, c = (side or 0.0 for side in sides)
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
        height = known_or(self.height_m, (4 * volume / pi) ** (1 / 3))
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
    may_stand_empty: bool = Field(default=True, title="May heat the cabin while empty")
    body_j_per_k: Capacity | None = known("Heat in its body")
    running_w: Watts | None = known("Electricity while running")

    def care(self) -> str:
        """Give the caution by what it burns."""
        if self.fuel == "diesel":
            return DIESEL_CAUTION
        return GAS_CAUTION if self.fuel is not None else ELECTRIC_CAUTION

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Guess the heating time where the maker's is not known."""
        if self.volume_m3 is None or not known_or(self.rated_w, self.mains_w or 0.0):
            return {}
        heat_w = known_or(self.rated_w, self.mains_w or 0.0)
        ideal = (self.volume_m3 * 4.17e6 + 4500.0) * 45.0 / heat_w  # 15 → 60 °C with its body
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


class ThroughFlow(HeatPart):
    """What heaters without a store share: heat by flow and rise, and the flow they light at."""

    positions = ("ready", "off")
    usual = {
        "on_flow_m3_per_s": usual(
            2.0 * LITRE_PER_MIN, 2.5 * LITRE_PER_MIN, 3.2 * LITRE_PER_MIN, "flow switches differ"
        ),
        "off_flow_m3_per_s": usual(
            1.5 * LITRE_PER_MIN, 2.0 * LITRE_PER_MIN, 2.7 * LITRE_PER_MIN, "a little under its on"
        ),
        "body_j_per_k": usual(2000.0, 2700.0, 3500.0, "a copper exchanger with its water"),
        "loss_w_per_k": usual(0.5, 1.0, 2.0, "a small exchanger in its case"),
        "pressure_loss_pa_at_5": usual(1e4, 3e4, 8e4, "a coiled exchanger at 5 L/min"),
    }
    heat_w: HeatPower | None = known("Heat to the water", "At full fire.")
    rated_flow_m3_per_s: Flow | None = known("Litres per minute on the box")
    rated_rise_k: RiseOf | None = known("At a rise of", "Empty: the box does not say.")
    on_flow_m3_per_s: Flow | None = known("Comes on at")
    off_flow_m3_per_s: Flow | None = known("Goes off below")
    body_j_per_k: Capacity | None = known("Heat in its body")
    loss_w_per_k: BodyLoss | None = known("Its body loses", "To the air around it.")
    control_by: Literal["outlet sensor", "feed-forward"] = Field(
        default="outlet sensor",
        title="Fire follows",
        description="A sensor at its outlet gives full fire until the water is warm; "
        "feed-forward goes by flow and cold water alone and does not know a cold body.",
    )
    pressure_loss_pa_at_5: Pressure | None = known("Takes of the pressure", "At 5 L/min.")

    def _by_flow(self) -> Band | None:
        if self.rated_flow_m3_per_s is None:
            return None
        per_k = self.rated_flow_m3_per_s * 1000.0 * 4185.0  # ρc near 25 °C [W/K]
        if self.rated_rise_k is not None:
            return about(per_k * self.rated_rise_k, 0.03, "flow and rise on the box")
        return Band(
            20.0 * per_k, 25.0 * per_k, 30.0 * per_k,
            "litres per minute without a rise: boxes mean about 25 K, some 20, some 30",
        )  # fmt: skip


class ThroughFlowGas(ThroughFlow):
    """A gas heater without a store: thermostatic, or with a gas knob and a water knob."""

    kind: Literal["through_flow_gas"] = "through_flow_gas"
    title = "Through-flow gas heater"
    ports = (*through("water"), Port("gas", "gas", needed=False), power())
    printed = ("rated_flow_m3_per_s", "rated_rise_k", "rated_w", "rating", "basis", "fuel",
               "control", "set_c", "gas_pa", "sealed")  # fmt: skip
    needs = ("heat_w",)
    caution = GAS_CAUTION
    usual = {
        **ThroughFlow.usual,
        "efficiency": usual(0.78, 0.84, 0.88, "small instantaneous burners, of the net heat"),
        "sense_s": usual(0.3, 0.5, 1.0, "flow switch"),
        "light_s": usual(1.0, 2.0, 5.0, "spark to flame; fan-flued ones purge first"),
        "ramp_s": usual(3.0, 5.0, 8.0, "to full fire"),
        "summer_share": usual(0.5, 0.6, 0.75, "the seasonal switch takes a burner segment out"),
    }
    rated_w: HeatPower | None = known("Power on the plate", "kW or BTU/h.")
    rating: Literal["input", "output"] | None = known("The plate means")
    basis: Literal["net", "gross"] | None = known("Counted")
    efficiency: Annotated[Share, Field(gt=0)] | None = known("Reaches the water")
    input_w: HeatPower | None = known("Net input", "At full fire.")
    least_w: HeatPower | None = known("Heat at its lowest fire")
    fuel: Literal["propane", "butane"] = Field(default="propane", title="Gas")
    control: Literal["thermostatic", "two knobs"] = Field(default="thermostatic", title="Kept by")
    set_c: Setting = Field(default=42.0, title="Set to", description="A thermostatic one.")
    gas_share: Share = Field(default=1.0, title="Gas knob", description="Share of full fire.")
    season: Literal["winter", "summer"] = Field(default="winter", title="Seasonal switch")
    summer_share: Share | None = known("Fire left in summer")
    limit_c: Temperature | None = known("Limit cut-out")
    gas_pa: Pressure | None = known("Gas pressure on the plate")
    sealed: Literal["room sealed", "open flue", "flueless"] | None = known("Air and flue")
    ignition: Literal["cells", "vehicle supply", "mains"] | None = known("Sparks from")
    sense_s: Seconds | None = known("Senses flow in")
    light_s: Seconds | None = known("Lights in")
    ramp_s: Seconds | None = known("Ramps up in")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Heat to the water from litres per minute or from the plate."""
        share = self.efficiency or self.usual["efficiency"].likely
        heat = self._by_flow()
        net = None
        if self.rated_w is not None:
            net = net_input(self.rated_w, self.rating, self.basis, self.fuel, share)
            if heat is None:
                heat = Band(net.low * 0.93 * share, net.likely * share, net.high * share,
                            f"{net.because}; times {share:.0%} that reaches the water")  # fmt: skip
        if net is None and (heat is not None or self.heat_w is not None):
            likely = known_or(self.heat_w, heat.likely if heat else 0.0)
            given = self.heat_w is not None
            low, high = (heat.low, heat.high) if heat and not given else (likely, likely)
            net = Band(low / share, likely / share, high / share, f"heat over {share:.0%}")
        least = None
        top = known_or(self.heat_w, heat.likely if heat else None)
        if top is not None:
            shares = (0.18, 0.3, 0.45) if self.control == "thermostatic" else (0.35, 0.5, 0.7)
            least = spread((top * part for part in shares), "burners turn down to about a third")
        return present([("heat_w", heat), ("input_w", net), ("least_w", least)])

    def lacking(self) -> Mapping[str, str]:
        """Name what box and plate say."""
        words = "litres per minute on the box, or kW or BTU/h on the plate"
        return {"heat_w": words, "input_w": words, "least_w": words}


class ThroughFlowElectric(ThroughFlow):
    """An electric heater without a store, on mains."""

    kind: Literal["through_flow_electric"] = "through_flow_electric"
    title = "Through-flow electric heater"
    ports = (*through("water"), power(needed=True))
    printed = ("rated_w", "rated_v", "rated_flow_m3_per_s", "rated_rise_k", "set_c")
    needs = ("heat_w",)
    caution = ELECTRIC_CAUTION
    usual = {
        **ThroughFlow.usual,
        "body_j_per_k": usual(300.0, 600.0, 1200.0, "a small cell"),
        "loss_w_per_k": usual(0.1, 0.3, 0.6, "a small cell"),
    }
    rated_w: HeatPower | None = known("Watts on the label")
    rated_v: Voltage | None = known("At volts on the label")
    set_c: Setting | None = known("Set to", "Empty: all its power all the time.")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Heat from watts, or from litres per minute."""
        if self.rated_w is not None:
            return {"heat_w": about(self.rated_w, 0.05, "all its watts reach the water")}
        return present([("heat_w", self._by_flow())])

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"heat_w": "watts on the label"}


class LiquidHeater(HeatPart):
    """A diesel or petrol heater that warms a coolant loop."""

    kind: Literal["liquid_heater"] = "liquid_heater"
    title = "Liquid heater"
    ports = (*through("primary"), Port("fuel", "fuel", needed=False), power(needed=True))
    printed = ("rated_w", "fuel", "running_w", "set_c")
    needs = ("heat_w",)
    positions = ("ready", "off")
    caution = (
        COOLANT_CAUTION + " Exhaust and first fire are work for the trade; never cut its "
        "supply before its after-run."
    )
    usual = {
        "least_share": usual(0.3, 0.4, 0.5, "lowest fire, then it cycles"),
        "flame_s": usual(60.0, 100.0, 150.0, "glow and light"),
        "glow_a": usual(8.0, 9.0, 10.0, "glow pin at 12 V for about 75 s"),
        "after_run_s": usual(120.0, 150.0, 200.0, "burns out and cools"),
        "firing_j": usual(12 * 3600.0, 15 * 3600.0, 18 * 3600.0, "each start, at 12 V"),
        "efficiency": usual(0.78, 0.83, 0.88, "of the net heat in the fuel"),
        "running_w": usual(25.0, 40.0, 70.0, "fan, fuel pump and water pump"),
        "trip_v": usual(10.2, 10.5, 11.0, "at its own terminals"),
    }
    rated_w: HeatPower | None = known("kW on the label")
    heat_w: HeatPower | None = known("Heat to the coolant")
    fuel: Literal["diesel", "petrol"] = Field(default="diesel", title="Fuel")
    set_c: Setting = Field(default=75.0, title="Coolant held at")
    least_share: Share | None = known("Lowest fire")
    efficiency: Annotated[Share, Field(gt=0)] | None = known("Reaches the coolant")
    flame_s: Seconds | None = known("To flame")
    glow_a: Current | None = known("Glow current")
    after_run_s: Seconds | None = known("After-run")
    firing_j: StartEnergy | None = known("Electricity per start")
    running_w: Watts | None = known("Electricity while running")
    trip_v: Voltage | None = known("Gives up below")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Labels of liquid heaters name output."""
        if self.rated_w is None:
            return {}
        return {
            "heat_w": Band(
                0.9 * self.rated_w,
                self.rated_w,
                self.rated_w,
                "labels of liquid heaters name heat given to the coolant",
            )
        }

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"heat_w": "kilowatts on the label"}


class AirHeater(HeatPart):
    """A diesel or gas heater that blows hot air."""

    kind: Literal["air_heater"] = "air_heater"
    title = "Air heater"
    ports = (Port("outlet", "air"), Port("fuel", "fuel", needed=False),
             Port("gas", "gas", needed=False), power())  # fmt: skip
    printed = ("rated_w", "fuel", "running_w")
    needs = ("heat_w",)
    positions = ("ready", "off")
    caution = (
        "Keep its exhaust and hot air clear of pipes, cables and bedding; never cut its "
        "supply before its after-run."
    )
    usual = {
        "outlet_c": usual(70.0, 95.0, 120.0, "at its grille on full"),
        "running_w": usual(10.0, 25.0, 40.0, "fan and fuel pump"),
        "flame_s": usual(60.0, 100.0, 180.0, "glow and light"),
        "after_run_s": usual(120.0, 180.0, 240.0, "burns out and cools"),
    }
    rated_w: HeatPower | None = known("kW on the label")
    heat_w: HeatPower | None = known("Heat to the air")
    fuel: Literal["diesel", "petrol", "propane"] = Field(default="diesel", title="Fuel")
    outlet_c: Temperature | None = known("Air at its outlet")
    running_w: Watts | None = known("Electricity while running")
    flame_s: Seconds | None = known("To flame")
    after_run_s: Seconds | None = known("After-run")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Copies of copies: labels of air heaters promise more than they give."""
        if self.rated_w is None:
            return {}
        return {"heat_w": Band(0.6 * self.rated_w, 0.85 * self.rated_w, self.rated_w,
                               "labels of air heaters are often rounded up")}  # fmt: skip

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"heat_w": "kilowatts on the label"}


class AirDiverter(Switchable):
    """A flap that sends hot air to the cabin or over a coil."""

    kind: Literal["air_diverter"] = "air_diverter"
    side = "heat"
    title = "Hot-air diverter"
    passes = {
        "cabin": (("inlet", "cabin"),),
        "coil": (("inlet", "coil"),),
        "both": (("inlet", "cabin"), ("inlet", "coil")),
    }
    ports = (Port("inlet", "air"), Port("cabin", "air", needed=False), Port("coil", "air"))
    positions = ("cabin", "coil", "both")
    usual = {"leak_share": usual(0.02, 0.08, 0.2, "a home-made flap")}
    leak_share: Share | None = known("Leaks past the flap")


class AirCoil(HeatPart):
    """A finned coil in hot air that warms water."""

    kind: Literal["air_coil"] = "air_coil"
    title = "Air-over-water coil"
    ports = (Port("air", "air"), *through("fluid"))
    usual = {
        "conductance_w_per_k": usual(20.0, 40.0, 60.0, "an oil-cooler sized finned coil"),
        "pressure_loss_pa_at_5": usual(4e3, 1e4, 3e4, "parallel tubes of a small cooler"),
    }
    conductance_w_per_k: Conductance | None = known("Conductance")
    pressure_loss_pa_at_5: Pressure | None = known("Takes of the pressure", "At 5 L/min.")


class EngineCoolant(HeatPart):
    """The engine's coolant, hot while driving and for a while after."""

    kind: Literal["engine_coolant"] = "engine_coolant"
    title = "Engine coolant"
    ports = through("primary")
    printed = ("coolant_c", "heat_w", "tail_s")
    caution = COOLANT_CAUTION
    usual = {
        "coolant_c": usual(75.0, 85.0, 92.0, "thermostats of engines"),
        "heat_w": usual(2000.0, 5000.0, 9000.0, "what a heater branch gives at cruising"),
        "tail_s": usual(600.0, 1500.0, 3000.0, "an engine block stays hot for about half an hour"),
        "flow_m3_per_s": usual(
            3 * LITRE_PER_MIN, 8 * LITRE_PER_MIN, 15 * LITRE_PER_MIN, "the heater branch"
        ),
    }
    coolant_c: Setting | None = known("Coolant at")
    heat_w: HeatPower | None = known("Heat it spares")
    tail_s: Time | None = known("Hot after stopping for")
    flow_m3_per_s: Flow | None = known("Flow of the branch")
    drive_start_s: Clock = Field(default=9 * 3600.0, title="Drives from")
    drive_s: Hours = Field(default=3600.0, title="Drives for")


class Coil(HeatPart):
    """A coil in a store through which coolant, or drinking water, passes."""

    kind: Literal["coil"] = "coil"
    title = "Coil"
    ports = through("fluid")
    printed = ("length_m", "outside_m", "conductance_w_per_k")
    sits_in = ("store", "combi", "sun_container")
    usual = {
        "low_share": usual(0.0, 0.05, 0.2, "its lower end near the bottom"),
        "high_share": usual(0.3, 0.5, 0.8, "half way up"),
    }
    length_m: TubeLength | None = known("Length of tube")
    outside_m: Bore | None = known("Outside diameter of the tube")
    conductance_w_per_k: Conductance | None = known("Conductance", "At a difference of 20 K.")
    low_share: Share | None = known("Lower end", "Share of the store's height.")
    high_share: Share | None = known("Upper end", "Share of the store's height.")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Conductance from the tube's outside area; 6 m of 12 mm is 150 W/K at 20 K."""
        if self.length_m is None:
            return {"conductance_w_per_k": Band(70.0, 150.0, 300.0, "no length said; about 6 m")}
        area = pi * (known_or(self.outside_m, 0.012)) * self.length_m
        likely = 150.0 * area / (pi * 0.012 * 6.0)
        return {"conductance_w_per_k": Band(likely / 1.5, likely, likely / 0.6,
                                            "outside area of the tube, still water")}  # fmt: skip


class PlateExchanger(HeatPart):
    """A plate exchanger: one liquid warms another, nothing is stored."""

    kind: Literal["plate_exchanger"] = "plate_exchanger"
    title = "Plate exchanger"
    passes = {"": (("hot_in", "hot_out"), ("cold_in", "cold_out"))}
    ports = (Port("hot_in", "fluid"), Port("hot_out", "fluid"),
             Port("cold_in", "fluid"), Port("cold_out", "fluid"))  # fmt: skip
    printed = ("plates", "rated_w", "rated_difference_k")
    usual = {
        "pressure_loss_pa_at_5": usual(2e3, 5e3, 15e3, "small brazed exchangers, each side"),
    }
    plates: Count | None = known("Plates")
    rated_w: HeatPower | None = known("Power on the label")
    rated_difference_k: Difference | None = known("At a mean difference of")
    conductance_w_per_k: Conductance | None = known("Conductance")
    pressure_loss_pa_at_5: Pressure | None = known(
        "Takes of the pressure", "Each side, at 5 L/min."
    )
    double_wall: bool = Field(default=False, title="Double wall")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Conductance from the label, or by the number of plates."""
        name = "conductance_w_per_k"
        if self.rated_w is not None and self.rated_difference_k:
            ua = self.rated_w / self.rated_difference_k
            return {name: Band(0.6 * ua, 0.8 * ua, ua, "label power over its mean difference")}
        if self.plates:
            return {name: about(50.0 * self.plates, 0.4, "about 50 W/K for each small plate")}
        return {name: Band(600.0, 900.0, 1500.0, "small brazed exchangers for taps")}


class HeatPad(HeatPart):
    """A heating mat that keeps a tank or pipe from freezing."""

    kind: Literal["heat_pad"] = "heat_pad"
    title = "Heat pad"
    ports = (power(),)
    printed = ("power_w", "on_c", "off_c")
    needs = ("power_w",)
    positions = ("ready", "off")
    usual = {
        "on_c": usual(2.0, 5.0, 8.0, "bimetal switches of pads"),
        "off_c": usual(8.0, 12.0, 20.0, "bimetal switches of pads"),
    }
    power_w: Power | None = known("Watts on the label")
    on_c: Temperature | None = known("Comes on below")
    off_c: Temperature | None = known("Goes off above")

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"power_w": "watts on the label"}


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

    def lacking(self) -> Mapping[str, str]:
        """Name what to read or measure."""
        return {"volume_m3": "litres on the label"}


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
        heat = self.volume_m3 * 4.18e6 * 85.0  # 15 → 100 °C
        slow, likely, fast = (heat / (w * s) for w, s in zip(watts, shares, strict=True))
        return {"boils_in_s": Band(fast, likely, slow, "85 K by ring and share that gets in")}

    def lacking(self) -> Mapping[str, str]:
        """Name what to measure."""
        return {"volume_m3": "litres it takes", "boils_in_s": "litres it takes"}


class Thermostat(HeatPart):
    """A thermostat of its own that switches elements, burners or pumps."""

    kind: Literal["thermostat"] = "thermostat"
    title = "Thermostat"
    ports = (power(),)
    printed = ("set_c", "hysteresis_k")
    usual = {
        "hysteresis_k": usual(2.0, 4.0, 8.0, "mechanical ones"),
        "sensor_lag_s": usual(15.0, 30.0, 60.0, "strapped on"),
    }
    set_c: Setting = Field(default=60.0, title="Set to")
    hysteresis_k: Hysteresis | None = known("Comes on again after a fall of")
    sensor_share: Share | None = known("Sensor height", "Share of the store's height.")
    sensor_lag_s: Seconds | None = known("Sensor lag")
    switches: PartRef | None = known("Switches", "The element, burner or pump it runs.")


class HighLimit(HeatPart):
    """An independent cut-out against overheating."""

    kind: Literal["high_limit"] = "high_limit"
    title = "Thermal cut-out"
    printed = ("opens_c", "resets")
    usual = {"opens_c": usual(75.0, 85.0, 95.0, "printed on its body")}
    opens_c: Temperature | None = known("Opens at")
    resets: Literal["by hand", "by itself", "once only"] = Field(default="by hand", title="Resets")
    guards: PartRef | None = known("Guards", "The element or burner it cuts.")


class Interlock(HeatPart):
    """A switch that stops heat where there is no water or no flow."""

    kind: Literal["interlock"] = "interlock"
    title = "Water interlock"
    ports = (Port("inlet", "fluid", needed=False), Port("outlet", "fluid", needed=False), power())
    printed = ("senses", "trips_at_share", "trips_at_m3_per_s")
    senses: Literal["level", "flow", "pressure"] = Field(default="level", title="Senses")
    trips_at_share: Share | None = known("Trips at a level of", "Share of the tank's height.")
    trips_at_m3_per_s: Flow | None = known("Trips below a flow of")
    guards: PartRef | None = known("Guards", "The element, burner or pump it stops.")
    fails: Literal["stops the heat", "lets it run"] | None = known("When it fails it")


class Flue(HeatPart):
    """The duct that takes burnt gas out and, room-sealed, brings air in."""

    kind: Literal["flue"] = "flue"
    title = "Flue"
    printed = ("length_m", "bore_m", "room_sealed")
    caution = (
        "Flue work is for a licensed fitter; a loose joint fills the living space with "
        "carbon monoxide."
    )
    length_m: Length | None = known("Length")
    bore_m: Bore | None = known("Bore")
    room_sealed: bool = Field(default=True, title="Room sealed")
    rise_m: Height | None = known("Rises by")
    lagged: bool = Field(default=False, title="Lagged")


class Terminal(HeatPart):
    """Where the flue or exhaust ends outside."""

    kind: Literal["terminal"] = "terminal"
    title = "Flue terminal"
    printed = ("wall", "to_opening_m", "to_filler_m")
    caution = "Burnt gas must not drift back in: keep it clear of windows, vents and the filler."
    wall: Literal["side", "roof", "floor", "rear"] | None = known("Through")
    to_opening_m: Height | None = known("To the nearest window or vent")
    to_filler_m: Height | None = known("To the fuel filler")


class FuelTank(HeatPart):
    """The diesel or petrol a heater burns: the vehicle's own tank, or one apart."""

    kind: Literal["fuel_tank"] = "fuel_tank"
    title = "Fuel tank"
    ports = (Port("outlet", "fuel", many=True),)
    printed = ("volume_m3", "kept_m3", "fuel")
    needs = ("volume_m3",)
    caution = (
        "Fuel and its vapour burn: take the pickup with the tank low, outdoors, no flame near."
    )
    usual = {"kept_m3": usual(5 * LITRE, 10 * LITRE, 20 * LITRE, "the pickup stands off the floor")}
    volume_m3: Volume | None = known("Volume")
    kept_m3: Volume | None = known("Kept for driving", "The pickup does not reach it.")
    fuel: Literal["diesel", "petrol"] = Field(default="diesel", title="Fuel")

    def lacking(self) -> Mapping[str, str]:
        """Name what the handbook of the vehicle says."""
        return {"volume_m3": "litres in the vehicle's papers"}


HeatKind = (
    Element | Burner | Store | Combi | Canister | ThroughFlowGas | ThroughFlowElectric
    | LiquidHeater | AirHeater | AirDiverter | AirCoil | EngineCoolant | Coil | PlateExchanger
    | HeatPad | SunContainer | Kettle | Thermostat | HighLimit | Interlock | Flue | Terminal
    | FuelTank
)  # fmt: skip
