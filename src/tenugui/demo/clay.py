"""Clay: a signed distance field on a grid, to sculpt the demo's figures in. Negative inside; lengths in mm.

Shapes are smooth-blended (polynomial smooth minimum); relief is carved by shifting the field; marching cubes makes the
mesh.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from skimage.measure import marching_cubes

from ..core.mesh import Mesh, weld

F4 = NDArray[np.float32]
Point = Sequence[float] | NDArray[np.float64]
Field = Callable[[F4, F4, F4], F4]


class Clay:
    """A block of empty space from `low` to `high` with cells of `cell` mm."""

    def __init__(self, low: Point, high: Point, cell: float) -> None:
        self.cell = cell
        self.low = np.array(low, float)
        self.shape = np.ceil((np.array(high, float) - self.low) / cell).astype(int) + 1
        self.field = np.full(self.shape, 4.0, np.float32)

    def _region(self, low: Point, high: Point, margin: float) -> tuple[tuple[slice, ...], F4, F4, F4]:
        a = np.clip(np.floor((np.array(low, float) - margin - self.low) / self.cell).astype(int), 0, self.shape)
        b = np.clip(np.ceil((np.array(high, float) + margin - self.low) / self.cell).astype(int) + 1, a, self.shape)
        axes = [(self.low[i] + np.arange(a[i], b[i]) * self.cell).astype(np.float32) for i in range(3)]
        x, y, z = axes[0][:, None, None], axes[1][None, :, None], axes[2][None, None, :]
        return tuple(slice(int(p), int(q)) for p, q in zip(a, b, strict=True)), x, y, z

    def add(self, shape: Field, low: Point, high: Point, blend: float = 0.0) -> None:
        """Unite with a shape that lies within low..high, rounding the seam over `blend` mm."""
        where, x, y, z = self._region(low, high, blend + 2 * self.cell)
        d, f = shape(x, y, z), self.field[where]
        if blend > 0:
            h = np.clip(0.5 + 0.5 * (f - d) / blend, 0, 1)
            self.field[where] = f + (d - f) * h - blend * h * (1 - h)
        else:
            self.field[where] = np.minimum(f, d)

    def carve(self, shape: Field, low: Point, high: Point, blend: float = 0.0) -> None:
        """Take a shape away."""
        where, x, y, z = self._region(low, high, blend + 2 * self.cell)
        d, f = -shape(x, y, z), self.field[where]
        if blend > 0:
            h = np.clip(0.5 - 0.5 * (f - d) / blend, 0, 1)
            self.field[where] = f + (d - f) * h + blend * h * (1 - h)
        else:
            self.field[where] = np.maximum(f, d)

    def relief(self, height: Field, low: Point, high: Point) -> None:
        """Raise the surface by `height` mm where it lies within low..high."""
        where, x, y, z = self._region(low, high, 0)
        self.field[where] -= height(x, y, z)

    def ball(
        self,
        centre: Point,
        radii: float | Point,
        blend: float = 0.0,
        *,
        turn: NDArray[np.float64] | None = None,
        carve: bool = False,
    ) -> None:
        """A ball or ellipsoid, its axes turned by the rows of `turn`."""
        r = np.broadcast_to(np.array(radii, float), 3)
        rows = np.eye(3) if turn is None else turn
        reach = np.sqrt(((rows * r[:, None]) ** 2).sum(axis=0))
        c = np.array(centre, float)

        def shape(x: F4, y: F4, z: F4) -> F4:
            u, v, w = x - np.float32(c[0]), y - np.float32(c[1]), z - np.float32(c[2])
            q = [
                np.float32(rows[i, 0] / r[i]) * u
                + np.float32(rows[i, 1] / r[i]) * v
                + np.float32(rows[i, 2] / r[i]) * w
                for i in range(3)
            ]
            k0 = np.sqrt(q[0] ** 2 + q[1] ** 2 + q[2] ** 2)
            k1 = np.sqrt((q[0] / r[0]) ** 2 + (q[1] / r[1]) ** 2 + (q[2] / r[2]) ** 2).astype(np.float32) + np.float32(
                1e-6
            )
            return (k0 * (k0 - 1) / k1).astype(np.float32)

        (self.carve if carve else self.add)(shape, c - reach, c + reach, blend)

    def limb(self, points: Sequence[Point], radii: Sequence[float], blend: float = 0.0, smooth: int = 0) -> None:
        """A tapered tube through points; `smooth` samples between them on a Catmull-Rom curve."""
        p, r = np.array(points, float), np.array(radii, float)
        if smooth:
            p, r = (
                _curve(p, smooth),
                np.interp(np.linspace(0, len(r) - 1, (len(r) - 1) * smooth + 1), np.arange(len(r)), r),
            )
        most = float(r.max())
        spans = [
            (
                a.astype(np.float32),
                (b - a).astype(np.float32),
                float((b - a) @ (b - a)) or 1.0,
                float(ra),
                float(rb - ra),
            )
            for a, b, ra, rb in zip(p[:-1], p[1:], r[:-1], r[1:], strict=True)
        ]

        def shape(x: F4, y: F4, z: F4) -> F4:
            nearest = np.float32(np.inf)
            for (
                a,
                way,
                square,
                start,
                growth,
            ) in spans:  # united sharply first: blending a tube with itself would bead it
                u, v, w = x - a[0], y - a[1], z - a[2]
                t = np.clip((u * way[0] + v * way[1] + w * way[2]) / np.float32(square), 0, 1)
                d = np.sqrt((u - t * way[0]) ** 2 + (v - t * way[1]) ** 2 + (w - t * way[2]) ** 2) - (
                    start + t * growth
                )
                nearest = np.minimum(nearest, d)
            return np.asarray(nearest, np.float32)

        self.add(shape, p.min(axis=0) - most, p.max(axis=0) + most, blend)

    def drum(
        self,
        centre: Point,
        radius: float,
        height: float,
        *,
        blend: float = 0.0,
        rounding: float = 0.3,
        carve: bool = False,
        top_radius: float | None = None,
        sides: int = 0,
    ) -> None:
        """An upright cylinder or truncated cone standing on `centre`; `sides` makes it a prism."""
        cx, cy, cz = centre
        top = radius if top_radius is None else top_radius

        def shape(x: F4, y: F4, z: F4) -> F4:
            u, v = x - np.float32(cx), y - np.float32(cy)
            if sides:
                angle = np.arctan2(v, u)
                sector = 2 * np.pi / sides
                r = np.sqrt(u * u + v * v) * np.cos((angle % sector) - sector / 2)
            else:
                r = np.sqrt(u * u + v * v)
            t = np.clip((z - cz) / height, 0, 1)
            side = r - (radius + t * (top - radius)) + rounding
            flat = np.abs(z - cz - height / 2) - height / 2 + rounding
            return (
                np.minimum(np.maximum(side, flat), 0)
                + np.sqrt(np.maximum(side, 0) ** 2 + np.maximum(flat, 0) ** 2)
                - rounding
            ).astype(np.float32)

        most = max(radius, top) * (1 / np.cos(np.pi / sides) if sides else 1)
        (self.carve if carve else self.add)(
            shape, (cx - most, cy - most, cz), (cx + most, cy + most, cz + height), blend
        )

    def robe(
        self,
        axis: Point,
        low: float,
        high: float,
        *,
        radius: Callable[[F4], F4],
        thick: float,
        folds: int,
        depth: float,
        opening: tuple[float, float] | None = None,
        blend: float = 0.0,
        squash: float = 1.0,
        wander: float = 0.6,
        swing: float = 0.0,
        most: float = 30.0,
    ) -> None:
        """Hanging cloth: a shell of revolution about a vertical axis, in folds that deepen downwards; `opening` leaves
        out an angle range.
        """
        ax, ay = float(axis[0]), float(axis[1])

        def shape(x: F4, y: F4, z: F4) -> F4:
            down = np.clip((high - z) / (high - low), 0, 1)
            u, v = x - np.float32(ax), (y - np.float32(ay) - swing * down**2) / np.float32(squash)
            r, angle = np.sqrt(u * u + v * v), np.arctan2(v, u)
            wave = np.sin(folds * angle + wander * np.sin(3 * angle + 2 * down)) + 0.35 * np.sin(
                (2 * folds + 1) * angle + 1.3
            )
            target = radius(z) + depth * (0.15 + down) * wave
            d = np.abs(r - target) * np.float32(0.8) - np.float32(thick / 2)
            d = np.maximum(d, np.maximum(low - z, z - high))
            if opening is not None:
                middle, half = (opening[0] + opening[1]) / 2, (opening[1] - opening[0]) / 2
                off = np.abs((angle - middle + np.pi) % (2 * np.pi) - np.pi)
                d = np.maximum(d, (half - off) * r)
            return d.astype(np.float32)

        self.add(shape, (ax - most, ay - most, low), (ax + most, ay + most, high), blend)

    def mesh(self, keep: float = 0.02) -> Mesh:
        """Marching cubes; shells smaller than `keep` of the largest one's faces are crumbs and dropped. Closed at the
        block's border.
        """
        padded = np.pad(self.field, 1, constant_values=4.0)
        vertices, faces, _, _ = marching_cubes(padded, 0.0, spacing=(self.cell,) * 3)
        points = vertices + self.low - self.cell
        mesh = weld(np.ascontiguousarray(points[faces[:, ::-1]].reshape(-1, 3), np.float32))
        return _without_crumbs(_turned_out(mesh), keep)


def _turned_out(mesh: Mesh) -> Mesh:
    from ..core.mesh.edges import face_volumes

    good = (
        (mesh.faces[:, 0] != mesh.faces[:, 1])
        & (mesh.faces[:, 1] != mesh.faces[:, 2])
        & (mesh.faces[:, 0] != mesh.faces[:, 2])
    )
    mesh = Mesh(mesh.vertices, np.ascontiguousarray(mesh.faces[good]))
    return mesh if face_volumes(mesh).sum() > 0 else Mesh(mesh.vertices, np.ascontiguousarray(mesh.faces[:, ::-1]))


def _without_crumbs(mesh: Mesh, keep: float) -> Mesh:
    from ..core.mesh import shell_labels

    label, count = shell_labels(mesh.faces, len(mesh.vertices))
    sizes = np.bincount(label, minlength=count)
    kept = mesh.faces[sizes[label] >= keep * sizes.max()]
    used, index = np.unique(kept, return_inverse=True)
    return Mesh(mesh.vertices[used], index.reshape(-1, 3).astype(np.int32))


def _curve(p: NDArray[np.float64], between: int) -> NDArray[np.float64]:
    """Catmull-Rom through p with `between` samples a span."""
    ends = np.vstack([2 * p[0] - p[1], p, 2 * p[-1] - p[-2]])
    out = []
    for i in range(1, len(ends) - 2):
        a, b, c, d = ends[i - 1 : i + 3]
        for t in np.arange(between) / between:
            out.append(
                0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3)
            )
    return np.array([*out, p[-1]])


def frame(along: Point, flat: Point) -> NDArray[np.float64]:
    """Rows of a turn whose first axis lies `along`, whose third is as near to `flat` as can be."""
    a = np.array(along, float)
    a /= np.linalg.norm(a)
    n = np.array(flat, float)
    n = n - (n @ a) * a
    n /= np.linalg.norm(n)
    return np.stack([a, np.cross(n, a), n])
