"""Rules of the house that no linter knows: who may ask which machine it is, and that every prior is in the printed table."""

from __future__ import annotations

import re
from pathlib import Path

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
