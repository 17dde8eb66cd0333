"""The commands about buying, building, finding faults and learning."""

from __future__ import annotations

from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from isotherma.cli_base import app, fail, pick, read

# A command imports what it uses when it runs: see `cli`.


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

    project = read(file)
    list_parts(
        project, pick(project, variant), tradition=tradition, phase=phase, as_json=as_json,
        table=None if table is None else table.value, fail=fail,
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

    project = read(file)
    print_plan(
        project, pick(project, variant), state=state, phase=phase, as_json=as_json, fail=fail
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

    project = read(file)
    print_diagnosis(
        project, pick(project, variant), state=state, seen=seen or (), denied=not_seen or (),
        readings=reading or (), tried=tested or (), as_json=as_json, fail=fail,
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

    project = read(file)
    print_learned(project, pick(project, variant), readings, as_json=as_json, fail=fail)


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
        flank=None if flank is None else int(flank.value), by=by.value, as_json=as_json, fail=fail,
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
        base=stock is not None, as_json=as_json, fail=fail,
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
        fail("Say either legs, as “300 mm; 90; 450 mm”, or --pieces with --of.")
    if pieces is not None:
        cut_bars(pieces, of, kerf, as_json=as_json, fail=fail)
    elif legs is not None:
        cut_tube(
            legs, measured=measured, take_out=take_out, insertion=insertion, radius=radius,
            outside=outside, as_json=as_json, fail=fail,
        )  # fmt: skip
