"""What starts in mid air."""

from __future__ import annotations

from ..hazards import Hazard, Kind, Sight, source
from ..layers import is_slight

FREE_LAYERS = 2.0
"""Prior: layers an unheld island may grow before it drifts, on average."""
ISLAND = Kind(
    "island",
    "starts in mid air",
    "something starts in mid air with nothing to hold it",
    "part lost",
    "scales",
    stop="starts",
)


@source(ISLAND)
def islands(sight: Sight) -> list[Hazard]:
    """Islands of figure and supports together; those of relief scar."""
    hazards = []
    for i in sight.proof.islands:
        alone = i.until_layer - i.layer
        where = (
            f"joins {alone * sight.height:.2f} mm higher"
            if i.joins_layer is not None
            else "and never joins anything older"
        )
        text = f"Starts in mid air at {i.z:.2f} mm, {i.area:.2g} mm², {where}."
        remedy = "Support it, or turn the figure so that it grows out of the body."
        slight = is_slight(i, sight.height)
        hazards.append(
            ISLAND.at(
                i.layer,
                (i.x, i.y, i.z),
                FREE_LAYERS,
                float(alone),
                unit="layers alone",
                message=text,
                remedy=remedy,
                loss="scar" if slight else None,
                quiet=slight,
            )
        )
    return hazards
