"""Settings of a plan's own: what may be set, how it stands over the shelf, and which cells of series want it."""

from __future__ import annotations

import pytest

from tenugui.core.machines import MachineError, Own, load_material, load_printer, set_otherwise, settable
from tenugui.core.machines.own import Table, checked, told
from tenugui.core.plan.settable import Wanted, wanted

KESTREL = load_printer("kestrel").model_dump(mode="json")
MATTE = load_material(None, load_printer("kestrel")).model_dump(mode="json")
HERON = load_printer("heron").model_dump(mode="json")
GREY = load_material(None, load_printer("heron")).model_dump(mode="json")


def test_what_is_set_stands_over_the_shelf_and_leaves_it_as_it_is() -> None:
    own: Own = {"printers": {"support_gap_mm": 0.3}}
    before = dict(KESTREL)
    mine = set_otherwise(KESTREL, "printers", own)
    assert mine["support_gap_mm"] == 0.3 and before == KESTREL
    assert {k for k in mine if mine[k] != KESTREL[k]} == {"support_gap_mm"}
    assert set_otherwise(MATTE, "materials", own) is MATTE


def test_a_machine_keeps_them_as_it_reads_them() -> None:
    kept = checked({"printers": {"interface_layers": 4.0}, "materials": {}}, KESTREL, MATTE)
    assert kept == {"printers": {"interface_layers": 4}} and isinstance(kept["printers"]["interface_layers"], int)
    assert checked({"materials": {"exposure_s": 3.5}}, HERON, GREY) == {"materials": {"exposure_s": 3.5}}


@pytest.mark.parametrize(
    ("own", "code"),
    [
        ({"printers": {"build_mm": 10.0}}, "not-settable"),
        ({"printers": {"scatter": 2.0}}, "not-settable"),
        ({"materials": {"cost": 1.0}}, "not-settable"),
        ({"printers": {"moon": 1.0}}, "not-settable"),
        ({"printers": {"wall_mm_s": -1.0}}, "bad-field"),
        ({"printers": {"interface_layers": 1.5}}, "bad-field"),
        ({"printers": {"wall_mm_s": float("inf")}}, "bad-field"),
    ],
)
def test_what_no_plan_may_set_is_refused(own: Own, code: str) -> None:
    with pytest.raises(MachineError) as refused:
        checked(own, KESTREL, MATTE)
    assert refused.value.code == code


def test_what_may_be_set_is_in_the_form_and_told_in_its_words() -> None:
    of: tuple[tuple[str, Table, str], ...] = (("filament", "printers", "fan"), ("resin", "materials", "exposure_s"))
    for process, table, name in of:
        assert (table, name) in settable(process)
        ((title, value, _),) = told({table: {name: 0.5}}, process)
        assert value == 0.5 and "prior" not in title
    assert not {"name", "cost", "density_g_ml", "watts_"} & {name for _, name in settable("resin")}


def test_cells_that_want_the_same_are_the_same() -> None:
    a = wanted({"gap mm": 0.1, "roof layers": 2, "table": "by the door"})
    b = wanted({"roof layers": 2.0, "gap mm": 0.1, "table": "by the wall"})
    assert a.as_own == b.as_own == {"printers": {"support_gap_mm": 0.1, "interface_layers": 2.0}}
    assert wanted({"gap mm": "wide"}) == Wanted(None, None, ())
    assert wanted({"seconds": 2.4}).as_own == {"materials": {"exposure_s": 2.4}}
