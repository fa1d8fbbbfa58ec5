"""What can go wrong with a print: one type from whatever finds it to the page, and one registry of what finds it.

Terms. *Kind*: what the ledger can name, declared beside the source that finds it. *Hazard*: one of a kind, at a place,
with its evidence. *Source*: a function that looks at a proved figure (*Sight*) and finds hazards; it registers itself,
and ledger, trial prints, boards and page know it from then on.
"""

from .hazard import CAP, Arises, Hazard, Kind, Loss, Part, Pattern, Stop, chance, combined
from .sources import Sight, found_by, kinds, source

__all__ = [
    "CAP",
    "Arises",
    "Hazard",
    "Kind",
    "Loss",
    "Part",
    "Pattern",
    "Sight",
    "Stop",
    "chance",
    "combined",
    "found_by",
    "kinds",
    "source",
]
