"""Steps off the plate: who does what for how long, how much of it, with what, and what to mind."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..machines import kind_of
from ..machines.after import AIR_MIN, CURE_MIN, WASH_MIN

School = Literal["before", "after"]
"""Supports come off before the lamp, or after it."""
DRIP_MIN, LIFT_MIN, FLUSH_MIN, TURN_MIN, PLUG_MIN = 10.0, 4.0, 1.5, 1.0, 4.0
COOL_MIN, STRING_MIN, STRINGS = 15.0, 1.0, 400.0
SAND_MM2_MIN, FILL_MIN, PRIME_MIN, PRIME_DRY, LOOK_SHARE = 1.5, 6.0, 4.0, 30.0, 0.3
COAT_MIN, COAT_DRY = 15.0, 60.0
"""Priors: minutes to let it drip, to take it off the plate, to flush a hole, to turn it under the lamp, to plug a hole;
to let it cool; for so many crossings of strings; mm² of scars that are sanded a minute through all grits; minutes to
fill, to prime and until that is dry, which share of the sanding the primer asks for once more; a first coat, and until
it is dry.
"""
AFTER_CURE = 1.6
"""Prior: supports that were cured take so many times as long, and leave pits."""
GLOVES = "Nitrile gloves and eye protection: uncured resin irritates and sensitises. Safety data sheet first."
FLUID = "Flammable vapours: no flame, no spark, a closed vessel. Never down the drain: local rules for waste."
LAMP = "Do not look in; the lid switch stays in force. Liquid left inside can burst it: flush it first."
CHIPS = "Chips fly and tips are needles: eye protection; cut away from yourself; sweep the floor."
DUST = "Wet, or with a dust mask: dust of prints is not for lungs."
PRIMER = "Outdoors or in an extracted booth, the right respirator, no ignition. The can's own sheet comes first."
HOT = "Hot things burn and melting plastic gives fumes: ventilate; no solvent near."
GLUE = "Glue sticks skin and irritates eyes: gloves, air; its own sheet first."


@dataclass(frozen=True)
class Finishing:
    """What a proved plan says of its work: minutes and tips of each group of supports in their order, mm² that supports
    touched, minutes by hand that its proof counts in all, cavities' holes, how many crossings draw strings; `times`:
    what these hands take beside what is reckoned, not counted in these minutes.
    """

    process: str
    groups: tuple[tuple[str, int, float], ...]
    contact_mm2: float
    hands_min: float
    holes: int
    plugs: bool
    strings: float
    times: float = 1.0


@dataclass(frozen=True)
class Step:
    """`minutes` of somebody's hands, or alone; `amount` of what, `using` what, and its caution; `start` in minutes from
    the first step.
    """

    name: str
    start: float
    minutes: float
    hands: bool
    amount: str
    using: str
    caution: str


Given = tuple[str, float, bool, str, str, str]


def steps_of(work: Finishing, school: School) -> list[Step]:
    """Steps in their order, each begun when the one before is done.

    >>> work = Finishing("resin", (("front", 3, 2.0),), 0.6, 12.0, 0, False, 0.0)
    >>> [s.name for s in steps_of(work, "before")][:4]
    ['let it drip', 'off the plate', 'first bath', 'cleaner fluid']
    """
    hangs = kind_of(work.process).printer.hangs
    rows = _wet(work, school) if hangs else _dry(work)
    rows += _surface(work, sum(m for *_, m in work.groups))
    steps, at = [], 0.0
    for name, reckoned, hands, amount, using, caution in rows:
        minutes = reckoned * work.times if hands else reckoned
        if minutes <= 0:
            continue
        steps.append(Step(name, at, round(minutes, 1), hands, amount, using, caution))
        at += round(minutes, 1)
    return steps


def ends_by(steps: Sequence[Step]) -> float:
    """Minutes from the first step until all is done."""
    return steps[-1].start + steps[-1].minutes if steps else 0.0


def _count(n: int, what: str) -> str:
    return f"{n} {what}{'s' * (n != 1)}"


def _off(work: Finishing, times: float, caution: str) -> list[Given]:
    """Supports by groups, in the order in which they can be reached."""
    return [
        (
            # Each by a name of its own: a side may come again, once others are out of the way.
            f"supports off, {k + 1} of {len(work.groups)}, {'from below' if side == 'below' else f'from its {side}'}",
            minutes * times,
            True,
            _count(tips, "tip"),
            "flush cutters, warm water" if times == 1.0 else "flush cutters, a fine saw",
            caution,
        )
        for k, (side, tips, minutes) in enumerate(work.groups)
    ]


def _wet(work: Finishing, school: School) -> list[Given]:
    """What hangs in resin."""
    rows: list[Given] = [
        ("let it drip", DRIP_MIN, False, "", "hung over the vat", GLOVES),
        ("off the plate", LIFT_MIN, True, "", "a scraper, away from the hand", GLOVES),
        ("first bath", WASH_MIN, False, "", "washing fluid that has seen few figures", FLUID),
        ("cleaner fluid", WASH_MIN, False, "", "the second bath, with a soft brush", FLUID),
    ]
    if work.holes:
        flushed = FLUSH_MIN * work.holes
        rows.append(("flush the cavity", flushed, True, _count(work.holes, "hole"), "a syringe of clean fluid", FLUID))
    rows.append(("dry in the air", AIR_MIN, False, "", "until nothing is wet", GLOVES))
    if school == "before":
        rows += _off(work, 1.0, f"{CHIPS} {GLOVES}")
    sides = [("cure one side", CURE_MIN), ("turn it", TURN_MIN), ("cure the other side", CURE_MIN)]
    sides += [("cure the cavity", CURE_MIN * (work.holes > 0))]
    rows += [(name, minutes, name == "turn it", "", "the lamp", LAMP) for name, minutes in sides]
    if school == "after":
        rows += _off(work, AFTER_CURE, CHIPS)
    if work.plugs:
        rows.append(("plug the holes", PLUG_MIN * work.holes, True, _count(work.holes, "plug"), "glue", GLUE))
    return rows


def _dry(work: Finishing) -> list[Given]:
    """What stands in filament."""
    rows: list[Given] = [
        ("let it cool", COOL_MIN, False, "", "on its plate: it lets go by itself", HOT),
        ("off the plate", LIFT_MIN, True, "", "bend the plate, no blade towards the hand", CHIPS),
    ]
    rows += _off(work, 1.0, CHIPS)
    hairs = STRING_MIN * work.strings / STRINGS
    if hairs >= 0.5:
        rows.append(("hairs off", hairs, True, f"some {work.strings:,.0f} crossings", "a heat gun, quickly by", HOT))
    return rows


def _surface(work: Finishing, off_min: float) -> list[Given]:
    """What is alike for all: scars, filler, primer as an inspection, a second look, a first coat."""
    scars = work.contact_mm2 / SAND_MM2_MIN
    # What the proof counts beyond taking supports off and their scars are steps and droops.
    rest = max(0.0, work.hands_min - off_min - scars)
    touched = f"{work.contact_mm2:.1f} mm²"
    rows: list[Given] = []
    if work.contact_mm2 >= 0.05:
        rows.append(("sand the scars", max(1.0, scars), True, touched, "paper of 240, 400, then 600", DUST))
    rows += [
        ("smooth steps and undersides", rest, True, "where it shows", "400 to 800, or a scraper", DUST),
        ("fill what is left", FILL_MIN * (work.contact_mm2 >= 1.0), True, "pits and gaps", "filler, thinly", DUST),
        ("prime", PRIME_MIN, True, "one thin coat", "grey primer: it shows what the eye missed", PRIMER),
        ("primer dries", PRIME_DRY, False, "", "dust-free", PRIMER),
        ("second look", max(2.0, LOOK_SHARE * (scars + rest)), True, "what the primer shows", "600 and filler", DUST),
        ("first coat", COAT_MIN, True, "all over", "a brush or an airbrush", PRIMER),
        ("it dries", COAT_DRY, False, "", "dust-free", ""),
    ]
    return rows
