"""The pipeline: from a mesh on a shelf to a proved plan. Pure: the workers run it with the store behind it, the command
line in memory.

Terms. *Task*: a computation with a version and named inputs. *Shelf*: where content and results are kept. *Fold*: a
question of a plan, with the board of its task. *Held*: a supported and proved figure, shared by all later folds.
"""

from . import (  # every task registers itself
    bare,
    hollow,
    inputs,
    layers,
    marks,
    others,
    parting,
    pose,
    printfile,
    proof,
    size,
    slices,
    supported,
    supports,
    trial,
    walls,
    what_if,
)
from .again import at_size, mirrored, without_twins
from .bare import bare_heights
from .beside import sets_beside, side_of
from .chain import Chain, run_chain, sized
from .cut_out import lattice_of
from .drills import drills
from .figure import mirror_of
from .folds import FOLDS
from .frozen import changed, frozen_of
from .given import Given
from .holes import findings_of, sorted_holes, suggested
from .hollow import judge_holes
from .inputs import Inputs
from .layers import profile_of
from .offer import MOST_PIECES, offer_sheet
from .on_plate import PieceGiven, PlateGiven
from .overnight import overnight
from .parts import parts_of
from .pose import SearchDoc, search_from, searched
from .printed import ENDINGS, judged_file
from .printfile import layer_path, layer_picture
from .proof import beams_3mf, stand_of, written
from .reading import Fold, board_size, model_of, next_of, read_choices, read_folds, recommended, spec_of
from .sheet import clock, run_sheet
from .shelf import Memory, MemoryShelf, Shelf
from .size import CopyDoc, copy_of, thin_of, upright_of
from .spec import Chosen, FoldSpec, PlanBase, Taken, must, of
from .supported import PlanError
from .supports import RISKS, held_of
from .tasks import (
    DRAFT,
    Progress,
    Task,
    computed,
    draft_key,
    engine_of,
    kept,
    key_of,
    narrowed,
    quiet,
    task_names,
    task_of,
)
from .walk import Stacked, layer_of
from .week import WeekGiven
from .what_if import Kept, back_off_of, held_if_made, kept_set, needed_of, what_if_of

__all__ = [
    "DRAFT",
    "ENDINGS",
    "FOLDS",
    "MOST_PIECES",
    "RISKS",
    "Chain",
    "Chosen",
    "CopyDoc",
    "Fold",
    "FoldSpec",
    "Given",
    "Inputs",
    "Kept",
    "Memory",
    "MemoryShelf",
    "PieceGiven",
    "PlanBase",
    "PlanError",
    "PlateGiven",
    "Progress",
    "SearchDoc",
    "Shelf",
    "Stacked",
    "Taken",
    "Task",
    "WeekGiven",
    "at_size",
    "back_off_of",
    "bare",
    "bare_heights",
    "beams_3mf",
    "board_size",
    "changed",
    "clock",
    "computed",
    "copy_of",
    "draft_key",
    "drills",
    "engine_of",
    "findings_of",
    "frozen_of",
    "held_if_made",
    "held_of",
    "hollow",
    "inputs",
    "judge_holes",
    "judged_file",
    "kept",
    "kept_set",
    "key_of",
    "lattice_of",
    "layer_of",
    "layer_path",
    "layer_picture",
    "layers",
    "marks",
    "mirror_of",
    "mirrored",
    "model_of",
    "must",
    "narrowed",
    "needed_of",
    "next_of",
    "of",
    "offer_sheet",
    "others",
    "overnight",
    "parting",
    "parts_of",
    "pose",
    "printfile",
    "profile_of",
    "proof",
    "quiet",
    "read_choices",
    "read_folds",
    "recommended",
    "run_chain",
    "run_sheet",
    "search_from",
    "searched",
    "sets_beside",
    "side_of",
    "size",
    "sized",
    "slices",
    "sorted_holes",
    "spec_of",
    "stand_of",
    "suggested",
    "supported",
    "supports",
    "task_names",
    "task_of",
    "thin_of",
    "trial",
    "upright_of",
    "walls",
    "what_if",
    "what_if_of",
    "without_twins",
    "written",
]
