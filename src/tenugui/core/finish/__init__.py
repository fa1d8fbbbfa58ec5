"""Off the plate: what is done with a print until it can be painted, in its order, with amounts, times and cautions; and
whether a failed one is mended or printed again.
"""

from .mend import MENDED, Failed, Way, mend_or_print
from .steps import Finishing, School, Step, ends_by, steps_of
from .tray import TrayStep, in_step
from .woven import STATIONS, Until, steps_until

__all__ = [
    "MENDED",
    "STATIONS",
    "Failed",
    "Finishing",
    "School",
    "Step",
    "TrayStep",
    "Until",
    "Way",
    "ends_by",
    "in_step",
    "mend_or_print",
    "steps_of",
    "steps_until",
]
