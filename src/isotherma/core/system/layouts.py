"""The usual route as a document: parts and runs to start a design from."""

from __future__ import annotations

from isotherma.core.system import PortRef, Run, System
from isotherma.core.system.parts import (
    Accumulator,
    Burner,
    CheckValve,
    Element,
    FreshTank,
    Pump,
    ShowerHead,
    ShutOff,
    Split,
    Store,
    Strainer,
    ThermostaticMixer,
)


def _run(run_id: str, name: str, start: str, end: str, **values: object) -> Run:
    """Make a run between "part.port" and "part.port"."""
    first, first_port = start.split(".")
    last, last_port = end.split(".")
    data = {
        "id": run_id,
        "name": name,
        "start": PortRef(part=first, port=first_port),
        "end": PortRef(part=last, port=last_port),
        **values,
    }
    return Run.model_validate(data)


def usual_route(
    *,
    tank_m3: float | None = None,
    store_m3: float | None = None,
    element: Element | None = None,
    burner: Burner | None = None,
    outside_tank: bool = False,
) -> System:
    """Lay the route most people build: one pump, one store, one mixer, one shower.

    Parameters
    ----------
    tank_m3, store_m3 : float or None
        Usable tank and store volumes; None leaves them unknown. [m³]
    element : Element or None
        Mains element of the store. [-]
    burner : Burner or None
        Gas burner of the store. [-]
    outside_tank : bool
        Whether the fresh tank hangs outside. [-]

    Returns
    -------
    System
        A complete network; lengths are a first guess to be measured and mended. [-]
    """
    parts = (
        FreshTank(id="tank", volume_m3=tank_m3, place="outside" if outside_tank else "inside"),
        ShutOff(id="shut-off"),
        Strainer(id="strainer"),
        Pump(id="pump"),
        Accumulator(id="accumulator"),
        Split(id="split"),
        CheckValve(id="check"),
        Store(id="store", volume_m3=store_m3, element=element, burner=burner),
        ThermostaticMixer(id="mixer"),
        ShowerHead(id="head"),
    )
    hose = {"bore_m": 0.010, "wall_m": 0.0035, "material": "hose"}
    runs = (
        _run("tank-run", "Tank to shut-off", "tank.outlet", "shut-off.inlet", length_m=0.3),
        _run("suction", "Shut-off to strainer", "shut-off.outlet", "strainer.inlet", length_m=0.3),
        _run("pump-in", "Strainer to pump", "strainer.outlet", "pump.inlet", length_m=0.15),
        _run("pump-out", "Pump to accumulator", "pump.outlet", "accumulator.inlet", length_m=0.3),
        _run("main", "Accumulator to split", "accumulator.outlet", "split.inlet", length_m=0.8,
             loss_k=2.0),
        _run("store-feed", "Split to check valve", "split.outlet", "check.inlet", length_m=0.2),
        _run("store-in", "Check valve to store", "check.outlet", "store.inlet", length_m=0.3,
             loss_k=1.0),
        _run("hot-run", "Store to mixer", "store.outlet", "mixer.hot", length_m=1.2,
             insulation_m=0.009, loss_k=2.0, rise_m=0.3),
        _run("cold-run", "Split to mixer", "split.branch", "mixer.cold", length_m=1.2,
             loss_k=2.0, rise_m=0.3),
        _run("shower-run", "Mixer to hose", "mixer.outlet", "head.inlet", length_m=1.5,
             rise_m=0.9, **hose),
    )  # fmt: skip
    return System(parts=parts, runs=runs)
