"""The risk ledger: every hazard with its place, the two numbers whose margin it is, its chance, what is lost and what would cure it."""

from .codes import HAZARDS
from .hazard import Hazard, chance, combined, rescattered
from .ledger import MISHAP, PART_MM, PART_SHARE, ledger

__all__ = ["HAZARDS", "MISHAP", "PART_MM", "PART_SHARE", "Hazard", "chance", "combined", "ledger", "rescattered"]
