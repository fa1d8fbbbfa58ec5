"""A support set: what holds a figure, the proofs with and without it, and what its user should know."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..layers import Island, Proof, is_slight
from ..mesh import Mesh
from ..paths import Props
from .body import RAFT_MARGIN_MM, support_parts
from .firm import Firmness
from .tip import Brace, Tip


@dataclass(frozen=True)
class SupportFinding:
    """Something the user should know about a support set."""

    code: str
    severity: str
    count: int
    message: str


@dataclass(frozen=True)
class SupportSet:
    """Tips, the raft's use, the posed figure they belong to, and the proofs with and without them. `inside` (tips,):
    those that stay in a cavity.
    """

    tips: list[Tip]
    with_raft: bool
    figure: Mesh
    mesh: Mesh | None
    before: Proof
    after: Proof
    volume_mm3: float
    findings: list[SupportFinding]
    inside: NDArray[np.bool_]
    braces: list[Brace]
    firm: Firmness | None
    margin: float = RAFT_MARGIN_MM

    @property
    def islands(self) -> list[Island]:
        """What is left that starts in mid air and grows on alone."""
        return [i for i in self.after.islands if not is_slight(i, self.after.stack.grid.height)]

    @property
    def props(self) -> Props:
        """Its solids apart by the density of their lines."""
        return support_parts(self.tips, self.with_raft, self.braces, margin=self.margin)

    @property
    def whole(self) -> Mesh:
        """Figure and supports in one mesh."""
        return self.figure if self.mesh is None else Mesh.joined([self.figure, self.mesh])
