"""A file's mesh, fit for work, and the copies of it that later tasks look at: preview, coarse copy, mirror, its own
marks.
"""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray

from ..contract import Document, Sha, pack_mesh, unpack_labels, unpack_mesh
from ..formats import NO_LIMITS, load, pack_whole, read_whole
from ..marks import Plane, mirror_plane, nearest_faces, transfer
from ..mesh import Mesh, Working, decimate, fit_for_work, shell_labels
from ..repair import unite
from .given import MeshGiven, SizedGiven
from .shelf import Shelf
from .tasks import Progress, computed, task

PREVIEW = 120_000
COARSE = 60_000
MOST_SHELLS = 200
SAID = (("cuts", "hidden"), ("seen", "show"), ("unseen", "hidden"), ("faces", "show"))
"""What the figure says of itself where nobody has marked anything: proposals, and the kinds that they stand for."""
U1 = NDArray[np.uint8]


class MadeDoc(Document):
    """A mesh that was made from another."""

    sha: Sha


@task("preview", MeshGiven, MadeDoc)
def preview(shelf: Shelf, given: MeshGiven, progress: Progress) -> MadeDoc:
    """The copy of a figure that the page turns and that pictures show."""
    return MadeDoc(sha=shelf.put(pack_mesh(_fine(shelf, given.sha))))


@task("coarse", MeshGiven, MadeDoc)
def coarse(shelf: Shelf, given: MeshGiven, progress: Progress) -> MadeDoc:
    """The copy on which directions are weighed and sight is judged: thinned, and its shells united, since what lies
    inside another shell is no surface.
    """
    whole = working(shelf, given.sha).mesh
    thin = decimate(_fine(shelf, given.sha), COARSE) if len(whole.faces) > COARSE else whole
    many = 1 < shell_labels(thin.faces, len(thin.vertices))[1] <= MOST_SHELLS
    united = unite(thin) if many else None
    return MadeDoc(sha=shelf.put(pack_whole(thin if united is None or not len(united.faces) else united)))


def _fine(shelf: Shelf, sha: str) -> Mesh:
    """The preview's faces as they were thinned: taking the last of a million triangles away is nearly all of
    the work.
    """
    return shelf.memory.recall(("fine", sha), lambda: decimate(working(shelf, sha).mesh, PREVIEW))


def working(shelf: Shelf, sha: str) -> Working:
    """A mesh of the shelf, fit for work, in its file's frame."""
    return shelf.memory.recall(("working", sha), lambda: fit_for_work(load(io.BytesIO(shelf.get(sha)), NO_LIMITS)))


def preview_of(shelf: Shelf, sha: str) -> tuple[str, Mesh]:
    """The preview's hash and mesh, in its file's frame."""
    preview_sha = computed(shelf, "preview", MeshGiven(sha=sha), MadeDoc).sha
    return preview_sha, unpack_mesh(shelf.get(preview_sha))


def coarse_of(shelf: Shelf, sha: str) -> Mesh:
    """The coarse copy, in its file's frame: one object for all that look at it, since its rays and its hull stay with
    it.
    """
    return shelf.memory.recall(
        ("coarse", sha), lambda: read_whole(shelf.get(computed(shelf, "coarse", MeshGiven(sha=sha), MadeDoc).sha))
    )


def nearest_of(shelf: Shelf, sha: str) -> NDArray[np.int64]:
    """For each face of the working mesh the nearest of the coarse copy that looks its way."""
    return shelf.memory.recall(("nearest", sha), lambda: nearest_faces(coarse_of(shelf, sha), working(shelf, sha).mesh))


def mirror_of(shelf: Shelf, sha: str) -> Plane | None:
    """The figure's mirror, in its file's frame: that by which it looks, and across which strokes are laid."""
    return shelf.memory.recall(("mirror", sha), lambda: mirror_plane(coarse_of(shelf, sha)))


def sized(shelf: Shelf, given: SizedGiven) -> Mesh:
    """The working mesh at its printed size, in its file's frame."""
    mesh, factor = working(shelf, given.sha).mesh, given.factor
    return mesh if factor == 1.0 else mesh.scaled(factor)


def file_marks(shelf: Shelf, labels_sha: str, of: str, sha: str) -> U1:
    """The labels that a file gave to its mesh `of`, on the faces of the mesh `sha` that is worked on."""
    labels = unpack_labels(shelf.get(labels_sha))
    own, here = working(shelf, of), working(shelf, sha)
    on_own = labels[own.faces]
    return on_own if of == sha else np.asarray(transfer(own.mesh, on_own, here.mesh), np.uint8)
