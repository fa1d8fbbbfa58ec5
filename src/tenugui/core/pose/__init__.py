"""Which way up: directions weighed in one compiled pass, and a few good compromises out of them."""

from .candidate import Candidate, beside
from .choose import PoseChoice, Search, rank_poses, search_poses
from .directions import (
    Direction,
    DirectionError,
    quaternion_to_plate,
    resting_directions,
    rotation_to_plate,
    spread_directions,
    unit,
)
from .front import front_of
from .place import Placement, fitting, hull_points, largest_factor, placement, posed
from .price import KNOCK_N, Pace, falls, foot_hold, foot_that_holds, overturning, plinths, stuff_of
from .search import AIMS, PoseTable, Scale, thin_rods, weigh
from .upright import (
    AXES,
    Z_UP,
    Up,
    guess_up,
    height_along,
    is_sure,
    settled_up,
    standing,
    up_of,
)
from .wish import Wish, wish_of
from .words import NAMES, why_not

__all__ = [
    "AIMS",
    "AXES",
    "KNOCK_N",
    "NAMES",
    "Z_UP",
    "Candidate",
    "Direction",
    "DirectionError",
    "Pace",
    "Placement",
    "PoseChoice",
    "PoseTable",
    "Scale",
    "Search",
    "Up",
    "Wish",
    "beside",
    "falls",
    "fitting",
    "foot_hold",
    "foot_that_holds",
    "front_of",
    "guess_up",
    "height_along",
    "hull_points",
    "is_sure",
    "largest_factor",
    "overturning",
    "placement",
    "plinths",
    "posed",
    "quaternion_to_plate",
    "rank_poses",
    "resting_directions",
    "rotation_to_plate",
    "search_poses",
    "settled_up",
    "spread_directions",
    "standing",
    "stuff_of",
    "thin_rods",
    "unit",
    "up_of",
    "weigh",
    "why_not",
    "wish_of",
]
