"""The usual route as a document: parts and runs to start a design from."""

from __future__ import annotations

from isotherma.core.system import Pipe, System
from isotherma.core.system.kinds import AnyKind
from isotherma.core.system.kinds.heat import Burner, Element, HighLimit, Store
from isotherma.core.system.kinds.temperature import ThermostaticMixer
from isotherma.core.system.kinds.use import ShowerHead
from isotherma.core.system.kinds.water import (
    Accumulator,
    CheckValve,
    FreshTank,
    Pump,
    Relief,
    ShutOff,
    Split,
    Strainer,
)
from isotherma.core.system.pieces import BAR, LITRE_PER_MIN
from isotherma.core.system.vehicle import Space


def join(run_id: str, name: str, start: str, end: str, **values: object) -> Pipe:
    """Make a pipe between "part.port" and "part.port".

    Parameters
    ----------
    run_id, name : str
        Its id and name. [-]
    start, end : str
        Part id and port name, with a point between. [-]
    values : object
        Properties of the pipe, by name. [SI]

    Returns
    -------
    Pipe
        The run. [-]

    Raises
    ------
    pydantic.ValidationError
        If a property does not fit.
    """
    first, first_port = start.split(".")
    last, last_port = end.split(".")
    data = {
        "id": run_id,
        "name": name,
        "start": {"part": first, "port": first_port},
        "end": {"part": last, "port": last_port},
        **values,
    }
    return Pipe.model_validate(data)


LIVING = Space(id="living", name="Living space", warmth="heated")
BELOW = Space(id="below", name="Below the floor", warmth="slung")


def usual_route(
    *,
    tank_m3: float | None = None,
    store_m3: float | None = None,
    element: Element | None = None,
    burner: Burner | None = None,
    outside_tank: bool = False,
) -> System:
    """Lay the route most people build: one pump, one store, one mixer, one shower.

    The store has its relief valve, and every source a cut-out of its own.

    Parameters
    ----------
    tank_m3, store_m3 : float or None
        Usable tank and store volumes; None leaves them unknown. [m³]
    element : Element or None
        Mains element of the store. [-]
    burner : Burner or None
        Gas burner of the store. [-]
    outside_tank : bool
        Whether the fresh tank hangs below the floor. [-]

    Returns
    -------
    System
        A complete network; lengths are a first guess to be measured and mended. [-]
    """
    parts: list[AnyKind] = [
        FreshTank(id="tank", volume_m3=tank_m3, space="below" if outside_tank else "living"),
        ShutOff(id="shut-off", space="living"),
        Strainer(id="strainer", space="living"),
        Pump(
            id="pump", space="living", open_flow_m3_per_s=7.5 * LITRE_PER_MIN,
            cut_out_pa=2.4 * BAR, cut_in_pa=1.7 * BAR,
        ),
        Accumulator(id="accumulator", space="living"),
        Split(id="split", space="living"),
        CheckValve(id="check", space="living"),
        Store(id="store", volume_m3=store_m3, space="living"),
        Relief(id="relief", space="living", set_pa=3.5 * BAR, outside=True),
        ThermostaticMixer(id="mixer", space="living"),
        ShowerHead(id="head", space="living"),
    ]  # fmt: skip
    for source in (element, burner):
        if source is not None:
            parts.append(source.model_copy(update={"fitted_in": "store", "space": "living"}))
            parts.append(
                HighLimit(id=f"{source.id}-cut-out", name=f"Cut-out of the {source.title.lower()}",
                          fitted_in="store", space="living", guards=source.id)
            )  # fmt: skip
    tube = {"family": "semi-rigid plastic", "nominal": "15 mm", "space": "living"}
    hose = {"family": "soft hose", "nominal": "10 mm", "space": "living"}
    runs = (
        join("tank-run", "Tank to shut-off", "tank.outlet", "shut-off.inlet", length_m=0.3, **tube),
        join("suction", "Shut-off to strainer", "shut-off.outlet", "strainer.inlet",
             length_m=0.3, **tube),
        join("pump-in", "Strainer to pump", "strainer.outlet", "pump.inlet", length_m=0.15, **tube),
        join("pump-out", "Pump to accumulator", "pump.outlet", "accumulator.inlet",
             length_m=0.3, **tube),
        join("main", "Accumulator to split", "accumulator.outlet", "split.inlet", length_m=0.8,
             elbows=1, **tube),
        join("store-feed", "Split to check valve", "split.outlet", "check.inlet", length_m=0.2,
             **tube),
        join("store-in", "Check valve to store", "check.outlet", "store.inlet", length_m=0.3,
             elbows=1, **tube),
        join("relief-run", "Store to relief valve", "store.relief", "relief.inlet", length_m=0.2,
             **tube),
        join("hot-run", "Store to mixer", "store.outlet", "mixer.hot", length_m=1.2,
             insulation_m=0.009, board="rubber foam", elbows=1, rise_m=0.3, **tube),
        join("cold-run", "Split to mixer", "split.branch", "mixer.cold", length_m=1.2,
             elbows=1, rise_m=0.3, **tube),
        join("shower-run", "Mixer to hose", "mixer.outlet", "head.inlet", length_m=1.5,
             rise_m=0.9, **hose),
    )  # fmt: skip
    return System(volts_v=12.0, parts=tuple(parts), runs=runs, spaces=(LIVING, BELOW))
