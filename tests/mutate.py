"""Changes that a test should notice: `python -m tests.mutate 60` changes one operator or number at a time in a copy of
the tree, runs the tests of its room, and tells which changes survived and which share did not. Priors at the top of a
module are left alone: the printed table of them is held by a test of its own.
"""

from __future__ import annotations

import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import NamedTuple

ROOT = Path(__file__).resolve().parents[1]
CORE = "src/tenugui/core"
ROOMS: dict[str, tuple[str, ...]] = {
    f"{CORE}/risk": ("ledger", "thin", "sway", "hazards", "seams_and_strings", "drawn", "specks"),
    f"{CORE}/prints": ("prints", "trial_plan", "scatter"),
    f"{CORE}/worth": ("worth", "hazards"),
    f"{CORE}/process": ("process", "process_laws", "laws_of_priors", "sway", "pull", "heights_beside", "handling"),
    f"{CORE}/supports/load.py": ("load", "margins", "prints"),
    f"{CORE}/supports/margins.py": ("margins", "load"),
    f"{CORE}/supports/firm.py": ("ways", "supports", "support_styles", "contact"),
    f"{CORE}/supports/areas.py": ("areas",),
    f"{CORE}/removal": ("removal", "handling", "worth", "inside"),
}
SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
    ast.Lt: ast.GtE,
    ast.LtE: ast.Gt,
    ast.Gt: ast.LtE,
    ast.GtE: ast.Lt,
    ast.And: ast.Or,
    ast.Or: ast.And,
}
TIMES = 2.0
"""A number is changed by so much."""
CLEAN = ("-p", "no:cacheprovider")
SLACK = 1e-5
"""What is smaller keeps a division from zero: twice as much changes nothing."""
MOST_S = 600


class Site(NamedTuple):
    """A place that can be changed: the file, its number among the file's places, and the line."""

    file: Path
    number: int
    line: int


class _Change(ast.NodeTransformer):
    """Counts the places of a tree, and changes the one of that number."""

    def __init__(self, number: int = -1) -> None:
        self.number, self.count, self.lines = number, 0, list[int]()
        self.said = ""
        self.top: list[ast.stmt] = []

    def _mine(self, node: ast.AST) -> bool:
        self.lines.append(getattr(node, "lineno", 0))
        self.count += 1
        return self.count - 1 == self.number

    def visit_BinOp(self, node: ast.BinOp) -> ast.AST:
        self.generic_visit(node)
        if type(node.op) in SWAPS and self._mine(node):
            self.said = f"{type(node.op).__name__} to {SWAPS[type(node.op)].__name__}"
            node.op = SWAPS[type(node.op)]()  # type: ignore[assignment]
        return node

    def visit_Compare(self, node: ast.Compare) -> ast.AST:
        self.generic_visit(node)
        if type(node.ops[0]) in SWAPS and self._mine(node):
            self.said = f"{type(node.ops[0]).__name__} to {SWAPS[type(node.ops[0])].__name__}"
            node.ops[0] = SWAPS[type(node.ops[0])]()  # type: ignore[call-overload]
        return node

    def visit_BoolOp(self, node: ast.BoolOp) -> ast.AST:
        self.generic_visit(node)
        if self._mine(node):
            self.said = f"{type(node.op).__name__} to {SWAPS[type(node.op)].__name__}"
            node.op = SWAPS[type(node.op)]()  # type: ignore[assignment]
        return node

    def visit_Assign(self, node: ast.Assign) -> ast.AST:
        # Priors of a module are held by the printed table of them, one by one.
        named = isinstance(node.targets[0], ast.Name | ast.Tuple) and node in self.top
        return node if named else self.generic_visit(node)

    def visit_AnnAssign(self, node: ast.AnnAssign) -> ast.AST:
        return node if node in self.top else self.generic_visit(node)

    def visit_Module(self, node: ast.Module) -> ast.AST:
        self.top = list(node.body)
        return self.generic_visit(node)

    def visit_arguments(self, node: ast.arguments) -> ast.AST:
        return node  # what is usual where nothing is said

    def visit_Constant(self, node: ast.Constant) -> ast.AST:
        if isinstance(node.value, float) and abs(node.value) > SLACK and self._mine(node):
            self.said = f"{node.value} to {node.value * TIMES}"
            return ast.copy_location(ast.Constant(node.value * TIMES), node)
        return node


def sites(path: Path) -> list[Site]:
    """All places of a file that can be changed."""
    counted = _Change()
    counted.visit(ast.parse(path.read_text()))
    return [Site(path, k, line) for k, line in enumerate(counted.lines)]


def survives(tree: Path, site: Site, tests: tuple[str, ...]) -> str | None:
    """What was changed where the tests of its room all pass with it, else None."""
    target = tree / site.file.relative_to(ROOT)
    before = target.read_text()
    change = _Change(site.number)
    target.write_text(ast.unparse(ast.fix_missing_locations(change.visit(ast.parse(before)))))
    files = [f"tests/core/test_{name}.py" for name in tests]
    env = {**os.environ, "PYTHONPATH": f"{tree / 'src'}:{tree}", "NUMBA_CACHE_DIR": str(tree / "numba")}
    try:
        ran = subprocess.run(
            [sys.executable, "-m", "pytest", "-x", "-q", "--doctest-modules", *CLEAN, str(target), *files],
            cwd=tree,
            env=env,
            capture_output=True,
            timeout=MOST_S,
        )
        return change.said if ran.returncode == 0 else None
    except subprocess.TimeoutExpired:
        return None
    finally:
        target.write_text(before)


def main(words: list[str]) -> int:
    """So many changes, drawn with a seed of their own, and the share that was noticed."""
    many, seed = int(words[0]) if words else 40, int(words[1]) if len(words) > 1 else 1
    every: list[tuple[Site, tuple[str, ...]]] = []
    for room, tests in ROOMS.items():
        where = ROOT / room
        files = sorted(where.glob("*.py")) if where.is_dir() else [where]
        every += [(site, tests) for file in files for site in sites(file)]
    chosen = random.Random(seed).sample(every, min(many, len(every)))
    survived = 0
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / "tree"
        shutil.copytree(ROOT, tree, ignore=shutil.ignore_patterns(".git", ".state", "node_modules", "dist"))
        for site, tests in chosen:
            said = survives(tree, site, tests)
            survived += said is not None
            state = "noticed" if said is None else f"SURVIVED: {said}"
            print(f"{site.file.relative_to(ROOT)}:{site.line} {state}", flush=True)
    print(f"{len(chosen) - survived} of {len(chosen)} changes noticed, of {len(every)} places (seed {seed})")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
