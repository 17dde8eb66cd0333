"""A system before it runs: all that follows from the documents alone.

What runs it and what is computed from a run both read this; neither needs the other.
"""

from isotherma.core.setup.setup import Setup

__all__ = ["Setup"]
