"""Names that people give are one line: no name becomes a command of the machine, wherever it comes in and wherever it
is written.
"""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tenugui.core.machines import MachineError, load_material, load_printer
from tenugui.core.names import plain
from tenugui.core.paths import GcodeError, planned, read_gcode, words_of, write_gcode
from tenugui.core.plan.printfile import _refuse_unasked
from tests.presets import FILAMENT, KESTREL
from tests.shapes import box

EVIL = "kestrel\nM104 S300\nG0 Z0 F9000"
BREAKS = ["\n", "\r", "\x00", "\x1b", "\x7f", "\x85", "\u2028", "\u202e"]


@pytest.mark.parametrize("mark", BREAKS)
def test_a_name_that_is_not_one_line_is_refused_by_its_field(mark: str) -> None:
    told = KESTREL.model_dump(mode="json") | {"name": f"kes{mark}trel"}
    with pytest.raises(MachineError, match="field 'name'") as refused:
        load_printer(told)
    assert refused.value.code == "bad-field" and mark not in str(refused.value)
    with pytest.raises(MachineError, match="field 'name'"):
        load_material(FILAMENT.model_dump(mode="json") | {"name": f"marsh{mark}M109 S300"}, KESTREL)


def test_a_name_may_hold_any_letters() -> None:
    assert load_printer(KESTREL.model_dump(mode="json") | {"name": "Zweite Düse, 灯り №2 🪶"}).name.startswith("Zweite")


@given(st.text(max_size=60))
def test_what_is_written_in_a_comment_is_one_line(text: str) -> None:
    said = plain(text)
    assert len(f"; {said}".splitlines()) == 1 and plain(said) == said


def test_a_name_writes_no_command_into_the_file_and_one_that_did_would_be_found() -> None:
    path = planned(box((0, 0, 0.5), (8, 8, 1)), {}, KESTREL, 0.2)
    evil = KESTREL.model_copy(update={"name": EVIL})  # past every door
    stuff = FILAMENT.model_copy(update={"name": EVIL})
    text = write_gcode(path, evil, stuff)
    assert text == write_gcode(path, KESTREL, FILAMENT).replace("printer: kestrel", f"printer: {plain(EVIL)}").replace(
        "material: marsh matte", f"material: {plain(EVIL)}"
    )
    back = read_gcode(text)
    assert back.words == words_of(path, KESTREL)
    _refuse_unasked(back.words, words_of(path, KESTREL))
    for bad in (
        text.replace("; printer", "M104 S300\n; printer"),
        text.replace("M109 S205", "M109 S300"),
        text.replace("M104 S0\n", ""),
        text + "M106 S255\n",
    ):
        assert bad != text
        with pytest.raises(GcodeError, match="the plan asks for"):
            _refuse_unasked(read_gcode(bad).words, words_of(path, KESTREL))


def test_words_that_move_nothing_are_read_however_they_are_written() -> None:
    assert read_gcode("G028\nM0104  S12 ; warm\nG92 E0\nG1 X1 F60\n;M109 S300\n").words == (
        "G028",
        "M0104 S12",
        "G92 E0",
    )
