"""Supports: where the figure needs holding, how it is held, and the proof that it is.

Terms. *Tip*: the small contact with the figure. *Head*: the cone from a tip to its pillar. *Pillar*: the straight column. *Foot*: its
end on the plate, the raft, or (flagged) the figure. *Lift*: how far the figure is raised so that it hangs on supports alone.
*Style*: `pillars` stand alone or carry short branches, `trees` meet on their way down, `blocks` are columns grown together.
"""

from .byhand import Edit
from .demand import Demand, Reachable, find_demand, reachable
from .inside import INSIDE_WEIGHT, seen_weights, stays_inside
from .load import BodyLoad, body_loads, tip_hold, touched
from .make import (
    RAFT_MARGIN_MM,
    RAFT_MM,
    STYLES,
    SupportError,
    SupportFinding,
    SupportSet,
    Tip,
    make_supports,
    needs_lift,
    raised,
    support_mesh,
)
from .manner import USUAL_RISK, Manner, manner_of, safety_factor, tip_pitch, usual_tip
from .margins import Carrying, Changed, needed, tip_loads, what_if
from .necks import Neck, necks
from .pieces import pieces

__all__ = [
    "INSIDE_WEIGHT",
    "RAFT_MARGIN_MM",
    "RAFT_MM",
    "STYLES",
    "USUAL_RISK",
    "BodyLoad",
    "Carrying",
    "Changed",
    "Demand",
    "Edit",
    "Manner",
    "Neck",
    "Reachable",
    "SupportError",
    "SupportFinding",
    "SupportSet",
    "Tip",
    "body_loads",
    "find_demand",
    "make_supports",
    "manner_of",
    "necks",
    "needed",
    "needs_lift",
    "pieces",
    "raised",
    "reachable",
    "safety_factor",
    "seen_weights",
    "stays_inside",
    "support_mesh",
    "tip_hold",
    "tip_loads",
    "tip_pitch",
    "touched",
    "usual_tip",
    "what_if",
]
