"""Supports: where the figure needs holding, how it is held, and the proof that it is.

Terms. *Tip*: the small contact with the figure. *Head*: the cone from a tip to its pillar. *Pillar*: the straight
column. *Foot*: its end on the plate, the raft, or (flagged) the figure. *Lift*: how far the figure is raised so that it
hangs on supports alone.
*Style*: `pillars` stand alone or carry short branches, `trees` meet on their way down, `blocks` are columns grown
together, `areas` carry whole undersides on one body each. *Region*: contacts that stand close together.
"""

from .backoff import BackOff, back_off
from .body import RAFT_MARGIN_MM, RAFT_MM, beams_of, raft_solid, support_mesh, support_parts
from .byhand import LEAST_DENSITY, MOST_DENSITY, MOST_GAP_LAYERS, Edit, HandOp
from .demand import MAX_TIPS, Demand, find_demand
from .firm import FOOT_MPA, Firmness, Footing, footings
from .holds import tip_hold
from .inside import INSIDE_WEIGHT, seen_weights, stays_inside
from .load import BodyLoad, body_loads
from .make import (
    SupportError,
    make_supports,
    needs_lift,
    raised,
)
from .manner import (
    LEDGES,
    FilamentManner,
    Manner,
    ResinManner,
    manner_of,
    margin_of,
    safety_factor,
    tip_pitch,
    usual_tip,
)
from .margins import Carrying, Changed, needed, surface_margins, tip_loads, what_if
from .minutes import CUT_MIN, PIECE_MIN, SAND_MIN, SCAR_MIN, tip_minutes
from .necks import Neck, necks
from .pieces import pieces
from .reach import Reachable, reachable
from .regions import regions, regions_of_tips
from .style import STYLES
from .support_set import SupportFinding, SupportSet
from .tip import Brace, Tip
from .touch import touched

__all__ = [
    "CUT_MIN",
    "FOOT_MPA",
    "INSIDE_WEIGHT",
    "LEAST_DENSITY",
    "LEDGES",
    "MAX_TIPS",
    "MOST_DENSITY",
    "MOST_GAP_LAYERS",
    "PIECE_MIN",
    "RAFT_MARGIN_MM",
    "RAFT_MM",
    "SAND_MIN",
    "SCAR_MIN",
    "STYLES",
    "BackOff",
    "BodyLoad",
    "Brace",
    "Carrying",
    "Changed",
    "Demand",
    "Edit",
    "FilamentManner",
    "Firmness",
    "Footing",
    "HandOp",
    "Manner",
    "Neck",
    "Reachable",
    "ResinManner",
    "SupportError",
    "SupportFinding",
    "SupportSet",
    "Tip",
    "back_off",
    "beams_of",
    "body_loads",
    "find_demand",
    "footings",
    "make_supports",
    "manner_of",
    "margin_of",
    "necks",
    "needed",
    "needs_lift",
    "pieces",
    "raft_solid",
    "raised",
    "reachable",
    "regions",
    "regions_of_tips",
    "safety_factor",
    "seen_weights",
    "stays_inside",
    "support_mesh",
    "support_parts",
    "surface_margins",
    "tip_hold",
    "tip_loads",
    "tip_minutes",
    "tip_pitch",
    "touched",
    "usual_tip",
    "what_if",
]
