"""Which way up: directions weighed in one compiled pass, and a few good compromises out of them."""

from .choose import (
    NAMES,
    PRIORITIES,
    Candidate,
    PoseChoice,
    Search,
    choose_poses,
    rank_poses,
    search_poses,
    why_not,
    wish_of,
)
from .directions import quaternion_to_plate, resting_directions, rotation_to_plate, spread_directions
from .place import Placement, fitting, hull_points, largest_factor, placement, posed
from .search import AIMS, PoseTable, Scale, thin_rods, weigh

__all__ = [
    "AIMS",
    "NAMES",
    "PRIORITIES",
    "Candidate",
    "Placement",
    "PoseChoice",
    "PoseTable",
    "Scale",
    "Search",
    "choose_poses",
    "fitting",
    "hull_points",
    "largest_factor",
    "placement",
    "posed",
    "quaternion_to_plate",
    "rank_poses",
    "resting_directions",
    "rotation_to_plate",
    "search_poses",
    "spread_directions",
    "thin_rods",
    "weigh",
    "why_not",
    "wish_of",
]
