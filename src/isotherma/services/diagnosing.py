"""The fault finder of a design: what is played is kept, so that one more reading is quick."""

from __future__ import annotations

from isotherma import catalogue
from isotherma.catalogue.fault_table import fault_table
from isotherma.core.cache import Cache, Caches
from isotherma.core.faults.altered import Case
from isotherma.core.faults.diagnosis import Diagnosis, diagnose
from isotherma.core.faults.evidence import Evidence
from isotherma.core.faults.figures import READS
from isotherma.core.faults.player import Player
from isotherma.core.faults.posterior import asked_of
from isotherma.core.faults.readings import Expected, Reading
from isotherma.core.flows.surroundings import spaces_air
from isotherma.core.project import Project, Variant
from isotherma.core.system.kinds import heat, water
from isotherma.core.system.states import State

__all__ = ["FaultService", "diagnosed", "fault_table", "foretold", "player_of"]

# measured with all outlets and faults of Folio played
PLAYER_BYTES = 20_000_000
_CONDITIONS = (heat.Store, heat.Combi, heat.Canister, heat.EngineCoolant, water.FreshTank)


def player_of(
    project: Project, variant: Variant, state: State | None, evidence: Evidence
) -> Player:
    """Make what plays the faults of a design.

    Parameters
    ----------
    project : Project
        Its brief says month and place. [-]
    variant : Variant
        The design. [-]
    state : State or None
        How it stands. [-]
    evidence : Evidence
        Temperatures that were read are what other figures are played with. [°C]

    Returns
    -------
    Player
        Nothing is played yet. [-]

    Raises
    ------
    CoreError
        If the network cannot be laid.
    """
    system = variant.built.system
    place = catalogue.climate(project.brief)
    held = {part.id for part in system.parts if isinstance(part, _CONDITIONS)}
    at_c = {
        reading.part: reading.value for reading in evidence.readings
        if reading.kind == "temp" and reading.part in held
    }  # fmt: skip
    read = [reading.value for reading in evidence.readings if reading.kind == "air"]
    spaces = spaces_air(project.brief, system, place)

    def air_c(space: str | None) -> float:
        return read[-1] if read else spaces(space)

    known = {key: value for key, value in at_c.items() if key is not None}
    return Player(Case(project.brief, place, system, state, known), air_c, READS)


def diagnosed(
    project: Project, variant: Variant, state: State | None, evidence: Evidence,
    player: Player | None = None,
) -> Diagnosis:  # fmt: skip
    """Say what is likeliest wrong with a design; CoreErrors as `player_of`."""
    asked = player or player_of(project, variant, state, evidence)
    return diagnose(asked, fault_table(), evidence)


class FaultService:
    """Diagnoses for pages; what was played for a design and its state is kept."""

    def __init__(self, caches: Caches) -> None:
        self._players: Cache[Player] = Cache(caches, "faults", lambda _: PLAYER_BYTES)

    def diagnosed(
        self, project: Project, variant: Variant, state: State | None, evidence: Evidence
    ) -> Diagnosis:
        """Say what is likeliest wrong; errors as `player_of`."""
        player = self.player(project, variant, state, evidence)
        return diagnosed(project, variant, state, evidence, player)

    def player(
        self, project: Project, variant: Variant, state: State | None, evidence: Evidence
    ) -> Player:
        """Give what plays the faults of a design, kept; errors as `player_of`."""
        warm = tuple(sorted(
            (reading.quantity, reading.value) for reading in evidence.readings
            if reading.kind in ("temp", "air")
        ))  # fmt: skip
        key = (project.brief.digest, variant.built.system.digest,
               None if state is None else state.id, warm)  # fmt: skip
        return self._players.once(key, lambda: player_of(project, variant, state, evidence))


def foretold(
    service: FaultService, project: Project, variant: Variant, reading: Reading
) -> Expected | None:
    """Give what a sound design gives of a quantity; None where nothing computes it."""
    player = service.player(project, variant, variant.standing, Evidence())
    return player.expected((), asked_of(reading))
