"""Which factors of a series the engine itself can set in a plan; the others are set on the machine."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..machines import Own, settable
from ..machines.own import Table
from ..series import Spec
from ..series.spec import Level

HEIGHT, RISK = "height mm", "risk a tip"
CALLED = {
    "gap mm": "support_gap_mm",
    "roof layers": "interface_layers",
    "roof share": "interface_density",
    "support share": "support_density",
    "wall mm/s": "wall_mm_s",
    "nozzle °C": "nozzle_c",
    "seconds": "exposure_s",
}
"""Factors by the names that shipped series give them, and the numbers of a machine or material that they are."""
_FIELDS = {name: table for process in ("resin", "filament") for table, name in settable(process)}


@dataclass(frozen=True)
class Wanted:
    """What the plan of a cell differs in: `height` in mm and accepted `risk` of a tip, None where the series has no
    such factor, and settings of its `own` (table, field, value).
    """

    height: float | None
    risk: float | None
    own: tuple[tuple[Table, str, float], ...]

    @property
    def as_own(self) -> Own:
        """By table and field, as plans keep them."""
        tables = dict.fromkeys(table for table, _, _ in self.own)
        return {table: {name: value for at, name, value in self.own if at == table} for table in tables}


def field_of(factor: str) -> tuple[Table, str] | None:
    """The table and number of a machine that a factor is; None where it is none.

    >>> field_of("gap mm"), field_of("fan"), field_of("moon")
    (('printers', 'support_gap_mm'), ('printers', 'fan'), None)
    """
    name = CALLED.get(factor, factor)
    return (_FIELDS[name], name) if name in _FIELDS else None


def set_in_plans(spec: Spec) -> list[str]:
    """Factors that plans of the cells differ in.

    >>> spec = Spec(factors={"height mm": [0.1, 0.2], "wall mm/s": [40, 60], "table": ["by the wall", "by the door"]},
    ...             responses={"grade": "grade"}, repeats=1, rate_per_h=None)
    >>> set_in_plans(spec), by_hand(spec)
    (['height mm', 'wall mm/s'], ['table'])
    """
    return [name for name in spec.factors if _set(name, spec.factors[name])]


def by_hand(spec: Spec) -> list[str]:
    """Factors that somebody sets on the machine before the print."""
    return [name for name in spec.factors if not _set(name, spec.factors[name])]


def _set(factor: str, levels: list[Level]) -> bool:
    known = factor in (HEIGHT, RISK) or field_of(factor) is not None
    return known and all(isinstance(level, int | float) and not isinstance(level, bool) for level in levels)


def wanted(levels: Mapping[str, Level]) -> Wanted:
    """What the plan of a cell with these levels differs in.

    >>> wanted({"height mm": 0.1, "wall mm/s": 40, "table": "by the door"})
    Wanted(height=0.1, risk=None, own=(('printers', 'wall_mm_s', 40.0),))
    """
    numbers = {name: float(level) for name, level in levels.items() if _set(name, [level])}
    fields = [(field, value) for name, value in numbers.items() if (field := field_of(name))]
    own = tuple((table, name, value) for (table, name), value in fields)
    return Wanted(numbers.get(HEIGHT), numbers.get(RISK), own)
