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
    where it failed and by which hazard; the lot, the film and the room of the day.
    """

    days: float
    result: str
    removal: int | None
    note: str
    slower: float = 1.04
    failed_layer: int | None = None
    cause: str | None = None
    lot: str = ""
    film: str = ""
    room_c: float = 21.0


STORY = {
    "reed-warden": (
        Told(41.4, "good", 2, "first of six for the reed gate; one hair at the spear's tip", lot="G-11"),
        Told(37.6, "scarred", 3, "pits under the cloak's hem, sanded with 220", lot="G-11"),
        Told(33.8, "good", 2, "second", lot="G-11"),
        Told(29.9, "part lost", 4, "spear snapped at the cutter; supports off first, next", 1.04, None, "thin", "G-11"),
        Told(26.1, "good", 1, "supports off before curing, in warm water: nothing snapped", lot="G-11", film="cloudy"),
        Told(21.2, "print lost", None, "came off in the lower third", 0.4, 212, "pull", "G-12", "cloudy", 17.0),
        Told(19.5, "print lost", None, "again, nearly there; loud peeling", 0.4, 240, "pull", "G-12", "cloudy", 17.0),
        Told(15.3, "good", 1, "new film, and the room heated: quiet again", lot="G-12", film="new", room_c=22.0),
        Told(9.0, "good", 2, "fifth", lot="G-12", film="that one", room_c=22.0),
        Told(4.6, "good", 2, "sixth, the gate is full", lot="G-12", room_c=22.0),
    ),
    "ferry-keeper": (
        Told(38.2, "scarred", 4, "underside rough, blocks hard to take off", 1.13, lot="M-3"),
        Told(30.7, "print lost", None, "ran out of filament overnight", 0.7, 388, "mishap", "M-3"),
        Told(18.0, "good", 3, "new spool, dried first; strings between pole and shoulder, flamed off", 1.11, lot="M-4"),
        Told(11.4, "part lost", 3, "a lock of the beard hung down: nothing stood under it", 1.12, 301, "island", "M-4"),
        Told(2.4, "good", 3, "for the landing stage", 1.12, lot="M-4"),
    ),
}  # fmt: skip


@dataclass(frozen=True)
class Wanted:
    """An order: its name, how many, in how many days at which hour, and how far off the plate."""

    name: str
    copies: int
    days: int
    hour: int
    goes: str


ORDERS = {
    "reed-warden": (Wanted("wardens for the lamp man", 3, 2, 21, "clean"),),
    "ferry-keeper": (Wanted("keepers of both landings", 2, 4, 12, "primed"),),
}
PLATES = {"reed-warden": ("Gate of reed wardens", 12)}
"""Plates by the figure that lies on them: their name, and how many."""
