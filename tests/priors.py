"""Every prior of the core in one table, read from the code itself: `python -m tests.priors` writes docs/priors.md."""

from __future__ import annotations

import ast
import itertools
import re
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
CORE = ROOT / "src" / "tenugui" / "core"
TABLE = ROOT / "docs" / "priors.md"
HEAD = """# Priors

What is no law: each with its value, what it says, and where it stands. Read from the code by `python -m tests.priors`;
a test keeps it so. Printers and materials carry priors of their own, with their ranges, which the
shelf shows and a person replaces.

| room | prior | value | what it says |
|---|---|---|---|
"""


def _text(node: ast.stmt) -> str | None:
    """The text below an assignment."""
    if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) and isinstance(node.value.value, str):
        return " ".join(node.value.value.split())
    return None


def _names(node: ast.stmt) -> list[tuple[str, str]]:
    """Names that an assignment gives values to, and the values as they are written."""
    if isinstance(node, ast.AnnAssign) and isinstance(node.target, ast.Name) and node.value is not None:
        return [(node.target.id, ast.unparse(node.value))]
    if not isinstance(node, ast.Assign):
        return []
    (target,) = node.targets[:1]
    if isinstance(target, ast.Name) and isinstance(node.value, ast.Call) and node.value.keywords:
        return [(f"{target.id}.{k.arg}", ast.unparse(k.value)) for k in node.value.keywords]
    if isinstance(target, ast.Name):
        return [(target.id, ast.unparse(node.value))]
    if isinstance(target, ast.Tuple) and isinstance(node.value, ast.Tuple):
        return [(ast.unparse(t), ast.unparse(v)) for t, v in zip(target.elts, node.value.elts, strict=True)]
    return []


def priors_of(path: Path) -> list[tuple[str, str, str]]:
    """(name, value, text) of a module's constants, and of its classes', whose text calls them priors."""
    found = []
    tree = ast.parse(path.read_text())
    for body in (tree.body, *(node.body for node in ast.walk(tree) if isinstance(node, ast.ClassDef))):
        for node, after in itertools.pairwise(body):
            text = _text(after)
            if text and re.search(r"\b[Pp]riors?\b", text):
                found += [(name, value, text) for name, value in _names(node)]
    return found


def table() -> str:
    """The whole page."""
    rows = []
    for path in sorted(CORE.rglob("*.py")):
        room = str(path.relative_to(CORE).with_suffix(""))
        for name, value, text in priors_of(path):
            said = re.sub(r"^Priors?[:.] ?", "", text).replace("|", "\\|")
            held = value if len(value) <= 60 else value[:57] + "..."
            rows.append(f"| {room} | `{name}` | `{held}` | {said} |".replace("`|`", "`/`"))
    return HEAD + "\n".join(rows) + "\n"


if __name__ == "__main__":
    TABLE.write_text(table())
