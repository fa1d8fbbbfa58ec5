"""The figure laid on its side: what the ribbon at the bottom of every fold draws, by height."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..choice import Use
from ..layers import Proof, is_slight
from ..machines import Material, Printer, ResinPrinter
from ..risk import Hazard
from ..supports import Tip
from ..vat import layer_pull

MOST = 600


def strip_document(proof: Proof, use: Use, hazards: list[Hazard], tips: list[Tip], printer: Printer, material: Material) -> dict[str, Any]:
    """At most MOST columns from the plate up; each column is the largest of the layers it stands for, so that no peak is lost."""
    grid = proof.stack.grid
    step = max(1, -(-grid.layers // MOST))
    pull = layer_pull(printer, proof.areas, proof.voids.sealed_area) if isinstance(printer, ResinPrinter) else np.zeros(grid.layers)

    def columns(values: NDArray[np.float64]) -> list[float]:
        padded = np.pad(values, (0, -len(values) % step))
        return [round(float(v), 4) for v in padded.reshape(-1, step).max(axis=1)]

    lasting = [i for i in proof.islands if not is_slight(i, grid.height)]
    return {
        "layer_height_mm": grid.height,
        "layers": grid.layers,
        "layers_per_column": step,
        "area_mm2": columns(proof.areas),
        "sealed_mm2": columns(proof.voids.sealed_area),
        "overhang_mm2": columns(proof.hang.by_layer),
        "pull_n": columns(pull),
        "has_pull": isinstance(printer, ResinPrinter),
        "clock_s": columns(use.clock_s),
        "time_s": use.time_s,
        "tip_layers": sorted(int(t.z / grid.height) for t in tips),
        "islands": [{"layer": i.layer, "until": i.until_layer, "area_mm2": i.area, "x_mm": i.x, "y_mm": i.y} for i in lasting],
        "slight_islands": len(proof.islands) - len(lasting),
        "sealed": [{"layer": s.first_layer, "until": s.last_layer + 1, "volume_mm3": s.volume} for s in proof.voids.sealed],
        "hazards": [{"code": h.code, "layer": h.layer, "severity": h.severity} for h in hazards],
    }
