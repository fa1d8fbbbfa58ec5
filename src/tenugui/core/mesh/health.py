"""What is wrong with a mesh, as findings with stable codes, and the guess of its unit.

Repair beyond welding, and local thickness, belong to intake in depth; this is the examination every plan starts from.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass

import numpy as np

from .basics import Basics, measure
from .edges import edges_of, face_volumes, repeats
from .mesh import Mesh
from .shells import shell_boxes, shell_labels

CODES: dict[str, tuple[str, str]] = {
    "open-edges": ("warning", "edges with a face on one side only: the surface has holes"),
    "crowded-edges": ("notice", "edges shared by more than two faces"),
    "turned-faces": ("warning", "neighbouring faces that run the same way along their edge: some are inside out"),
    "zero-area": ("notice", "faces without area"),
    "double-faces": ("notice", "faces that repeat another face's corners"),
    "inside-out-shell": (
        "warning",
        "closed shells whose surface faces inwards and that enclose no other shell's inside",
    ),
    "specks": ("notice", "loose shells smaller than a thousandth of the figure"),
    "unit": ("warning", "the height suggests that the file was not modelled in millimetres"),
    "many-shells": ("notice", "the figure is made of several shells; overlapping ones count once"),
}
"""Every code that `examine` can report, with its severity and meaning."""

UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
TYPICAL_HEIGHTS_MM = (28.0, 32.0, 54.0, 75.0, 100.0, 150.0)
"""Prior: the sizes figures are commonly modelled for."""


@dataclass(frozen=True)
class Finding:
    """One thing found: `place` is a point in the file's frame, in mm, or None where it has none."""

    code: str
    severity: str
    count: int
    message: str
    place: tuple[float, float, float] | None = None


@dataclass(frozen=True)
class Health:
    """Basics, the guess of the unit, and the findings."""

    basics: Basics
    unit_guess: str
    findings: list[Finding]

    def as_dict(self) -> dict[str, object]:
        """The headless contract's fields."""
        return {**asdict(self.basics), "unit_guess": self.unit_guess, "findings": [asdict(f) for f in self.findings]}


def guess_unit(extent: float) -> str:
    """The unit in which a largest extent of `extent` comes nearest to a common figure size; mm within reason. A guess.

    >>> guess_unit(54.0), guess_unit(1.9)
    ('mm', 'in')
    """
    if 12.0 <= extent <= 400.0:
        return "mm"
    sizes = np.log(np.array(TYPICAL_HEIGHTS_MM))
    distance = {unit: float(np.abs(np.log(extent * factor) - sizes).min()) for unit, factor in UNITS.items()}
    return min(distance, key=lambda unit: distance[unit])


def _place(mesh: Mesh, vertex: int) -> tuple[float, float, float]:
    x, y, z = mesh.vertices[vertex]
    return float(x), float(y), float(z)


def _finding(code: str, count: int, extra: str = "", place: tuple[float, float, float] | None = None) -> Finding:
    severity, meaning = CODES[code]
    return Finding(code, severity, count, meaning[0].upper() + meaning[1:] + (f": {extra}." if extra else "."), place)


def _edge_findings(mesh: Mesh) -> list[Finding]:
    edges = edges_of(mesh)
    turned = edges.unbalanced & ~edges.boundary & ~edges.crowded
    findings = []
    for code, which in (("open-edges", edges.boundary), ("crowded-edges", edges.crowded), ("turned-faces", turned)):
        if which.any():
            findings.append(_finding(code, int(which.sum()), place=_place(mesh, int(edges.pairs[which][0, 0]))))
    return findings


def _face_findings(mesh: Mesh) -> list[Finding]:
    _, areas = mesh.normals_and_areas()
    findings = []
    flat = areas <= 1e-12 * max(float(areas.max()), 1e-12)
    if flat.any():
        findings.append(_finding("zero-area", int(flat.sum()), place=_place(mesh, int(mesh.faces[flat][0, 0]))))
    group, sizes = repeats(mesh.faces)
    if len(sizes) < len(group):
        where = int(np.argmax(sizes[group] > 1))
        findings.append(_finding("double-faces", int((sizes - 1).sum()), place=_place(mesh, int(mesh.faces[where, 0]))))
    return findings


def _shell_findings(mesh: Mesh) -> list[Finding]:
    labels, count = shell_labels(mesh.faces, len(mesh.vertices))
    if count < 2:
        volume = float(face_volumes(mesh).sum())
        return [_finding("inside-out-shell", 1)] if volume < 0 else []
    volumes = np.bincount(labels, face_volumes(mesh), count)
    lower, upper = shell_boxes(mesh, labels, count)
    extent = (upper - lower).max(axis=1)
    findings = [_finding("many-shells", count)]
    specks = extent < 1e-3 * extent.max()
    if specks.any():
        findings.append(
            _finding("specks", int(specks.sum()), place=_place(mesh, int(mesh.faces[np.argmax(specks[labels]), 0])))
        )
    solid = volumes > 0
    inverted = 0
    for shell in np.flatnonzero((volumes < 0) & ~specks):
        inside = (lower[solid] <= lower[shell]).all(axis=1) & (upper[solid] >= upper[shell]).all(axis=1)
        inverted += not inside.any()  # inside another shell it is that shell's cavity, and rightly turned
    if inverted:
        findings.append(_finding("inside-out-shell", inverted))
    return findings


def examine(mesh: Mesh) -> Health:
    """Examine a welded mesh, its lengths in mm as the file states them."""
    basics = measure(mesh)
    findings = _edge_findings(mesh) + _face_findings(mesh) + _shell_findings(mesh)
    extent = max(basics.size_mm)
    unit = guess_unit(extent)
    if unit != "mm":
        findings.append(
            _finding("unit", 1, f"{extent:.3g} units tall or wide; in {unit} that is {extent * UNITS[unit]:.0f} mm")
        )
    return Health(basics, unit, findings)
