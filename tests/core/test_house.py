"""Rules of the house that no linter knows: who may ask which machine it is, and that every prior is in the printed
table.
"""

from __future__ import annotations

import ast
import re
from pathlib import Path

import pytest

from tenugui.core.compiled import both_cores
from tenugui.core.plan import code
from tenugui.core.plan.code import fingerprint, sources_from
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


def test_a_tasks_code_is_that_of_its_module_and_of_all_that_it_comes_to() -> None:
    sources = set(sources_from("trial"))
    assert {f"plan/{name}.py" for name in ("trial", "supported", "inputs", "shelf")} <= sources
    assert {"prints/__init__.py", "risk/ledger.py", "layers/stack.py", "mesh/mesh.py", "compiled.py"} <= sources
    assert "contract/__init__.py" not in sources and "contract/base.py" in sources
    assert not [name for name in sources if name.startswith(("week/", "plate/", "plan/printfile", "plan/__init__"))]
    assert {"plate/footprint.py", "contract/on_plate.py"} <= set(sources_from("on_plate"))
    pose = set(sources_from("pose"))
    assert {"contract/pose.py", "risk/islands.py", "risk/ledger.py"} <= pose, "what a front registers comes with it"
    assert not pose & {"contract/__init__.py", "contract/week.py", "learn/causes.py", "plate/nest.py", "week/plan.py"}
    assert fingerprint("tenugui.core.plan.trial") != fingerprint("tenugui.core.plan.printfile")
    assert fingerprint("somewhere.else") == "somewhere.else"


def test_another_line_in_one_of_them_is_another_fingerprint(monkeypatch: pytest.MonkeyPatch) -> None:
    before = fingerprint("tenugui.core.plan.trial")
    held = code._read

    def changed(file: Path) -> tuple[str, frozenset[Path]]:
        own, named = held(file)
        return (own + "+" if file.name == "mesh.py" else own), named

    monkeypatch.setattr(code, "_read", changed)
    fingerprint.cache_clear()
    assert fingerprint("tenugui.core.plan.trial") != before
    fingerprint.cache_clear()


COMPILED = ("njit", "loose", "intrinsic")
MOST_BY_PLACE = 5


def _by_place(path: Path) -> list[str]:
    """Functions of a file that take more arguments by their place than anybody keeps in mind; compiled loops know no
    others.
    """
    return [
        f"{path.relative_to(ROOT)}: {node.name}"
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef)
        and not any(word in ast.unparse(by) for by in node.decorator_list for word in COMPILED)
        and len([a for a in node.args.args if a.arg not in ("self", "cls")]) > MOST_BY_PLACE
    ]


MOST_COMPILED = 16


def test_compiled_loops_take_records() -> None:
    """They know no keywords: what goes together comes as a named tuple."""
    many = [
        f"{path.relative_to(ROOT)}: {node.name}"
        for path in ROOT.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.FunctionDef)
        and any(word in ast.unparse(by) for by in node.decorator_list for word in COMPILED)
        and len(node.args.args) > MOST_COMPILED
    ]
    assert many == []


def test_what_is_optional_or_one_of_many_is_given_by_its_name() -> None:
    assert [name for path in ROOT.rglob("*.py") for name in _by_place(path)] == []


def _raised(function: ast.FunctionDef | ast.AsyncFunctionDef) -> set[str]:
    """What a function raises itself, by the names of the errors."""
    names: set[str] = set()
    inner = ast.FunctionDef | ast.AsyncFunctionDef | ast.Lambda | ast.ClassDef
    waiting = list(ast.iter_child_nodes(function))
    while waiting:
        node = waiting.pop()
        if isinstance(node, inner):
            continue
        if isinstance(node, ast.Raise) and isinstance(node.exc, ast.Call):
            names.add(ast.unparse(node.exc.func).split(".")[-1])
        waiting += ast.iter_child_nodes(node)
    return {name for name in names if name.endswith("Error") and name != "AssertionError"}


def test_what_is_raised_is_said() -> None:
    """Doors answer with what is raised; everybody else reads it in the docstring."""
    silent = [
        f"{path.relative_to(ROOT)}: {node.name}"
        for path in ROOT.rglob("*.py")
        if path.relative_to(ROOT).parts[0] != "app"
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef) and not node.name.startswith("_")
        if (said := ast.get_docstring(node)) is not None and any(name not in said for name in _raised(node))
    ]
    assert silent == []


def test_nothing_to_do_is_done_on_no_core_as_on_both() -> None:
    assert both_cores(abs, []) == [] and both_cores(abs, [(-3,)]) == [3]
    assert both_cores(abs, [(-1,), (-2,), (3,)]) == [1, 2, 3]
