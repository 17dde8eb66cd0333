"""What is done with a vehicle as a whole: start, import, rename and copy it."""

from __future__ import annotations

from isotherma.catalogue.layouts import layouts
from isotherma.core.brief import Brief
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.layouts import usual_route
from isotherma.files.project_file import read_project
from isotherma.services.edits import FIRST_IDEA
from isotherma.services.turns import Cancelled, Stopped
from isotherma.services.vehicles import Vehicles

EMPTY = "empty"
# what a layout brings along of a brief that nobody has answered
EXAMPLES = (
    "people", "draws", "days", "region", "month", "uses", "budgets", "inside_c",
)  # fmt: skip


def start_vehicle(vehicles: Vehicles, name: str, start: str) -> int:
    """Start a vehicle on a layout, on the usual route with its sizes unknown, or on nothing.

    `start` is the id of a layout, "empty", or anything else for the usual route. Gives the number
    of the vehicle; pydantic's ValidationError if it cannot be named so.
    """
    layout = layouts().get(start)
    system = layout.system if layout else System() if start == EMPTY else usual_route()
    brief = layout.brief.model_copy(update={"examples": EXAMPLES}) if layout else Brief()
    first = layout.name if layout else FIRST_IDEA
    project = Project(
        name=name, brief=brief, variants=(Variant(id="first", name=first, system=system),)
    )
    return vehicles.create(project, "Started")


def import_vehicle(vehicles: Vehicles, data: bytes, stopped: Stopped) -> Project:
    """Keep a project file as a new vehicle; FileRefused says why not.

    Cancelled when whoever sent it has left meanwhile.
    """
    project = read_project(data, stopped)
    if stopped():
        raise Cancelled
    vehicles.create(project, "Imported")
    return project


def rename_vehicle(vehicles: Vehicles, vehicle_id: int, base_id: int, name: str) -> None:
    """Give a vehicle another name; `base_id` is the revision it was shown at, 0 if unknown.

    NewerElsewhere if another window has named it meanwhile, ValidationError if it cannot be.
    """
    base_id = base_id or vehicles.open(vehicle_id).head_id
    vehicles.set_values(vehicle_id, base_id, {"name": name}, "Vehicle renamed")


def copy_vehicle(vehicles: Vehicles, vehicle_id: int) -> int:
    """Copy a whole vehicle as it is now; gives the number of the copy."""
    project = vehicles.open(vehicle_id).project
    copy = project.model_copy(update={"name": f"{project.name[:70]} (copy)", "example": False})
    return vehicles.create(copy, "Copied")
