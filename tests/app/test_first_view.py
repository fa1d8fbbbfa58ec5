"""What a browser has to fetch before it shows the bench: counted, packed, in the page as it is built."""

from __future__ import annotations

import gzip
import re
from pathlib import Path

import pytest

from tenugui.app.main import DIST

MOST_PACKED = 350_000


def first_scripts(dist: Path) -> list[Path]:
    """The page's script and all that it imports before it runs."""
    wanted = [Path(name).name for name in re.findall(r'src="/assets/([^"]+\.js)"', (dist / "index.html").read_text())]
    found: list[Path] = []
    while wanted:
        path = dist / "assets" / wanted.pop()
        if path in found:
            continue
        found.append(path)
        wanted += re.findall(r'(?:from|import)\s*"\./([^"]+\.js)"', path.read_text())
    return found


@pytest.mark.skipif(not (DIST / "index.html").is_file(), reason="the page is not built")
def test_the_script_of_the_first_view_is_small() -> None:
    scripts = first_scripts(DIST)
    assert scripts and any("createRoot" in p.read_text() or "react" in p.read_text() for p in scripts)
    packed = sum(len(gzip.compress(path.read_bytes(), 6)) for path in scripts)
    assert packed < MOST_PACKED, {p.name: len(gzip.compress(p.read_bytes(), 6)) for p in scripts}
    assert not any("WebGLRenderer" in path.read_text() for path in scripts), "nothing is drawn in the round yet"
