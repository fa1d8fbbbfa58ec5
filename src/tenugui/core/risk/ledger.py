"""From proofs to hazards, the costliest first. All chances are priors until the log has runs of its own, and are
labelled so.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..hazards import Hazard, Sight, found_by
from ..layers import Proof
from ..machines import Context
from ..mesh import Mesh, ThinPlace
from ..paths import Strings
from ..supports import Brace, Tip

WEIGHT = {"print lost": 3.0, "part lost": 2.0, "scar": 0.3}
SPECK_WEIGHT = 0.01


def ledger(
    proof: Proof,
    context: Context,
    *,
    tips: Sequence[Tip] = (),
    own: Proof | None = None,
    thin: Sequence[ThinPlace] = (),
    off: Sequence[Tip] | None = None,
    locked: Sequence[Tip] = (),
    figure: Mesh | None = None,
    strings: Strings | None = None,
    braces: Sequence[Brace] = (),
) -> list[Hazard]:
    """Every hazard that any source finds of a proved figure, with its supports if it has any; the costliest first.
    `own`: the figure's proof without them (else it has none), `off`: those of the tips that come off again (else all);
    the rest as in `Sight`.
    """
    sight = Sight(
        proof,
        context,
        proof if own is None else own,
        tips,
        tips if off is None else off,
        locked,
        thin,
        figure,
        strings,
        braces,
    )
    return sorted(found_by(sight), key=_costly)


def _costly(hazard: Hazard) -> float:
    speck = (hazard.code, hazard.loss) == ("island", "scar")
    return -hazard.chance * (SPECK_WEIGHT if speck else WEIGHT[hazard.loss])
