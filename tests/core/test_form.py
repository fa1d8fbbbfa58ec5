"""Printers and materials as a form."""

from __future__ import annotations

import itertools
from typing import Any, Literal

import pytest

from tenugui.core.machines import (
    FilamentPrinter,
    MachineError,
    Material,
    ResinPrinter,
    form_of,
    from_dict,
    motor_step,
    printer_heights,
)
from tenugui.core.machines.fields import UNASKED
from tests.presets import FILAMENT, KESTREL

Table = Literal["printers", "materials"]
ProcessName = Literal["resin", "filament"]
MODELS: dict[tuple[Table, ProcessName], Any] = {
    ("printers", "resin"): ResinPrinter,
    ("printers", "filament"): FilamentPrinter,
    ("materials", "resin"): Material,
}


@pytest.mark.parametrize(("table", "process"), MODELS)
def test_every_number_of_a_model_is_asked(table: Table, process: ProcessName) -> None:
    asked = {f.name for f in form_of(table, process)}
    assert asked == set(MODELS[table, process].model_fields) - UNASKED


@pytest.mark.parametrize(("table", "process"), [*MODELS, ("materials", "filament")])
def test_the_form_takes_what_the_model_takes_and_nothing_else(table: Table, process: ProcessName) -> None:
    """The ends of each range are sound and a step past them is not: the form cannot promise what the door refuses."""
    model = MODELS.get((table, process), Material)
    fields = form_of(table, process)
    usual = {"build_mm": [200, 100, 200], "pixels": [4000, 2000], "density_g_ml": 1.1, "cost": 30.0}
    plain = {"name": "wader", "process": process} | {
        f.name: usual[f.name] for f in fields if f.default is None and not f.optional
    }
    from_dict(model, plain, "thing")
    for f in (f for f in fields if f.name not in ("second_exposure", "overhang_test", "line_mm", "nozzle_mm")):
        for end, past in ((f.low, f.low - 1), (f.high, f.high * 1.5 + 1)):
            values = [past] * f.many
            with pytest.raises(MachineError, match=f.name):
                from_dict(model, plain | {f.name: values if f.many > 1 else past}, "thing")
            if f.above and end == f.low:
                continue
            sound = [int(end) if f.kind == "whole" else end] * f.many
            from_dict(model, plain | {f.name: sound if f.many > 1 else sound[0]}, "thing")


@pytest.mark.parametrize(("table", "process"), [*MODELS, ("materials", "filament")])
def test_a_choice_is_asked_in_words(table: Table, process: ProcessName) -> None:
    """A whole number of a few values is no amount: each of them has its word, and an amount has none."""
    for f in form_of(table, process):
        few = f.kind == "whole" and f.high - f.low < 4
        assert len(set(f.words)) == (int(f.high - f.low) + 1 if few else 0), f.name


def test_groups_stay_together() -> None:
    for table, process in MODELS:
        groups = [f.group for f in form_of(table, process)]  # type: ignore[arg-type]
        assert len([g for g, _ in itertools.groupby(groups)]) == len(set(groups))


def test_both_schools_of_heights_are_offered() -> None:
    """Full steps alone, or half steps as good: each height says which it is."""
    strict, free = (KESTREL.model_copy(update={"half_steps": school}) for school in (0, 1))
    assert [motor_step(strict, h)[0] for h in printer_heights(strict, FILAMENT)] == ["full"] * 4
    kinds = [motor_step(free, h)[0] for h in printer_heights(free, FILAMENT)]
    assert printer_heights(free, FILAMENT) == [0.08, 0.1, 0.14, 0.2] and kinds == ["full", "half", "half", "full"]
