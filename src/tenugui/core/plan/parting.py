"""Cutting a figure into a kit: places that are proposed, and a figure parted at one of them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..contract import pack_labels, pack_mesh, triple
from ..contract.parting import (
    CutAsk,
    CutsDoc,
    FitDoc,
    PartDoc,
    PartedDoc,
    PegDoc,
    PlaneAsk,
    ProposedCutDoc,
)
from ..formats import pack_whole
from ..machines import fits_in, load_printer
from ..marks import KINDS, transfer
from ..mesh import Mesh, decimate, face_volumes, shell_labels
from ..parting import Fit, PartingError, Plane, Proposed, closed, joint_minutes, part, propose_cuts
from ..parting.part import FITS, OLD, SEAM
from ..repair import unite
from .figure import PREVIEW, coarse_of, sized
from .given import FigureGiven
from .inputs import Inputs
from .look import look_of
from .shelf import Shelf
from .tasks import Progress, task

U1 = NDArray[np.uint8]
F8 = NDArray[np.float64]
HIDDEN, FIT = KINDS.index("hidden") + 1, KINDS.index("fit") + 1
SEEN, HARDLY = 0.5, 0.2


class PartGiven(FigureGiven):
    """Where a figure is parted, and how its peg fits."""

    cut: CutAsk
    clearance: float
    least: float


class CutsGiven(FigureGiven):
    """How pegs fit on its machine; `known` by what was seen."""

    clearance: float
    least: float
    known: bool = False


def _looked(shelf: Shelf, given: FigureGiven) -> tuple[F8, list[tuple[F8, float]]]:
    """How much people look at each face of the coarse copy, and faces (middle, radius) at the figure's size."""
    look = look_of(shelf, given)
    return look.importance, [(np.array(f.middle) * given.factor, f.radius * given.factor) for f in look.faces]


@task("cuts", CutsGiven, CutsDoc, rests_on=("looked", "coarse"))
def cuts(shelf: Shelf, given: CutsGiven, progress: Progress) -> CutsDoc:
    """Places where a figure may be parted, as it stands at its size."""
    fit = FitDoc(clearance_mm=given.clearance, least_mm=given.least, known=given.known)
    progress(0.1, "looking what is looked at")
    looks, faces = _looked(shelf, given)
    coarse = coarse_of(shelf, given.sha).scaled(given.factor)
    try:
        closed(coarse)
    except PartingError as open_:
        return CutsDoc(proposals=[], fit=fit, refused=f"{open_.what} {open_.remedy}")
    progress(0.5, "looking where limbs hang")
    up = np.array(given.up)
    found, foot = (
        propose_cuts(coarse, up, looks, Fit(given.clearance, given.least), faces),
        float((coarse.vertices @ up).min()),
    )
    if not found:
        return CutsDoc(proposals=[], fit=fit, refused="No limb hangs on it by one narrow place.")
    return CutsDoc(
        proposals=[
            ProposedCutDoc(
                plane=PlaneAsk(point=one.plane.point, normal=one.plane.normal),
                share=one.share,
                area_mm2=one.area,
                seam_mm=one.seam,
                seen=one.seen,
                minutes=one.minutes,
                said=_said(one, float(np.array(one.plane.point) @ up) - foot),
            )
            for one in found
        ],
        fit=fit,
    )


def _said(one: Proposed, height: float) -> str:
    where = "where nobody looks" if one.seen < HARDLY else "in sight" if one.seen > SEEN else "seen a little"
    return f"{100 * one.share:.0f} % of it, {height:.0f} mm up, on {one.area:.0f} mm², {where}"


@task("parted", PartGiven, PartedDoc, rests_on=("looked", "coarse"))
def parted(shelf: Shelf, given: PartGiven, progress: Progress) -> PartedDoc:
    """A figure parted at a place: both parts where they were, with the marks that were on them.

    Raises:
        PartingError: why it cannot be parted there.
    """
    progress(0.05, "reading the figure")
    whole = sized(shelf, given)
    figure = whole
    if shell_labels(whole.faces, len(whole.vertices))[1] > 1:
        united = unite(whole)
        if united is None:
            raise PartingError(
                "not-closed",
                "Only a closed figure can be parted.",
                "",
                "Close it in Size first, by a remesh if need be.",
            )
        figure = united
    looks, faces = _looked(shelf, given)
    progress(0.4, "parting it")
    cut = given.cut
    length = float(np.linalg.norm(cut.normal))
    if not 1e-9 < length < 1e9:
        raise PartingError("misses", "The plane has no direction.", "", "Say across which direction it cuts.")
    asked = Fit(given.clearance, given.least) if cut.peg else None
    done = part(figure, Plane(cut.point, cut.normal), asked, faces)
    progress(0.8, "handing its marks on")
    labels = Inputs(shelf, given).labels
    room = load_printer(given.printer).build_mm
    parts = []
    for what, mesh, origin in (("rest", done.rest, done.rest_from), ("limb", done.limb, done.limb_from)):
        marks = (
            np.zeros(len(mesh.faces), np.uint8)
            if labels is None
            else np.asarray(transfer(whole, labels, mesh), np.uint8)
        )
        marks[origin == SEAM], marks[origin == FITS] = HIDDEN, FIT
        preview = decimate(mesh, PREVIEW)
        parts.append(
            PartDoc(
                what="rest" if what == "rest" else "limb",
                sha=shelf.put(pack_whole(mesh)),
                preview_sha=shelf.put(pack_mesh(preview)),
                marks_sha=shelf.put(pack_labels(marks)),
                triangles=len(mesh.faces),
                volume_mm3=float(face_volumes(mesh).sum()),
                size_mm=triple(mesh.size),
                fits=fits_in(mesh.size, room),
            )
        )
    seen = _seen(coarse_of(shelf, given.sha).scaled(given.factor), looks, done.limb, done.limb_from)
    joint = done.joint
    peg = None
    if joint.peg is not None:
        peg = PegDoc(width_mm=joint.peg.width, length_mm=joint.peg.length, clearance_mm=joint.peg.clearance)
    pegless = None
    if peg is None and cut.peg:
        pegless = f"No peg of {given.least:g} mm and more has room here: glue it flat, or pin it with wire."
    return PartedDoc(
        parts=(parts[0], parts[1]),
        away=done.plane.normal,
        area_mm2=joint.area,
        seam_mm=joint.seam,
        seen=seen,
        minutes=joint_minutes(joint.seam, seen, pinned=pegless is not None),
        peg=peg,
        pegless=pegless,
        solid_mm3=float(face_volumes(figure).sum()),
    )


def _seen(coarse: Mesh, looks: F8, limb: Mesh, origin: U1) -> float:
    """How much people look at the faces of a limb beside its seam."""
    on_seam = np.zeros(len(limb.vertices), np.bool_)
    on_seam[limb.faces[origin == SEAM]] = True
    beside = on_seam[limb.faces].any(axis=1) & (origin == OLD)
    if not beside.any():
        return 0.0
    _, area = limb.normals_and_areas()
    values = np.asarray(transfer(coarse, looks, limb), float)
    return float(np.average(values[beside], weights=np.maximum(area[beside], 1e-12)))
