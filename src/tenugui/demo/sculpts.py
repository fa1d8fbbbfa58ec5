"""Every sculpt by name."""

from __future__ import annotations

from .beasts import heron_courier, shrine_lantern, stilt_giant_stilts, stilt_giant_upper
from .people import ferry_keeper, reed_warden, toad_abbot

SCULPTS = {
    "reed-warden": reed_warden,
    "toad-abbot": toad_abbot,
    "ferry-keeper": ferry_keeper,
    "heron-courier": heron_courier,
    "stilt-giant-upper": stilt_giant_upper,
    "stilt-giant-stilts": stilt_giant_stilts,
    "shrine-lantern": shrine_lantern,
}
