"""Everything that has to pass, in the order in which it fails fastest. `--fast` leaves the browser out; other words go to pytest."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BIN = Path(sys.executable).parent


def main(words: list[str]) -> int:
    """Lint, import rules, types of both languages, doctests and tests."""
    env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"}
    chosen = [w for w in words if w != "--fast"]
    steps: list[tuple[str, list[str], Path]] = [
        ("lint", [str(BIN / "ruff"), "check", "--no-cache", "src", "tests", "bench"], ROOT),
        ("format", [str(BIN / "ruff"), "format", "--check", "--no-cache", "src", "tests", "bench"], ROOT),
        ("import rules", [str(BIN / "lint-imports"), "--no-cache"], ROOT),
        (
            "types",
            [str(BIN / "mypy"), "--cache-dir", os.environ["TENUGUI_STATE"] + "/mypy", "-p", "tenugui"],
            ROOT,
        ),
        *(
            (f"front end: {step}", ["npm", "run", "-s", step], ROOT / "web")
            for step in ("lint", "format", "types", "test")
        ),
        (
            "doctests and tests",
            [
                str(BIN / "pytest"),
                "--doctest-modules",
                # Two at a time: a module's tests stay together, with a database and a server of their own.
                *(() if chosen else ("-n", "2", "--dist", "loadscope", "--no-loadscope-reorder")),
                *(chosen or ["src/tenugui/core", "tests", *(["--ignore=tests/browser"] if "--fast" in words else [])]),
            ],
            ROOT,
        ),
    ]
    # Two test processes would each compile the core's loops; meanwhile the front end is checked.
    warming = subprocess.Popen([sys.executable, "-m", "tests.warm"], cwd=ROOT, env=env)
    for name, command, folder in steps:
        print(f"== {name}", flush=True)
        if name == "doctests and tests" and warming.wait():
            print("== compiling the core failed", flush=True)
            return warming.returncode
        done = subprocess.run(command, cwd=folder, env=env)
        if done.returncode:
            warming.kill()
            print(f"== {name} failed", flush=True)
            return done.returncode
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
