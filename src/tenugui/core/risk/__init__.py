"""The risk ledger: what the layers tell, supports scar and thin parts threaten, beside what each process has to fear;
in the order of what it costs.
"""

from . import drawn, islands, ledges, meeting, thin, whole  # every source registers itself
from .ledger import ledger
from .thin import PART_MM, PART_SHARE
from .whole import MISHAP_CHANCE

__all__ = ["MISHAP_CHANCE", "PART_MM", "PART_SHARE", "drawn", "islands", "ledger", "ledges", "meeting", "thin", "whole"]
