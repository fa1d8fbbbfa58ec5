"""What a run freezes: everything that was set, in words, and what differs from another run."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Literal

from ..contract import Choice, FrozenLine, LineChanged
from ..machines import form_of
from .folds import FOLDS
from .given import FigureGiven, Spec

Where = Literal["plan", "printer", "material", "room"]
NOT_SET = "not set"
LAYERS = "Layers in all"
"""The line that tells how many a print has: what came of the settings, and none of them."""


def frozen_of(choices: Mapping[str, Choice], given: FigureGiven, room: Mapping[str, str]) -> list[FrozenLine]:
    """All that was set of a plan with these choices on the machine that it is made for; `room`: what somebody noted of
    the day by its name, such as the lot or the nozzle.
    """
    lines = [
        FrozenLine(where="plan", name=spec.title, value=spec.worded(choices[spec.name]))
        for spec in FOLDS
        if spec.name in choices and spec.asks(choices)
    ]
    lines += _of_shelf("printer", "printers", given.printer) + _of_shelf("material", "materials", given.material)
    return lines + [FrozenLine(where="room", name=name, value=value) for name, value in room.items() if value]


def layers_in(lines: Sequence[FrozenLine]) -> int | None:
    """How many layers a run has, by its own sheet."""
    said = next((line.value for line in lines if line.name == LAYERS), None)
    return int(said) if said and said.isdecimal() else None


def settings_in(lines: Sequence[FrozenLine]) -> list[FrozenLine]:
    """What was set of the plan, the printer and the material: not what was noted of the day."""
    return [line for line in lines if line.where != "room" and line.name != LAYERS]


def _of_shelf(where: Where, table: Literal["printers", "materials"], spec: Spec) -> list[FrozenLine]:
    lines = [FrozenLine(where=where, name="Name", value=str(spec["name"]))]
    for field in form_of(table, str(spec["process"])):
        value = spec.get(field.name, field.default)
        lines.append(
            FrozenLine(where=where, name=field.title, value=_worded(value, field.unit, field.words, field.low))
        )
    return lines


def _worded(value: Any, unit: str, words: Sequence[str], low: float) -> str:
    if value is None:
        return NOT_SET
    if words and not isinstance(value, (list, tuple)):
        place = int(value) - int(low)
        return words[place] if 0 <= place < len(words) else str(value)
    many = value if isinstance(value, (list, tuple)) else [value]
    said = ", ".join(f"{v:g}" if isinstance(v, (int, float)) and not isinstance(v, bool) else str(v) for v in many)
    return f"{said} {unit}".strip()


def changed(now: Sequence[FrozenLine], before: Sequence[FrozenLine]) -> list[LineChanged]:
    """What was set otherwise before, in the order of now; what was set then and is not asked any more comes last."""
    was = {(line.where, line.name): line.value for line in before}
    there = {(line.where, line.name) for line in now}
    lines = [
        LineChanged(where=line.where, name=line.name, now=line.value, before=was.get((line.where, line.name), NOT_SET))
        for line in now
        if was.get((line.where, line.name), NOT_SET) != line.value
    ]
    gone = [line for line in before if (line.where, line.name) not in there and line.value != NOT_SET]
    return lines + [LineChanged(where=line.where, name=line.name, now=NOT_SET, before=line.value) for line in gone]
