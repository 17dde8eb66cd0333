"""`python -m isotherma`: the command line."""

from isotherma.cli import app

app(prog_name="isotherma")
