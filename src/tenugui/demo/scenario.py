"""The club's bench as it is found: which figures lie there, how far each is planned, and the story of the log."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Planned:
    """A figure's height in mm, its machine and material, how many folds are settled, and whether it is marked as it
    says of itself.
    """

    height_mm: float
    printer: str
    material: str
    folds: int
    marked: bool = False


PLANNED = {
    "reed-warden": Planned(54.0, "heron", "lantern grey", 5, True),
    "ferry-keeper": Planned(100.0, "kestrel", "marsh matte", 5),
    "toad-abbot": Planned(40.0, "heron", "reed tough", 3, True),
    "shrine-lantern": Planned(60.0, "heron", "lantern grey", 2),
    "heron-courier": Planned(60.0, "heron", "lantern grey", 1),
}
WAITING = ("reed-warden-broken", "toad-abbot-inches", "ferry-keeper-presupported")
KIT = ("stilt-giant.3mf", ("stilt-giant-upper", "stilt-giant-stilts"))
RISE_MM = 77.8
"""How far the giant's trunk stands above its own frame when its collars rest on the stilts'."""
LAID = [{"tool": "propose", "what": "unseen", "kind": "hidden"}, {"tool": "propose", "what": "seen", "kind": "show"}]


@dataclass(frozen=True)
class Told:
    """A run of the story: days ago, result, how supports came off (1 to 5), a note, real over planned time, the layer
    where it failed.
    """

    days: float
    result: str
    removal: int | None
    note: str
    slower: float = 1.04
    failed_layer: int | None = None


STORY = {
    "reed-warden": (
        Told(13.4, "good", 2, "first of six for the reed gate; one hair at the spear's tip"),
        Told(11.6, "scarred", 3, "pits under the cloak's hem, sanded with 220"),
        Told(9.8, "good", 2, "second"),
        Told(7.9, "part lost", 4, "spear snapped while clipping, glued; next time supports off before curing"),
        Told(6.1, "good", 1, "supports off before curing, in warm water: nothing snapped"),
        Told(4.2, "print lost", None, "came off the plate in the lower third; plate cleaned and levelled", 0.4, 212),
        Told(2.3, "good", 1, "after levelling; fifth"),
        Told(0.6, "good", 2, "sixth, the gate is full"),
    ),
    "ferry-keeper": (
        Told(12.2, "scarred", 4, "underside rough, blocks hard to take off", 1.13),
        Told(8.7, "print lost", None, "ran out of filament overnight", 0.7, 388),
        Told(5.0, "good", 3, "new spool, dried first; strings between pole and shoulder, flamed off", 1.11),
        Told(1.4, "good", 3, "for the landing stage", 1.12),
    ),
}
