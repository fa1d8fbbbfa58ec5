"""Machine files that are judged: the plan's own pass, and each fault that is put into one is told."""

from __future__ import annotations

import io
import json
import re
import zipfile

import pytest

from tenugui.core.errors import CoreError
from tenugui.core.machines import FilamentPrinter, ResinPrinter
from tenugui.core.paths import planned, write_gcode
from tenugui.core.plan import judged_file
from tenugui.core.vat import write_archive
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import box

assert isinstance(KESTREL, FilamentPrinter) and isinstance(HERON, ResinPrinter)
PATH = planned(box((0, 0, 2), (12, 8, 4)), {}, KESTREL, 0.2)
TEXT = write_gcode(PATH, KESTREL, FILAMENT)


def told(text: str) -> dict[str, int]:
    found = judged_file("a.gcode", io.BytesIO(text.encode()), KESTREL)
    return {f.code: f.count for f in found.findings}


def test_a_plans_own_path_has_no_fault_and_takes_what_was_planned() -> None:
    found = judged_file("own.GCODE", io.BytesIO(TEXT.encode()), KESTREL)
    assert found.findings == [] and found.layers == 20 and found.layer_height_mm == pytest.approx(0.2)
    retracted = KESTREL.retract_mm * 3.14159 * KESTREL.filament_mm**2 / 4 / 1000
    assert found.volume_ml + retracted == pytest.approx(PATH.volume_mm3 / 1000, rel=1e-3)
    assert found.tall_mm == pytest.approx(4.0)


def test_faults_of_a_path_are_told() -> None:
    assert told(re.sub(r"^M10[49].*$", "", TEXT, flags=re.M)) == {"not-heated": 1}
    moved = re.sub(r" X([\d.]+)", lambda m: f" X{float(m.group(1)) + 150:.3f}", TEXT)
    assert told(moved) == {"outside-build": 1}
    raised = re.sub(r"Z([\d.]+)", lambda m: f"Z{float(m.group(1)) + 1.0:.3f}", TEXT)
    assert set(told(raised)) == {"in-the-air", "too-high"}
    fast = re.sub(r"F(\d+)", lambda m: f"F{int(m.group(1)) * 20}", TEXT)
    assert told(fast)["flow"] > 100
    low = TEXT.replace("; end", "G0 Z1.000 F600\nG1 X100.0 Y100.0 E9999 F600\n; end")
    assert told(low)["into-the-print"] == 1


def archive() -> bytes:
    out = io.BytesIO()
    write_archive(box((0, 0, 1), (10, 8, 2)), HERON, RESIN, height=0.1, handle=out)
    return out.getvalue()


def changed(data: bytes, **said: object) -> io.BytesIO:
    """The archive with other words in its manifest."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            body = old.read(name)
            new.writestr(name, json.dumps(json.loads(body) | said) if name == "manifest.json" else body)
    out.seek(0)
    return out


def test_an_archive_is_judged_by_its_pixels_and_its_screen() -> None:
    data = archive()
    found = judged_file("own.zip", io.BytesIO(data), HERON)
    assert found.findings == [] and found.layers == 20 and found.volume_ml == pytest.approx(0.16, rel=0.01)
    dark = judged_file("dark.zip", changed(data, exposure_s=[0.0] * 20), HERON)
    assert {f.code: f.count for f in dark.findings} == {"dark-layer": 20}
    other = HERON.model_copy(update={"pixels": (3840, 2160), "build_mm": (207.36, 116.64, 1.0)})
    assert {f.code for f in judged_file("own.zip", io.BytesIO(data), other).findings} == {
        "other-screen",
        "outside-build",
    }


def test_a_file_for_the_other_machine_or_of_nothing_is_refused() -> None:
    for name, printer in (("a.gcode", HERON), ("a.zip", KESTREL)):
        with pytest.raises(CoreError, match="printer"):
            judged_file(name, io.BytesIO(b""), printer)
    with pytest.raises(CoreError, match="lays nothing"):
        judged_file("a.gcode", io.BytesIO(b"G28\nG0 X1 Y1 F600\n"), KESTREL)
    with pytest.raises(CoreError, match="no text"):
        judged_file("a.gcode", io.BytesIO(b"\xff\xfe\x00"), KESTREL)
