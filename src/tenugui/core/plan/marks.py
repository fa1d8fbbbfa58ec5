"""The fold Marks: what the figure says of itself, whole and on the preview."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..contract import (
    LookDoc,
    ProposalDoc,
    ProposalsDoc,
    pack_labels,
    pack_values,
    plane_of,
    unpack_labels,
    unpack_values,
)
from ..look import Look
from ..marks import PROPOSALS, propose, transfer
from .figure import SAID, MadeDoc, coarse_of, file_marks, mirror_of, nearest_of, preview_of, working
from .given import LookGiven, MarkGiven
from .look import look_of, turned_only
from .shelf import Shelf
from .tasks import Progress, computed, quiet, task, within

B1 = NDArray[np.bool_]


def _packed(labels: dict[str, B1]) -> NDArray[np.uint8]:
    """A bit a proposal for every face."""
    bits: Any = np.bitwise_or.reduce([labels[name].astype(np.uint8) << index for index, name in enumerate(PROPOSALS)])
    return np.asarray(bits, np.uint8)


@task("proposed", LookGiven, MadeDoc, rests_on=("looked",))
def proposed_task(shelf: Shelf, given: LookGiven, progress: Progress) -> MadeDoc:
    """Each proposal's faces, made once for every mesh."""
    coarse, near = look_of(shelf, given, progress), nearest_of(shelf, given.sha)
    here = Look(coarse.importance[near], coarse.sight[near], coarse.faces)
    labels = propose(working(shelf, given.sha).mesh, here)
    return MadeDoc(sha=shelf.put(pack_labels(_packed(labels.faces))))


def _bits(shelf: Shelf, given: LookGiven, progress: Progress = quiet) -> NDArray[np.uint8]:
    return unpack_labels(shelf.get(computed(shelf, "proposed", turned_only(shelf, given), MadeDoc, progress).sha))


def proposed(shelf: Shelf, given: LookGiven) -> dict[str, B1]:
    """Each proposal's faces of the working mesh `sha` that stands as `up` says."""
    bits = _bits(shelf, given)
    return {name: (bits >> index) & 1 == 1 for index, name in enumerate(PROPOSALS)}


@task("proposals", MarkGiven, ProposalsDoc, rests_on=("proposed", "preview"))
def proposals(shelf: Shelf, given: MarkGiven, progress: Progress) -> ProposalsDoc:
    """What might be marked: a bit a proposal for every face of the preview; the mirror's plane; what the file itself
    marks.
    """
    progress(0.02, "reading the figure")
    mesh = working(shelf, given.sha).mesh
    preview_sha, preview = preview_of(shelf, given.sha)
    bits = _bits(shelf, given, within(progress, 0.1, 0.8))
    progress(0.85, "looking for its mirror")
    own = None
    if given.marks is not None:
        own = transfer(mesh, file_marks(shelf, given.marks, given.marks_of or given.sha, given.sha), preview)
    look = computed(shelf, "looked", turned_only(shelf, given), LookDoc)
    looks = transfer(coarse_of(shelf, given.sha), unpack_values(shelf.get(look.importance_sha)), preview)
    overlooked = np.ones(len(preview.vertices))
    np.minimum.at(overlooked, preview.faces.ravel(), np.repeat(1.0 - looks, 3))
    _, area = mesh.normals_and_areas()
    total = max(float(area.sum()), 1e-12)
    shares = {name: float(area[(bits >> index) & 1 == 1].sum()) / total for index, name in enumerate(PROPOSALS)}
    return ProposalsDoc(
        proposals=[
            ProposalDoc(name=name, kind=kind, share=shares[name], soft=(name, kind) in SAID)
            for name, kind in PROPOSALS.items()
        ],
        plane=plane_of(mirror_of(shelf, given.sha)),
        preview_sha=preview_sha,
        labels_sha=shelf.put(pack_labels(transfer(mesh, bits, preview))),
        file_sha=None if own is None else shelf.put(pack_labels(own)),
        faces=look.faces,
        front=look.front,
        overlooked_sha=shelf.put(pack_values(overlooked)),
    )
