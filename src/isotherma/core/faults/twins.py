"""Twins: suspects that no test of a builder's parts, so that they are mended together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import combinations
from typing import Final

from isotherma.core.faults.evidence import Evidence
from isotherma.core.faults.hypotheses import Hypotheses
from isotherma.core.faults.next_tests import LEAST_BITS, candidates, told_of
from isotherma.core.faults.posterior import Suspect
from isotherma.core.faults.table import NO_FAULT, FaultTable

LOOKED_AT: Final = 5  # suspects that are shown


def twins_of(
    hypotheses: Hypotheses, suspects: Sequence[Suspect], table: FaultTable
) -> Mapping[str, tuple[str, ...]]:
    """Find which of the likeliest suspects nothing that a builder may test tells apart.

    Parameters
    ----------
    hypotheses : Hypotheses
        What each expects. [-]
    suspects : sequence of Suspect
        Likeliest first; only those that are shown are compared. [-]
    table : FaultTable
        The tests. [-]

    Returns
    -------
    mapping of str to tuple of str
        By the key of a suspect those of its twins; one without any is not in it. [-]

    References
    ----------
    Both are taken as equally likely, and every test gains less than is worth doing.
    """
    tests = list(candidates(hypotheses.player, table, Evidence(), whole=True))
    found: dict[str, list[str]] = {}
    shown = [one for one in suspects[:LOOKED_AT] if one.instances[0].fault.id != NO_FAULT]
    for one, other in combinations(shown, 2):
        even = (replace(one, chance=0.5), replace(other, chance=0.5))
        told = (told_of(hypotheses, test, part, even, 0.0) for test, part in tests)
        if not any(row is not None and row.gain_bits >= LEAST_BITS for row in told):
            found.setdefault(one.key, []).append(other.key)
            found.setdefault(other.key, []).append(one.key)
    return {key: tuple(keys) for key, keys in found.items()}
