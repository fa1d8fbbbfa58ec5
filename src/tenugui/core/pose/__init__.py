"""Which way up: directions weighed in one compiled pass, and a few good compromises out of them."""

from .choose import Candidate, PoseChoice, choose_poses
from .directions import quaternion_to_plate, resting_directions, rotation_to_plate, spread_directions
from .place import Placement, hull_points, largest_factor, placement, posed
from .search import AIMS, PoseTable, weigh

__all__ = [
    "AIMS",
    "Candidate",
    "Placement",
    "PoseChoice",
    "PoseTable",
    "choose_poses",
    "hull_points",
    "largest_factor",
    "placement",
    "posed",
    "quaternion_to_plate",
    "resting_directions",
    "rotation_to_plate",
    "spread_directions",
    "weigh",
]
