"""Rules of the house that no linter knows: who may ask which machine it is, and that every prior is in the printed
table.
"""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from tenugui.core.plan import code
from tenugui.core.plan.code import fingerprint, modules_from, rooms_from
from tests.priors import TABLE, table

ROOT = Path(__file__).resolve().parents[2] / "src" / "tenugui"
WHICH = re.compile(r"isinstance\([^)]*\b(?:Resin|Filament)(?:Printer)?\b")


def test_only_machines_and_processes_ask_which_machine_it_is() -> None:
    """Everybody else asks what it can do."""
    asking = [
        str(path.relative_to(ROOT))
        for path in ROOT.rglob("*.py")
        if WHICH.search(path.read_text()) and path.parent.name not in ("machines", "process")
    ]
    assert asking == []


def test_the_printed_table_of_priors_is_todays() -> None:
    """`python -m tests.priors` writes it."""
    assert TABLE.read_text() == table()


def test_a_tasks_code_is_that_of_its_module_and_of_the_rooms_it_comes_to() -> None:
    beside, rooms = modules_from("trial"), rooms_from({"worth"})
    assert {"trial", "held", "inputs", "shelf"} <= set(beside) and "printfile" not in beside
    assert set(rooms) == {"worth", "errors"}, "worth asks nobody but for its errors"
    assert {"prints", "hazards", "layers", "mesh", "compiled"} <= set(rooms_from({"prints"}))
    assert fingerprint("tenugui.core.plan.trial") != fingerprint("tenugui.core.plan.printfile")
    assert fingerprint("somewhere.else") == "somewhere.else"


def test_another_line_in_a_room_is_another_fingerprint(monkeypatch: pytest.MonkeyPatch) -> None:
    before = fingerprint("tenugui.core.plan.trial")
    held = code._room

    def changed(name: str) -> tuple[str, frozenset[str]]:
        own, named = held(name)
        return (own + "+" if name == "mesh" else own), named

    monkeypatch.setattr(code, "_room", changed)
    fingerprint.cache_clear()
    assert fingerprint("tenugui.core.plan.trial") != before
    fingerprint.cache_clear()
