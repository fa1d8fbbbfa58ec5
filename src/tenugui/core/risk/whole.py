"""What threatens the print as a whole, and supports that scar: holes of the surface, the build space, what stands on
the figure or is locked in, the mishap.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..hazards import CAP, Arises, Hazard, Kind, Sight, source
from ..machines import fits_in
from ..supports import Tip

MISHAP_CHANCE = 0.03
"""Prior: one print in about thirty fails for what no layer shows: the plate's hold, power, an empty vat or spool."""
OPEN_SHARE = 0.02
"""Prior: share of open scan lines at which every second print shows it."""
OPEN = Kind(
    "open-surface",
    "open surface",
    "the surface has holes, so inside and outside are not certain on some scan lines",
    "print lost",
    bare=True,
    stop="",
)
OUTSIDE = Kind(
    "outside-build",
    "outside the build",
    "figure and supports reach past the build space",
    "print lost",
    "stripes",
    bare=True,
)
STANDS = Kind("stands-on-figure", "support on the figure", "a support stands on the figure", "scar", "stripes")
LOCKED = Kind(
    "locked", "support locked in", "a support stands in an opening and comes out in pieces only", "scar", "stripes"
)
MISHAP = Kind("mishap", "what no layer shows", "what no layer shows, as a prior", "print lost", stop="")


@source(OPEN)
def open_surface(sight: Sight) -> list[Hazard]:
    """Scan lines that run into a hole."""
    stack = sight.proof.stack
    if not stack.open_rows:
        return []
    share = stack.open_rows / (stack.open_rows + int((np.diff(stack.row_start) > 0).sum()))
    text = (
        f"{stack.open_rows:,} scan lines ({share:.1%}) run into "
        "a hole of the surface; what they found there is left out."
    )
    remedy = "Repair the mesh before printing."
    return [OPEN.at(0, (0.0, 0.0, 0.0), OPEN_SHARE, share, unit="share of scan lines", message=text, remedy=remedy)]


@source(OUTSIDE)
def outside_build(sight: Sight) -> list[Hazard]:
    """What is printed against the build space, its raft counted."""
    proof, printer = sight.proof, sight.context.printer
    grid, lift = proof.stack.grid, printer.raft_mm(sight.height)
    runs = proof.stack
    wide = float((runs.x_out.max() - runs.x_in.min()) * grid.unit) if len(runs.x_in) else 0.0
    rows = np.flatnonzero((np.diff(runs.row_start) > 0).reshape(grid.layers, grid.rows).any(axis=0))
    deep = float((rows[-1] - rows[0] + 1) * grid.pitch) if len(rows) else 0.0
    tall = grid.layers * grid.height + lift
    if fits_in((wide, deep, tall), printer.build_mm, (grid.pitch, grid.pitch, grid.height)):
        return []
    size = f"{wide:.1f} x {deep:.1f} x {tall:.1f} mm{' with the raft' if lift else ''}"
    room = " x ".join(f"{v:g}" for v in printer.build_mm)
    text = f"Figure and supports measure {size}; '{printer.name}' builds {room} mm."
    worst = max(has / room for has, room in zip((wide, deep, tall), printer.build_mm, strict=True))
    arises = Arises(given=CAP)
    remedy = "Make it smaller, or turn it."
    return [
        OUTSIDE.at(
            grid.layers - 1,
            (0.0, 0.0, tall),
            1.0,
            worst,
            unit="of the build space",
            message=text,
            remedy=remedy,
            arises=arises,
        )
    ]


def _together(kind: Kind, tips: Sequence[Tip], height: float, said: str, remedy: str) -> list[Hazard]:
    """One line for all of some supports, at the lowest of them; `said` of that one's height. They scar every print."""
    if not tips:
        return []
    low = min(tips, key=lambda tip: tip.z)
    layer, place = int(low.z / height), (low.x, low.y, low.z)
    many, sure = float(len(tips)), Arises(given=1.0)
    return [
        kind.at(
            layer,
            place,
            0.0,
            many,
            unit="supports",
            message=said.format(z=low.z),
            remedy=remedy,
            arises=sure,
            quiet=True,
        )
    ]


@source(STANDS)
def standing(sight: Sight) -> list[Hazard]:
    """Supports that stand on the figure, of those that come off."""
    tips = [tip for tip in sight.off if tip.scars_twice]
    many = len(tips) != 1
    said = (
        f"{len(tips)} support{'s stand' if many else ' stands'} on the figure "
        f"and scar{'' if many else 's'} it twice, the lowest below {{z:.1f}} mm."
    )
    remedy = "Turn the figure, or accept the scars where the surface is hidden."
    return _together(STANDS, tips, sight.height, said, remedy)


@source(LOCKED)
def locked(sight: Sight) -> list[Hazard]:
    """Supports that find no way out of the figure."""
    many = len(sight.locked) != 1
    said = (
        f"{len(sight.locked)} support{'s are' if many else ' is'} locked in by the figure around "
        f"{'them' if many else 'it'}, the lowest below {{z:.1f}} "
        f"mm: {'they come' if many else 'it comes'} out in pieces."
    )
    remedy = "Turn the figure, or cut them short with a fine blade."
    return _together(LOCKED, sight.locked, sight.height, said, remedy)


@source(MISHAP)
def mishap(sight: Sight) -> list[Hazard]:
    """In every print."""
    text = "What no layer shows: the plate's hold, power, an empty vat or spool. A prior until the log knows better."
    remedy = "Look after the first layers before leaving."
    arises = Arises(given=MISHAP_CHANCE)
    return [MISHAP.at(0, (0.0, 0.0, 0.0), 1.0, 1.0, unit="print", message=text, remedy=remedy, arises=arises)]
