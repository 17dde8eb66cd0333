"""The log of a day as named series."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from isotherma.core.timeline import columns

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Rows:
    """Steps of a day, or some of them, in order of time.

    Parameters
    ----------
    log : array of float
        As the kernels wrote it. [see columns], shape (n_steps, n_columns)
    """

    log: Floats

    def __len__(self) -> int:
        """Give how many steps there are."""
        return len(self.log)

    def __iter__(self) -> Iterator[Rows]:
        """Give each step by itself."""
        return (Rows(self.log[at : at + 1]) for at in range(len(self.log)))

    def where(self, picked: NDArray[np.bool_] | NDArray[np.int64] | slice) -> Rows:
        """Give some of the steps: by a mask, by their places, or a piece."""
        return Rows(self.log[picked])

    def of_draw(self, index: int) -> Rows:
        """Give the steps of one draw, in order of time, in which water flowed."""
        return self.where((self.draw == index) & (self.mass_kg > 0.0))

    @property
    def end_s(self) -> Floats:
        """When each step ended, after midnight [s]."""
        return self.log[:, columns.END]

    @property
    def step_s(self) -> Floats:
        """How long each was [s]."""
        return self.log[:, columns.STEP]

    @property
    def began_s(self) -> Floats:
        """When each began, after midnight [s]."""
        return self.end_s - self.step_s

    @property
    def mass_kg(self) -> Floats:
        """Water out of the outlet in each [kg]."""
        return self.log[:, columns.MASS]

    @property
    def head_c(self) -> Floats:
        """Its temperature as it leaves the outlet [°C]."""
        return self.log[:, columns.HEAD]

    @property
    def hot_c(self) -> Floats:
        """What comes to the hot side of the mixer [°C]."""
        return self.log[:, columns.HOT]

    @property
    def cold_c(self) -> Floats:
        """What comes to its cold side [°C]."""
        return self.log[:, columns.COLD_SIDE]

    @property
    def hot_share(self) -> Floats:
        """How much of the water came from the hot side [-]."""
        return self.log[:, columns.SHARE]

    @property
    def mixed_c(self) -> Floats:
        """What leaves the mixer [°C]."""
        return self.log[:, columns.MIXED]

    @property
    def element_w(self) -> Floats:
        """Heat of elements and burners in stores [W]."""
        return self.log[:, columns.ELEMENT]

    @property
    def burner_w(self) -> Floats:
        """Heat of through-flow heaters and heaters of loops [W]."""
        return self.log[:, columns.BURNER]

    @property
    def draw(self) -> Floats:
        """Whose draw it was, by its place in the day; below 0: nobody's [-]."""
        return self.log[:, columns.DRAW]

    @property
    def phase(self) -> Floats:
        """What was done, as `columns` says [-]."""
        return self.log[:, columns.PHASE_OF]

    @property
    def running(self) -> NDArray[np.bool_]:
        """Whether somebody washed, and did not wait [-]."""
        picked: NDArray[np.bool_] = self.phase == columns.RUNNING
        return picked

    @property
    def layers_c(self) -> Floats:
        """Layers of the store shown, the lowest first [°C], shape (n_steps, n_layers)."""
        return self.log[:, columns.LOG_COLUMNS :]
