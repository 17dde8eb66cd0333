"""The command line: simulate and solve a file, print the schema, keep and fetch projects."""

from __future__ import annotations

import json
import sys
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NoReturn

import typer

if TYPE_CHECKING:
    from isotherma.core.project import Project, Variant

# A command imports what it uses when it runs: help answers before the document's kinds are built,
# and a file is read before the engine is there.

app = typer.Typer(
    help="Design hot water and a shower for a vehicle.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)
UsOption = Annotated[bool, typer.Option("--us", help="Speak in US units.")]


class Taper(StrEnum):
    """Whether a thread tapers."""

    SEEN = "seen"
    NONE = "none"


class Hand(StrEnum):
    """Which way a thread goes in."""

    LEFT = "left"
    RIGHT = "right"


class Flank(StrEnum):
    """Angle between flanks."""

    A55 = "55"
    A60 = "60"


class TableTo(StrEnum):
    """What a table is written as."""

    CSV = "csv"
    TSV = "tsv"


class By(StrEnum):
    """What was measured with."""

    CALIPER = "caliper"
    RULER = "ruler"


class JoinFor(StrEnum):
    """What goes through a joint."""

    DRINKING = "drinking"
    HOT = "hot"
    GAS = "gas"
    WASTE = "waste"


class Stock(StrEnum):
    """Adapters to choose from."""

    BASE = "base"


def _fail(message: str, status: int = 2) -> NoReturn:
    print(message, file=sys.stderr)
    raise typer.Exit(status)


def _read(path: Path) -> Project:
    from isotherma.files.project_file import MAX_BYTES, FileRefused, read_project

    try:
        if path.stat().st_size > MAX_BYTES:
            _fail(f"{path}: the file is larger than the {MAX_BYTES / 1e6:.0f} MB a project has.")
        return read_project(path.read_bytes())
    except FileRefused as error:
        _fail(f"{path}: {error.message}")
    except OSError as error:
        _fail(f"{path}: {error.strerror}.")


def _pick(project: Project, wanted: str | None) -> Variant:
    if wanted is None:
        return project.variants[0]
    for variant in project.variants:
        if wanted in (variant.id, variant.name):
            return variant
    names = ", ".join(variant.id for variant in project.variants)
    _fail(f"There is no variant “{wanted}”. The file has: {names}.")


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

    project = with_trip(_read(file), days, month)
    chosen, standing = standing_as(_pick(project, variant), state, phase, _fail)
    units = UnitSystem.US if us else UnitSystem.METRIC
    simulated(project, chosen, standing, units, _fail, as_json=as_json, csv=csv, band=band)


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

    project = with_trip(_read(file), days, month)
    chosen, standing = standing_as(_pick(project, variant), state, phase, _fail)
    units = UnitSystem.US if us else UnitSystem.METRIC
    followed(project, chosen, standing, units, _fail, as_json=as_json)


@app.command()
def parts(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    phase: Annotated[str | None, typer.Option(help="Only what is fitted then.")] = None,
    tradition: Annotated[
        str | None, typer.Option(help="Of ends nobody stated; else the file's, or metric.")
    ] = None,
    table: Annotated[TableTo | None, typer.Option(help="Print its lines as a table.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
) -> None:
    """List what is to be bought: parts, tube, fittings, seals, with every joint."""
    from isotherma.joining import list_parts

    project = _read(file)
    list_parts(
        project, _pick(project, variant), tradition=tradition, phase=phase, as_json=as_json,
        table=None if table is None else table.value, fail=_fail,
    )  # fmt: skip


@app.command()
def plan(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    state: Annotated[str | None, typer.Option(help="How it stands while it is tested.")] = None,
    phase: Annotated[str | None, typer.Option(help="Only what that phase adds.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
) -> None:
    """Plan the building: tasks in order, stages of filling and testing with what to expect."""
    from isotherma.planning import print_plan

    project = _read(file)
    print_plan(
        project, _pick(project, variant), state=state, phase=phase, as_json=as_json, fail=_fail
    )


@app.command()
def diagnose(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    seen: Annotated[list[str] | None, typer.Option(help="A symptom, as flow_low.")] = None,
    not_seen: Annotated[list[str] | None, typer.Option(help="One that was looked for.")] = None,
    reading: Annotated[
        list[str] | None, typer.Option(help="As flow.head=4.2 or heat_up.store=45:12:60.")
    ] = None,
    tested: Annotated[
        list[str] | None, typer.Option(help="As strainer_look=dirty, or …@PART=dirty.")
    ] = None,
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    state: Annotated[str | None, typer.Option(help="How it stands; else as on the day.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
) -> None:
    """Find a fault: what each would do on this design, against what is seen and read."""
    from isotherma.diagnosing_files import print_diagnosis

    project = _read(file)
    print_diagnosis(
        project, _pick(project, variant), state=state, seen=seen or (), denied=not_seen or (),
        readings=reading or (), tried=tested or (), as_json=as_json, fail=_fail,
    )  # fmt: skip


@app.command()
def learn(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
    readings: Annotated[Path, typer.Option(help="CSV of readings; see docs/file-format.md.")],
    variant: Annotated[str | None, typer.Option(help="Which variant; else the first.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
) -> None:
    """Learn from readings what this very vehicle's figures are, and how sure."""
    from isotherma.learning_files import print_learned

    project = _read(file)
    print_learned(project, _pick(project, variant), readings, as_json=as_json, fail=_fail)


@app.command()
def thread(
    outside: Annotated[str | None, typer.Option(help="Of a male thread, as 20.9mm.")] = None,
    inside: Annotated[str | None, typer.Option(help="Bore of a female one.")] = None,
    pitch: Annotated[str | None, typer.Option(help="By gauge, as 14tpi or 1.81mm.")] = None,
    threads: Annotated[float | None, typer.Option(help="Counted, halves too.")] = None,
    over: Annotated[str | None, typer.Option(help="Over this length, as 12.7mm.")] = None,
    taper: Annotated[Taper | None, typer.Option(help="Along a straight edge.")] = None,
    hand: Annotated[Hand | None, typer.Option(help="Which way it goes in.")] = None,
    flank: Annotated[Flank | None, typer.Option(help="Angle between flanks.")] = None,
    by: Annotated[By, typer.Option(help="What it was measured with.")] = By.CALIPER,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
) -> None:
    """Say which thread was measured, how likely, and what would decide."""
    from isotherma.joining import which_thread

    which_thread(
        outside=outside, inside=inside, pitch=pitch, threads=threads, over=over,
        taper=None if taper is None else taper.value, hand=None if hand is None else hand.value,
        flank=None if flank is None else int(flank.value), by=by.value, as_json=as_json, fail=_fail,
    )  # fmt: skip


@app.command()
def join(
    one: Annotated[str, typer.Argument(help="An end, as “male 1/2 in parallel”.")],
    other: Annotated[str, typer.Argument(help="The other, as “push-in 12 mm”.")],
    use: Annotated[JoinFor | None, typer.Option("--for", help="What goes through.")] = None,
    at: Annotated[str | None, typer.Option(help="How hot, as 70C.")] = None,
    pressure: Annotated[str | None, typer.Option(help="Under how much, as 3bar.")] = None,
    stock: Annotated[Stock | None, typer.Option(help="From the base stock alone.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
) -> None:
    """Find the fewest adapters from one end to another, or say why there are none."""
    from isotherma.joining import join_ends

    join_ends(
        one, other, use=None if use is None else use.value, at=at, pressure=pressure,
        base=stock is not None, as_json=as_json, fail=_fail,
    )  # fmt: skip


@app.command()
def cut(
    legs: Annotated[
        str | None, typer.Argument(help="Legs and turns: “300 mm; 90; 450 mm”.")
    ] = None,
    measured: Annotated[
        str, typer.Option(help="Between centres or faces, the tube itself, or to backs.")
    ] = "centres",
    take_out: Annotated[str | None, typer.Option(help="Centre to mouth, both ends.")] = None,
    insertion: Annotated[str | None, typer.Option(help="How deep it goes in.")] = None,
    radius: Annotated[str | None, typer.Option(help="Of the middle line of bends.")] = None,
    outside: Annotated[str | None, typer.Option(help="Of the tube; for backs.")] = None,
    pieces: Annotated[str | None, typer.Option(help="Pieces to lay on bars.")] = None,
    of: Annotated[str | None, typer.Option(help="Length of a bar.")] = None,
    kerf: Annotated[str | None, typer.Option(help="Lost by each cut; a saw 2mm.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
) -> None:
    """Say how long a tube is cut and where it bends, or lay pieces on the fewest bars."""
    from isotherma.joining import cut_bars, cut_tube

    if (legs is None) == (pieces is None):
        _fail("Say either legs, as “300 mm; 90; 450 mm”, or --pieces with --of.")
    if pieces is not None:
        cut_bars(pieces, of, kerf, as_json=as_json, fail=_fail)
    elif legs is not None:
        cut_tube(
            legs, measured=measured, take_out=take_out, insertion=insertion, radius=radius,
            outside=outside, as_json=as_json, fail=_fail,
        )  # fmt: skip


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

    project = _read(file)
    chosen, standing = standing_as(_pick(project, variant), state, phase, _fail)
    units = UnitSystem.US if us else UnitSystem.METRIC
    powered(project, chosen, standing, on or [], units, _fail, as_json=as_json)


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

    project = _read(file)
    try:
        day = date.today() if on is None else date.fromisoformat(on)
    except ValueError:
        _fail(f"“{on}” is no day; write it as 2026-03-31.")
    chosen, standing = standing_as(_pick(project, variant), state, phase, _fail)
    units = UnitSystem.US if us else UnitSystem.METRIC
    only = standing if state is not None else None
    checked(project, chosen, only, rules, day.isoformat(), units, _fail, as_json=as_json)


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

    project = _read(file)
    units = UnitSystem.US if us else UnitSystem.METRIC
    sized(project, _pick(project, variant), family, units, _fail, as_json=as_json)


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

    project = _read(file)
    units = UnitSystem.US if us else UnitSystem.METRIC
    table = sweep_table(project, _pick(project, variant), vary, units, _fail)
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

    project = _read(file)
    wanted = [text.strip() for text in variants.split(",") if text.strip()]
    chosen = [_pick(project, text) for text in wanted] or list(project.variants[:4])
    units = UnitSystem.US if us else UnitSystem.METRIC
    compared_variants(project, chosen, units, _fail, as_json=as_json)


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
    as_json: Annotated[bool, typer.Option("--json", help="Print a JSON object.")] = False,
    us: UsOption = False,
) -> None:
    """Solve flows, pressures and temperatures of one state with some outlets open."""
    from isotherma.commands import Solving
    from isotherma.core.quantity import UnitSystem

    project = _read(file)
    chosen = _pick(project, variant)
    asked = Solving(project, chosen, UnitSystem.US if us else UnitSystem.METRIC, _fail)
    asked.choose(state, opens or [], fresh, at or [], level or [], dirty)
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
        _fail(f"{said}There are: {', '.join(names)}.")
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
        _fail("Say which file and which edit; --list names them all.")
    project = _read(file)
    units = UnitSystem.US if us else UnitSystem.METRIC
    changed, done = edited(project, _pick(project, variant).id, name, values or [], units, _fail)
    print(done, file=sys.stderr)
    _write(write_project(changed), out)


def _write(data: bytes, out: Path | None) -> None:
    if out is None:
        sys.stdout.buffer.write(data)
        return
    try:
        out.write_bytes(data)
    except OSError as error:
        _fail(f"{out}: {error.strerror}.")


@app.command()
def work(
    processes: Annotated[
        int | None, typer.Option(min=1, max=64, help="How many; else one a core.")
    ] = None,
) -> None:
    """Do long work that pages ask for, until told to end; on any machine with the database."""
    from isotherma.ops.working import work_until_ended

    raise typer.Exit(work_until_ended(processes, _fail))


@app.command("import")
def import_file(
    file: Annotated[Path, typer.Argument(help="A project file (.isotherma.json).")],
) -> None:
    """Keep a project file as a new vehicle in the database."""
    from isotherma.ops.session import vehicles

    project = _read(file)
    with vehicles(_fail) as service:
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

    with vehicles(_fail) as service:
        found = service.named(vehicle)
        listed = service.overview() if found is None else []
    if found is None:
        names = "; ".join(f"{row.vehicle_id} {row.project.name}" for row in listed) or "none"
        _fail(f"There is no vehicle “{vehicle}”. The newest are: {names}.")
    _write(write_project(found.project), out)
