"""Judgement: what is recommended for figures of every kind, beside what a practitioner would accept. Writes
docs/judgement.md and its picture.

`./tenugui bench judgement`.
"""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

DOC = Path(__file__).resolve().parents[1] / "docs" / "judgement.md"
HEAD = """# Judgement

Made by `./tenugui bench judgement`; `tests/core/test_judgement.py` holds the first rows to it. For figures of every
kind, on both machines at the rates of an evening's hobby: the pose that is recommended, what a practitioner would
accept (written down beside each figure in `tests/figures.py`), and the four rows in coins. An angle is that between
the figure's own up and the pose's. ![the recommended poses](judgement.png)

| | figure | machine | accepted | recommended | met | the rows: angle, minutes by hand, hours, risk, coins |
|---|---|---|---|---|---|---|
"""


def told(angle: float, metrics: Any) -> str:
    """A row in short."""
    w = metrics.worth
    plinth = f", plinth {metrics.plinth_mm:.0f} mm" if metrics.plinth_mm else ""
    return f"{angle:.0f}°{plinth}, {w.hands_min:.0f} min, {w.machine_h:.1f} h, {w.risk:.0%}, {w.total:.2f}"


def table() -> None:
    """Compute and write."""
    import numpy as np
    from PIL import Image
    from tests.figures import CASES
    from tests.presets import FILAMENT, HERON, KESTREL, RESIN

    from tenugui.core.formats import pack_whole
    from tenugui.core.plan import MemoryShelf, PlanBase, run_chain, sized, upright_of
    from tenugui.core.repair import make_ready

    lines, tiles, unmet = [], [], 0
    for number, (name, case) in enumerate(CASES.items(), 1):
        for printer, material, accepted in ((HERON, RESIN, case.resin), (KESTREL, FILAMENT, case.filament)):
            shelf = MemoryShelf()
            ready = make_ready(case.make()).mesh
            sha = shelf.put(pack_whole(ready))
            base = PlanBase(sha, sha, {1: printer.model_dump(mode="json")}, {1: material.model_dump(mode="json")})
            up = upright_of(shelf, sha).ups[0].up
            size = sized(base, factor=1.0, height_mm=1.0, printer_id=1, material_id=1, up=up)
            board: Any = run_chain(shelf, base, {"size": size}, until="pose").boards["pose"]

            def angle(down: Any, up: Any = case.up) -> float:
                return float(np.degrees(np.arccos(np.clip(-np.dot(down, up), -1, 1))))

            best = board.candidates[board.recommended]
            met = accepted.holds(best.pose.down) and np.dot(up, case.up) > 0.99
            unmet += not met
            rows = "<br>".join(
                ("**" if i == board.recommended else "")
                + told(angle(r.pose.down), r.pose.metrics)
                + ("**" if i == board.recommended else "")
                for i, r in enumerate(board.candidates)
            )
            mark = "yes" if met else "**no**"
            lines.append(
                f"| {number} | {name} | {printer.process} | {accepted.why} | {best.pose.why} | {mark} | {rows} |"
            )
            tiles.append(Image.open(io.BytesIO(shelf.get(best.picture_sha))).convert("RGBA"))
            print(f"{name:24} {printer.process:9} {angle(best.pose.down):4.0f}°  {mark}", flush=True)
    wide = max(t.width for t in tiles) + 8
    tall = max(t.height for t in tiles) + 8
    sheet = Image.new("RGBA", (wide * 7, tall * -(-len(tiles) // 7)), (244, 240, 230, 255))
    for i, tile in enumerate(tiles):
        sheet.alpha_composite(tile, (i % 7 * wide + 4, i // 7 * tall + 4))
    sheet.convert("RGB").save(DOC.with_suffix(".png"), optimize=True)
    DOC.write_text(HEAD + "\n".join(lines) + f"\n\n{len(lines) - unmet} of {len(lines)} are accepted.\n")
    print(f"{len(lines) - unmet} of {len(lines)} accepted; written to docs/judgement.md")
