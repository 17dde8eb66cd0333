"""What all commands share: how a file is read, a variant picked, a mistake told."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

import typer

if TYPE_CHECKING:
    from isotherma.core.project import Project, Variant

app = typer.Typer(
    help="Design hot water and a shower for a vehicle.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)


def fail(message: str, status: int = 2) -> NoReturn:
    """Say what is wrong and end with a status."""
    print(message, file=sys.stderr)
    raise typer.Exit(status)


def read(path: Path) -> Project:
    """Read a project file, or say why it is none."""
    from isotherma.files.project_file import MAX_BYTES, FileRefused, read_project

    try:
        if path.stat().st_size > MAX_BYTES:
            fail(f"{path}: the file is larger than the {MAX_BYTES / 1e6:.0f} MB a project has.")
        return read_project(path.read_bytes())
    except FileRefused as error:
        fail(f"{path}: {error.message}")
    except OSError as error:
        fail(f"{path}: {error.strerror}.")


def pick(project: Project, wanted: str | None) -> Variant:
    """Find the variant that is meant, the first where none is named."""
    if wanted is None:
        return project.variants[0]
    for variant in project.variants:
        if wanted in (variant.id, variant.name):
            return variant
    names = ", ".join(variant.id for variant in project.variants)
    fail(f"There is no variant “{wanted}”. The file has: {names}.")
