"""The fold Size: what came in, the mesh that every later fold works on, other copies of it, and what is too thin at a
size.
"""

from __future__ import annotations

import io
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict
from functools import partial

import numpy as np
from numpy.typing import NDArray

from ..contract import (
    BasicsDoc,
    Document,
    Finding,
    IntakeDoc,
    MendDoc,
    ReadyDoc,
    Refusal,
    SectionsDoc,
    ShellDoc,
    UpDoc,
    UprightDoc,
    WeakDoc,
    basics_of,
    cuts_of,
    health_document,
    pack_mesh,
    pack_values,
    props_of,
    repair_document,
    steps_of,
    triple,
    weak_of,
)
from ..contract.base import Place, Sha
from ..errors import CoreError
from ..formats import NO_LIMITS, load, pack_whole
from ..hollow import Shell, open_shell
from ..layers import cut, grid_for
from ..machines import Printer, load_printer, parts_among, thin_limits, weak_parts
from ..mesh import (
    Mesh,
    ThinPlace,
    examine,
    fit_for_work,
    local_thickness,
    picture,
    subset,
    thin_places,
    vertex_thickness,
)
from ..pose import Z_UP, Direction, front_of, guess_up, height_along, hull_points, is_sure, standing, unit
from ..repair import Ready, Repair, filled, find_props, loose_specks, make_ready, repair, with_floor, without_faces
from .figure import MadeDoc, coarse_of, mirror_of, preview_of, sized, working
from .given import MendGiven, MeshGiven, SizedGiven, ThinGiven, WeakGiven
from .look import faced, faces_of, salient_of
from .shelf import Shelf
from .tasks import Progress, computed, kept, task

RIBBON = 300
"""Columns of a before-and-after ribbon."""
OUTLINE = (220, 260)


@task("upright", MeshGiven, UprightDoc, rests_on=("coarse", "faces", "salient", "faced"))
def upright(shelf: Shelf, given: MeshGiven, progress: Progress) -> UprightDoc:
    """Guess which way up a figure stands, and where it faces."""
    mesh, points = coarse_of(shelf, given.sha), working(shelf, given.sha).mesh.vertices
    with ThreadPoolExecutor(1) as beside:  # guessing keeps one core busy at most
        bent = beside.submit(salient_of, shelf, given.sha)
        mirror = mirror_of(shelf, given.sha)
        ups = guess_up(mesh, mirror=mirror, faces=partial(faces_of, shelf, given.sha))
    salient = bent.result()
    fronts = [
        # Only the likeliest is looked at for a face; the others when they are taken.
        faced(shelf, given.sha, u.direction) if u is ups[0] else front_of(mesh, u.direction, mirror, (), salient)
        for u in ups
    ]
    return UprightDoc(
        ups=[
            UpDoc(
                up=u.direction,
                height=height_along(points, u.direction),
                front=front,
                why=u.why,
            )
            for u, front in zip(ups, fronts, strict=True)
        ],
        sure=is_sure(ups),
    )


def upright_of(shelf: Shelf, sha: str) -> UprightDoc:
    """Which way up the figure stands by itself."""
    return computed(shelf, "upright", MeshGiven(sha=sha), UprightDoc)


@task("intake", MeshGiven, IntakeDoc, rests_on=("preview", "upright"))
def intake(shelf: Shelf, given: MeshGiven, progress: Progress) -> IntakeDoc:
    """Examine a file's mesh, make it ready, and draw it."""
    progress(0.05, "reading the file")
    mesh = load(io.BytesIO(shelf.get(given.sha)), NO_LIMITS)
    progress(0.2, "examining the surface")
    examined = examine(mesh)
    progress(0.4, "making it ready to be worked on")
    sha, ready, refused = given.sha, None, None
    try:
        ready = make_ready(mesh)
        if ready.changed:
            sha = shelf.put(pack_whole(ready.mesh))
    except CoreError as reason:
        refused = Refusal(code=reason.code, what=reason.what, where=reason.where, remedy=reason.remedy)
    worked = fit_for_work(mesh).mesh if ready is None else ready.mesh
    progress(0.55, "making the preview")
    preview_sha, preview = preview_of(shelf, sha)
    progress(0.7, "looking which way up it stands, for supports and for cut faces")
    # The one is of a thinned copy and the other of the mesh itself: neither keeps both cores busy.
    with ThreadPoolExecutor(1) as beside:
        own = beside.submit(
            lambda: (
                health_document(mesh, examined, Z_UP),
                _ready_doc(None if sha == given.sha else sha, worked, ready, refused),
                props_of(find_props(worked)),
                cuts_of(worked),
                [triple(p) for p in hull_points(worked)],
            )
        )
        stands = upright_of(shelf, sha)
        up = stands.ups[0].up
        opened = beside.submit(_shell_of, worked, up)
        progress(0.85, "drawing")
        shown = preview.transformed(standing(up, stands.ups[0].front))
        picture_sha = shelf.put(picture(shown, size=OUTLINE))
        silhouette_sha = shelf.put(picture(shown, size=OUTLINE, azimuth=-90, elevation=0))
    health, ready_doc, props, cuts, hull = own.result()
    shell = opened.result()
    return IntakeDoc(
        health=health.model_copy(update={"up_guess": up}),
        ready=ready_doc,
        upright=stands,
        preview_sha=preview_sha,
        picture_sha=picture_sha,
        silhouette_sha=silhouette_sha,
        props=props,
        cuts=cuts,
        hull=hull,
        shell=None if shell is None else ShellDoc(**asdict(shell)),
    )


SHELL_AT_MM = 100.0
"""How tall a figure is taken to be when its file is asked whether it is a shell: its size is not settled yet."""


def _shell_of(mesh: Mesh, up: Direction) -> Shell | None:
    """The open shell that a mesh is, its wall in the file's units; None for any other."""
    factor = SHELL_AT_MM / max(height_along(mesh.vertices, up), 1e-9)
    shell = open_shell(mesh.scaled(factor), up)
    return None if shell is None else Shell(shell.wall_mm / factor, shell.opens)


def _closed_shell(shelf: Shelf, sha: str, mesh: Mesh, way: str) -> Repair:
    """An open shell with a floor, or filled.

    Raises:
        CoreError: `no-shell`; `no-inside`.
    """
    up = upright_of(shelf, sha).ups[0].up
    shell = _shell_of(mesh, up)
    if shell is None or shell.opens == "side":
        raise CoreError(
            "no-shell",
            "The figure is no shell that opens at its foot or its top.",
            remedy="Make a new surface around it ('New surface'), or print it as it came.",
        )
    out = np.array(up) * (1.0 if shell.opens == "top" else -1.0)
    return (with_floor if way == "floored" else filled)(mesh, out, shell.wall_mm)


def _ready_doc(sha: str | None, mesh: Mesh, ready: Ready | None, refused: Refusal | None) -> ReadyDoc:
    basics = basics_of(mesh)
    return ReadyDoc(
        sha=sha,
        size_mm=basics.size_mm,
        lower=triple(mesh.lower),
        volume_mm3=basics.volume_mm3,
        watertight=basics.watertight,
        steps=[] if ready is None else steps_of(ready.steps),
        specks=0 if ready is None else ready.specks,
        refused=refused,
    )


class CopyDoc(Document):
    """The copy of a figure that a size was taken for."""

    sha: Sha
    preview_sha: Sha
    upright: UprightDoc

    def height(self, shelf: Shelf, up: Direction) -> float:
        """Its height along `up`, in the file's numbers: known for what was guessed, else measured."""
        known = next((u.height for u in self.upright.ups if u.up == up), None)
        return height_along(working(shelf, self.sha).mesh.vertices, up) if known is None else known

    def front(self, shelf: Shelf, up: Direction) -> Direction:
        """Where it faces when it stands on `up`."""
        return faced(shelf, self.sha, up)


def copy_of(shelf: Shelf, sha: str, way: str) -> CopyDoc | None:
    """Which mesh a way of working on a figure means, or None where it has not been made yet.

    Raises:
        CoreError: the figure cannot be worked on this way.
    """
    if way == "ready":
        intake = kept(shelf, "intake", MeshGiven(sha=sha), IntakeDoc)
        if intake is None:
            return None
        if intake.ready.refused:
            r = intake.ready.refused
            raise CoreError(r.code, r.what, r.where, r.remedy)
        return CopyDoc(sha=intake.ready.sha or sha, preview_sha=intake.preview_sha, upright=intake.upright)
    mended = kept(shelf, "mend", MendGiven(sha=sha, way=way), MendDoc)
    if mended is None:
        return None
    return CopyDoc(sha=mended.sha, preview_sha=mended.preview_sha, upright=mended.upright)


def _sections(mesh: Mesh, up: Direction) -> SectionsDoc:
    """The ribbon of a figure as it stands by itself: section by height, in the file's units."""
    stood = mesh if up == Z_UP else mesh.transformed(standing(up))
    placed = stood.dropped()
    height = float(placed.size[2]) / RIBBON
    stack = cut(placed, grid_for(placed, height, max(height / 2, float(placed.size[:2].max()) / 1500)))
    return SectionsDoc(layer_height_mm=height, area_mm2=stack.areas().round(5).tolist(), base=float(stood.lower[2]))


def _other(way: str, mesh: Mesh) -> tuple[Repair, NDArray[np.bool_]]:
    """A copy of a working mesh, and which of its faces were taken away to begin with."""
    none = np.zeros(len(mesh.faces), np.bool_)
    if way == "original":
        return Repair(mesh, [], none, np.arange(len(mesh.faces)), 0), none
    if way == "whole":
        ready = make_ready(mesh, specks=True)
        return Repair(ready.mesh, ready.steps, ready.faces < 0, ready.faces, ready.open_left), none
    gone = loose_specks(mesh)
    if way == "bare":
        props = find_props(mesh)
        if props is None:
            raise CoreError("no-supports", "No supports were found on this figure.", remedy="Repair it instead.")
        gone = gone | props.faces
    left = without_faces(mesh, gone) if gone.any() else mesh
    return repair(left, join_shells=way == "united", last_resort=way == "remeshed"), gone


@task("mend", MendGiven, MendDoc, rests_on=("preview", "upright"))
def mend(shelf: Shelf, given: MendGiven, progress: Progress) -> MendDoc:
    """Another copy of the figure: mended with its specks, as it came, united, remeshed, bared of the supports it came
    with, or, where it is an open shell, closed or filled.
    """
    progress(0.05, "reading the file")
    start = working(shelf, given.sha).mesh
    progress(0.2, "mending")
    way = given.way
    if way in ("floored", "filled"):
        done, gone = _closed_shell(shelf, given.sha, start, way), np.zeros(len(start.faces), np.bool_)
    else:
        done, gone = _other(way, start)
    progress(0.6, "reading both figures' sections")
    changed = subset(done.mesh, done.new) if done.new.any() and not done.new.all() else None
    taken = subset(start, gone) if gone.any() else None
    sha = shelf.put(pack_whole(done.mesh)) if done.mesh is not start else given.sha
    stands = upright_of(shelf, sha)
    before, after = (_sections(mesh, stands.ups[0].up) for mesh in (start, done.mesh))
    progress(0.85, "making the preview")
    return MendDoc(
        way=given.way,
        upright=stands,
        repair=repair_document(done),
        before=before,
        after=after,
        findings=[Finding(**asdict(f)) for f in examine(done.mesh).findings],
        sha=sha,
        preview_sha=preview_of(shelf, sha)[0],
        changed_sha=None if changed is None else shelf.put(pack_mesh(changed)),
        taken_sha=None if taken is None else shelf.put(pack_mesh(taken)),
        lower=triple(done.mesh.lower),
    )


class ThinDoc(Document):
    """Thin places of a figure at its size, in its file's frame, up to a thickness."""

    places: list[tuple[float, float, float, float, float, float, str, Place]]


@task("thin", ThinGiven, ThinDoc)
def thin(shelf: Shelf, given: ThinGiven, progress: Progress) -> ThinDoc:
    """Measure once what every fold speaks of."""
    places = thin_places(local_thickness(sized(shelf, given), given.widest), given.widest)
    return ThinDoc(places=[(p.x, p.y, p.z, p.thickness, p.extent, p.width, p.kind, p.axis) for p in places])


def thin_of(shelf: Shelf, given: SizedGiven, printer: Printer) -> list[ThinPlace]:
    """Places thinner than the printer's process should print, worst first, in the file's frame at the printed size."""
    limits = thin_limits(printer)
    asked = ThinGiven(sha=given.sha, factor=given.factor, widest=max(limits.values()))
    places = [ThinPlace(*row) for row in computed(shelf, "thin", asked, ThinDoc).places]
    return [p for p in places if p.thickness < limits.get(p.kind, limits["sheet"])]


@task("weak", WeakGiven, WeakDoc, rests_on=("thin", "preview"))
def weak(shelf: Shelf, given: WeakGiven, progress: Progress) -> WeakDoc:
    """Parts too thin to survive at the printed size, with what would cure each; and the thickness that the turntable
    dyes.
    """
    progress(0.1, "measuring thickness")
    printer = load_printer(given.printer)
    limits = thin_limits(printer)
    places = thin_of(shelf, given, printer)
    tall = given.factor * height_along(working(shelf, given.sha).mesh.vertices, unit(given.up))
    parts = weak_parts(places, printer, tall)
    progress(0.7, "dyeing the preview")
    _, preview = preview_of(shelf, given.sha)
    thickness = vertex_thickness(preview.scaled(given.factor), beyond=3 * max(limits.values()))
    return WeakDoc(
        limits=limits,  # type: ignore[arg-type]
        parts=[weak_of(w) for w in parts],
        edges=len(places) - len(parts_among(places)),
        cure=max((w.scale for w in parts), default=1.0),
        thickness_sha=shelf.put(pack_values(thickness)),
    )


__all__ = ["BasicsDoc", "CopyDoc", "MadeDoc", "copy_of", "intake", "mend", "thin_of", "weak"]
