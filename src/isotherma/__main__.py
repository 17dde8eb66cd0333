"""`python -m isotherma`: the command line."""

import gc

# building the classes of all kinds makes much and drops nothing: looking for garbage meanwhile
# costs a tenth of a short command
gc.set_threshold(200_000, 50, 50)

from isotherma.cli import app  # noqa: E402

app(prog_name="isotherma")
