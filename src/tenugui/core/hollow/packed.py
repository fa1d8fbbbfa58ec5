"""A hollowed figure as bytes, without the field that it was cut from: what later folds and a moved hole need of it."""

from __future__ import annotations

import io

import numpy as np

from ..mesh import Mesh
from .cavities import Cavity, Hollowed
from .creases import Crease
from .liquid import Mouth, space_between


def pack_hollowed(hollowed: Hollowed) -> bytes:
    """Arrays by name (NumPy's own format, no objects)."""
    arrays: dict[str, np.ndarray] = {
        "outer_v": hollowed.outer.vertices,
        "outer_f": hollowed.outer.faces,
        "solid": np.array(hollowed.solid_at, float).reshape(-1, 4),
        "creases": np.array([[*c.place, c.deep, c.taken, c.hollow] for c in hollowed.creases], float).reshape(-1, 6),
        "told": np.array([hollowed.wall, len(hollowed.cavities), hollowed.left_solid, hollowed.came], float),
    }
    for k, cavity in enumerate(hollowed.cavities):
        space = cavity.space
        low = space.middles.min(axis=0) if len(space.middles) else np.zeros(3)
        arrays |= {
            f"v{k}": cavity.surface.vertices,
            f"f{k}": cavity.surface.faces,
            f"cells{k}": np.rint((space.middles - low) / space.width).astype(np.int16)[:, ::-1],
            f"told{k}": np.array([cavity.volume, cavity.min_wall, space.width, *low], float),
            f"mouths{k}": np.array([[m.radius, m.length, len(m.cells)] for m in cavity.own]).reshape(-1, 3),
            f"opened{k}": np.concatenate([np.empty(0, np.int64), *(m.cells for m in cavity.own)]),
        }
    out = io.BytesIO()
    np.savez(out, allow_pickle=False, **arrays)  # type: ignore[arg-type]  # NumPy's stub takes every array for its one flag
    return out.getvalue()


def unpack_hollowed(data: bytes) -> Hollowed:
    """The inverse of `pack_hollowed`; its `field` is None."""
    with np.load(io.BytesIO(data), allow_pickle=False) as arrays:
        wall, many, solid, came = (float(v) for v in arrays["told"])
        cavities = []
        for k in range(int(many)):
            volume, least, width, *low = (float(v) for v in arrays[f"told{k}"])
            cells = arrays[f"cells{k}"].astype(np.int64)
            space = space_between(cells, np.array(low) + cells[:, ::-1] * width, width)
            own, first = [], 0
            for radius, length, cells_of in arrays[f"mouths{k}"]:
                last = first + int(cells_of)
                own.append(Mouth(arrays[f"opened{k}"][first:last], float(radius), float(length)))
                first = last
            cavities.append(Cavity(Mesh(arrays[f"v{k}"], arrays[f"f{k}"]), volume, least, space, tuple(own)))
        left = tuple((float(x), float(y), float(z), float(v)) for x, y, z, v in arrays["solid"])
        cut = tuple(
            Crease((float(x), float(y), float(z)), float(deep), float(taken), bool(beside))
            for x, y, z, deep, taken, beside in arrays["creases"]
        )
        outer = Mesh(arrays["outer_v"], arrays["outer_f"])
        return Hollowed(outer, wall, tuple(cavities), None, int(solid), bool(came), left, cut)
