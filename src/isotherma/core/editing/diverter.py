"""A return diverter put before an outlet, with the pipe back to the tank."""

from __future__ import annotations

from isotherma.core.editing.parts import insert_part
from isotherma.core.editing.values import fresh_id, variant_of, with_lists
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project
from isotherma.core.system import Pipe, PortRef
from isotherma.core.system.kinds.temperature import ReturnDiverter
from isotherma.core.system.pieces import PartBase

BACK_M = 2.0  # beside the other pipes, as far as most tanks are


def place_diverter(
    project: Project, variant_id: str, outlet: str, part: PartBase | None = None
) -> Project:
    """Put a return diverter into the run before an outlet, its return piped to the fresh tank.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, outlet : str
        Where: a part that water leaves at. [-]
    part : part or None
        The diverter; None: one worked by hand. [-]

    Returns
    -------
    Project
        With the diverter and 2 m of the same pipe back, whose length is to be measured. [-]

    Raises
    ------
    ChangeRefused
        If no pipe ends at the outlet, there is no tank to send water to, or one is there already.
    """
    system = variant_of(project, variant_id).system
    path = f"variants.{variant_id}.system"
    run = next((run for run in system.pipes if run.end.part == outlet), None)
    tank = next(
        (part for part in system.parts if any(port.name == "returns" for port in part.ports)
         and not isinstance(part, ReturnDiverter)), None
    )  # fmt: skip
    if run is None or tank is None:
        raise ChangeRefused(path=path, reason="no_way_back")
    if isinstance(system.part(run.start.part), ReturnDiverter):
        raise ChangeRefused(path=path, reason="diverts_already")
    made = insert_part(project, variant_id, run.id, part or ReturnDiverter(id="return-diverter"))
    before = {item.id for item in system.parts}
    after = variant_of(made, variant_id).system
    diverter = next(item for item in after.parts if item.id not in before)
    back = Pipe(
        id=fresh_id(f"{diverter.id}-back", [item.id for item in after.runs]),
        name="Back to the tank", start=PortRef(part=diverter.id, port="returns"),
        end=PortRef(part=tank.id, port="returns"), length_m=BACK_M, family=run.family,
        nominal=run.nominal, bore_m=run.bore_m, space=run.space,
    )  # fmt: skip
    return with_lists(made, variant_id, parts=after.parts, runs=(*after.runs, back))
