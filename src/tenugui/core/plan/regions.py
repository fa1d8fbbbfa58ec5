"""What a figure's layers leave over air, region by region, and how each is held."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..contract import RegionDoc
from ..hazards import Hazard
from ..machines import USUAL_RISK, Context
from ..supports import SupportSet, regions, tip_pitch, touched, usual_tip


def regions_of(support_set: SupportSet, hazards: Sequence[Hazard], context: Context) -> list[RegionDoc]:
    """Regions from the plate up: an area with what it carries, tips that stand close together with what starts or
    reaches out over them, and what is left to itself.
    """
    rows = [
        RegionDoc(
            area_mm2=len(tip.cells) * tip.cell**2, z_mm=float(np.mean([z for _, _, z in tip.contacts])), held="area"
        )
        for tip in support_set.tips
        if tip.cells
    ]
    rows += _pinned(support_set, tip_pitch(context, 0.0, usual_tip(context), USUAL_RISK))
    rows += [RegionDoc(area_mm2=i.area, z_mm=i.z, held="left") for i in support_set.after.islands]
    rows += [RegionDoc(area_mm2=h.needs, z_mm=h.place[2], held="left") for h in hazards if h.code == "overhang"]
    return sorted(rows, key=lambda row: row.z_mm)


def _pinned(support_set: SupportSet, pitch: float) -> list[RegionDoc]:
    """Tips that stand close together, with mm² of the figure's own layers that hang over what they touch."""
    tips = [tip for tip in support_set.tips if not tip.cells]
    points = np.array([[t.x, t.y, t.z] for t in tips]).reshape(-1, 3)
    before = support_set.before
    hangs = before.hang.by_component.copy()
    for island in before.islands:
        hangs[island.component] = island.area
    region, on = regions(points, pitch), touched(before, points)
    rows = []
    for k in range(int(region.max(initial=-1)) + 1):
        mine = np.flatnonzero(region == k)
        components = np.unique(on[mine][on[mine] >= 0])
        branches = all(tips[i].branch for i in mine.tolist())
        rows.append(
            RegionDoc(
                area_mm2=float(hangs[components].sum()),
                z_mm=float(points[mine, 2].mean()),
                held="branch" if branches else "pin",
            )
        )
    return rows
