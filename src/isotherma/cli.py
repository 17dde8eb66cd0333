"""The command line: simulate and solve a file, print the schema, keep and fetch projects."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated

import typer

from isotherma import cli_building
from isotherma.cli_base import app, fail, pick, read

__all__ = ["app", "cli_building"]

# A command imports what it uses when it runs: help answers before the document's kinds are built,
# and a file is read before the engine is there.

UsOption = Annotated[bool, typer.Option("--us", help="Speak in US units.")]


@app.command()
def simulate(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
    csv: Annotated[Path | None, typer.Option(help="Write the timeline here.")] = None,
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    state: Annotated[str | None, typer.Option(help="Which state; else the first.")] = None,
    phase: Annotated[str | None, typer.Option(help="As built at its end; else all.")] = None,
    days: Annotated[int | None, typer.Option(min=1, max=60, help="Instead of the brief's.")] = None,
    month: Annotated[int | None, typer.Option(min=1, max=12, help="Instead of it.")] = None,
    band: Annotated[bool, typer.Option("--band", help="How far it may lie off.")] = False,
    us: UsOption = False,
) -> None:
    """Simulate one day of a project file, counted over the days between fills."""
    from isotherma.commands import standing_as, with_trip
    from isotherma.core.quantity import UnitSystem
    from isotherma.simulating import simulated

    project = with_trip(read(file), days, month)
    chosen, standing = standing_as(pick(project, variant), state, phase, fail)
    units = UnitSystem.US if us else UnitSystem.METRIC
    simulated(project, chosen, standing, units, fail, as_json=as_json, csv=csv, band=band)


@app.command()
def trip(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    state: Annotated[str | None, typer.Option(help="Which state; else the first.")] = None,
    phase: Annotated[str | None, typer.Option(help="As built at its end; else all.")] = None,
    days: Annotated[int | None, typer.Option(min=1, max=60, help="So many alike days.")] = None,
    month: Annotated[int | None, typer.Option(min=1, max=12, help="Instead of it.")] = None,
    us: UsOption = False,
) -> None:
    """Follow every budget through the days of a trip, and say which stops it needs."""
    from isotherma.commands import standing_as, with_trip
    from isotherma.core.quantity import UnitSystem
    from isotherma.simulating import followed

    project = with_trip(read(file), days, month)
    chosen, standing = standing_as(pick(project, variant), state, phase, fail)
    units = UnitSystem.US if us else UnitSystem.METRIC
    followed(project, chosen, standing, units, fail, as_json=as_json)


@app.command()
def power(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    on: Annotated[
        list[str] | None, typer.Option(help="A load or appliance that is on; else all.")
    ] = None,
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    state: Annotated[str | None, typer.Option(help="Which state; else the first.")] = None,
    phase: Annotated[str | None, typer.Option(help="As built at its end; else all.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
    us: UsOption = False,
) -> None:
    """Say what every wire, fuse and gas pipe carries, and what it cannot."""
    from isotherma.commands import standing_as
    from isotherma.core.quantity import UnitSystem
    from isotherma.powering_files import powered

    project = read(file)
    chosen, standing = standing_as(pick(project, variant), state, phase, fail)
    units = UnitSystem.US if us else UnitSystem.METRIC
    powered(project, chosen, standing, on or [], units, fail, as_json=as_json)


@app.command()
def check(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    rules: Annotated[str | None, typer.Option(help="Which rule set; else the vehicle's.")] = None,
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    state: Annotated[str | None, typer.Option(help="That state; else all.")] = None,
    phase: Annotated[str | None, typer.Option(help="As built at its end; else all.")] = None,
    on: Annotated[str | None, typer.Option(help="The day, as 2026-03-31; else today.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
    us: UsOption = False,
) -> None:
    """Say what could hurt somebody in a design, with the number behind it."""
    from datetime import date

    from isotherma.checking_files import checked
    from isotherma.commands import standing_as
    from isotherma.core.quantity import UnitSystem

    project = read(file)
    try:
        day = date.today() if on is None else date.fromisoformat(on)
    except ValueError:
        fail(f"“{on}” is no day; write it as 2026-03-31.")
    chosen, standing = standing_as(pick(project, variant), state, phase, fail)
    units = UnitSystem.US if us else UnitSystem.METRIC
    only = standing if state is not None else None
    checked(project, chosen, only, rules, day.isoformat(), units, fail, as_json=as_json)


@app.command()
def size(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    family: Annotated[str, typer.Option(help="Only this way of heating.")] = "",
    variant: Annotated[
        str | None, typer.Option(help="Whose fresh tank they get; else the first's.")
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
    us: UsOption = False,
) -> None:
    """Size every way of heating on a file's brief: the smallest that does it, or why none."""
    from isotherma.core.quantity import UnitSystem
    from isotherma.sizing_files import sized

    project = read(file)
    units = UnitSystem.US if us else UnitSystem.METRIC
    sized(project, pick(project, variant), family, units, fail, as_json=as_json)


@app.command()
def sweep(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    vary: Annotated[
        list[str],
        typer.Option(help="A figure and its values, as parts.store.volume_m3=5L,10L."),
    ],
    out: Annotated[Path | None, typer.Option(help="Write the table here; else print it.")] = None,
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    us: UsOption = False,
) -> None:
    """Run a design with one or two of its figures varied; a table of every result, as CSV."""
    from isotherma.core.quantity import UnitSystem
    from isotherma.sweeping_files import sweep_table

    project = read(file)
    units = UnitSystem.US if us else UnitSystem.METRIC
    table = sweep_table(project, pick(project, variant), vary, units, fail)
    _write(table.encode(), out)


@app.command()
def compare(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    variants: Annotated[
        str, typer.Option(help="Two to four variants, as A,B; the first is the base.")
    ] = "",
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
    us: UsOption = False,
) -> None:
    """Put variants side by side on the file's trip: every figure, signed differences, what differs.

    Without --variants the first four of the file are compared.
    """
    from isotherma.comparing_files import compared_variants
    from isotherma.core.quantity import UnitSystem

    project = read(file)
    wanted = [text.strip() for text in variants.split(",") if text.strip()]
    chosen = [pick(project, text) for text in wanted] or list(project.variants[:4])
    units = UnitSystem.US if us else UnitSystem.METRIC
    compared_variants(project, chosen, units, fail, as_json=as_json)


@app.command()
def solve(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    state: Annotated[str | None, typer.Option(help="Which state; else the first.")] = None,
    opens: Annotated[
        list[str] | None,
        typer.Option(
            "--open", help="An outlet or drain, as kitchen or kitchen=0.5; again for more."
        ),
    ] = None,
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    fresh: Annotated[str | None, typer.Option(help="Fresh water, as 12C.")] = None,
    at: Annotated[
        list[str] | None, typer.Option("--at", help="A part's temperature, as store=55C.")
    ] = None,
    level: Annotated[
        list[str] | None, typer.Option("--level", help="Water over a tank's outlet, as tank=0.2m.")
    ] = None,
    dirty: Annotated[bool, typer.Option("--dirty", help="Filters at their end.")] = False,
    drain: Annotated[bool, typer.Option("--drain", help="Drain it down instead.")] = False,
    leak: Annotated[bool, typer.Option("--leak", help="Leak arithmetic instead.")] = False,
    every: Annotated[
        str | None, typer.Option(help="With --leak: time between starts of the pump.")
    ] = None,
    cooled: Annotated[str | None, typer.Option(help="With --leak: how far stores cooled.")] = None,
    waste: Annotated[bool, typer.Option("--waste", help="Trays, emptying, filling.")] = False,
    network: Annotated[
        Path | None,
        typer.Option("--network", help="Write it as text that other solvers of networks read."),
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
    us: UsOption = False,
) -> None:
    """Solve flows, pressures and temperatures of one state with some outlets open."""
    from isotherma.commands import Solving
    from isotherma.core.quantity import UnitSystem

    project = read(file)
    chosen = pick(project, variant)
    asked = Solving(project, chosen, UnitSystem.US if us else UnitSystem.METRIC, fail)
    asked.choose(state, opens or [], fresh, at or [], level or [], dirty)
    if network is not None:
        _write(asked.network().encode("ascii"), network)
    asked.show(as_json, drain=drain, leak=leak, waste=waste, every=every, cooled=cooled)


@app.command()
def schema() -> None:
    """Print the JSON Schema of the project file."""
    from isotherma.files.schema import project_schema

    print(json.dumps(project_schema(), ensure_ascii=False, indent=2))


@app.command()
def layout(
    name: Annotated[str, typer.Argument(help="Name of a starting layout.")] = "",
    list_: Annotated[bool, typer.Option("--list", help="Print the names, one a line.")] = False,
) -> None:
    """Print a starting layout as a project file, or the names of all."""
    from isotherma.catalogue.names import layout_names

    names = layout_names()
    if list_:
        print("\n".join(names))
        return
    if name not in names:
        said = f"There is no layout “{name}”. " if name else "Say which layout. "
        fail(f"{said}There are: {', '.join(names)}.")
    from isotherma.catalogue.layouts import layouts
    from isotherma.files.project_file import write_project

    known = layouts()
    sys.stdout.buffer.write(write_project(known[name].project()))


@app.command()
def edit(
    file: Annotated[Path | None, typer.Argument(help="A project file (.isotherma.json).")] = None,
    name: Annotated[str, typer.Argument(help="Which edit, as part.insert, or set.")] = "",
    values: Annotated[list[str] | None, typer.Argument(help="What it asks, NAME=VALUE.")] = None,
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    out: Annotated[Path | None, typer.Option(help="Write here instead of printing.")] = None,
    list_: Annotated[bool, typer.Option("--list", help="Print every edit there is.")] = False,
    us: UsOption = False,
) -> None:
    """Make one edit on a project file: any that a page can make."""
    from isotherma.core.quantity import UnitSystem
    from isotherma.editing_files import edited, edits_listed
    from isotherma.files.project_file import write_project

    if list_:
        print("\n".join(edits_listed()))
        return
    if file is None or not name:
        fail("Say which file and which edit; --list names them all.")
    project = read(file)
    units = UnitSystem.US if us else UnitSystem.METRIC
    changed, done = edited(project, pick(project, variant).id, name, values or [], units, fail)
    print(done, file=sys.stderr)
    _write(write_project(changed), out)


def _write(data: bytes, out: Path | None) -> None:
    if out is None:
        sys.stdout.buffer.write(data)
        return
    try:
        out.write_bytes(data)
    except OSError as error:
        fail(f"{out}: {error.strerror}.")


@app.command()
def work(
    processes: Annotated[
        int | None, typer.Option(min=1, max=64, help="How many; else one a core.")
    ] = None,
) -> None:
    """Do long work that pages ask for, until told to end; on any machine with the database."""
    from isotherma.ops.working import work_until_ended

    raise typer.Exit(work_until_ended(processes, fail))


@app.command()
def backup(
    out: Annotated[Path, typer.Argument(help="File to write; it must not be there yet.")],
) -> None:
    """Write everything of the database - vehicles, logs, photographs, accounts - into one file."""
    from isotherma.ops.session import backed_up

    size = backed_up(out, fail)
    print(f"Written: {out}, {size / 1e6:.1f} MB. Keep it where this machine is not.")


@app.command()
def restore(
    source: Annotated[Path, typer.Argument(help="A file that “backup” wrote.")],
    yes: Annotated[
        bool, typer.Option("--yes", help="Put it in the place of all there is.")
    ] = False,
) -> None:
    """Put a backup in the place of everything that is in the database now."""
    from isotherma.ops.session import restored

    if not yes:
        fail("All that is in the database now would be gone. Add --yes where that is meant; "
             "“backup” keeps it first.")  # fmt: skip
    restored(source, fail)
    print(f"Restored from {source}. Stop and start Isotherma, if it runs.")


@app.command("import")
def import_file(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    owner: Annotated[
        str | None, typer.Option(help="Whose it is, where people sign in: an account's name.")
    ] = None,
) -> None:
    """Keep a project file as a new vehicle in the database."""
    from isotherma.ops.session import vehicles

    project = read(file)
    with vehicles(fail, owner=owner, keeps=True) as service:
        number = service.create(project, "Imported")
    print(f"Kept “{project.name}” as vehicle {number}.")


@app.command()
def export(
    vehicle: Annotated[str, typer.Argument(help="Number or name of a vehicle.")],
    out: Annotated[Path | None, typer.Option(help="Write here instead of printing.")] = None,
) -> None:
    """Write a vehicle of the database as a project file."""
    from isotherma.files.project_file import write_project
    from isotherma.ops.session import vehicles

    with vehicles(fail) as service:
        found = service.named(vehicle)
        listed = service.overview() if found is None else []
    if found is None:
        names = "; ".join(f"{row.vehicle_id} {row.project.name}" for row in listed) or "none"
        fail(f"There is no vehicle “{vehicle}”. The newest are: {names}.")
    _write(write_project(found.project), out)
