"""Layers as closed outlines in a 3MF, by its published slice extension: each part's own stack beside its mesh, at the
heights of its layers.

A reader that knows the extension prints the outlines as they are; any other one takes the meshes.
"""

from __future__ import annotations

import zipfile
from collections.abc import Mapping, Sequence
from typing import Any, BinaryIO
from xml.sax.saxutils import quoteattr

import lib3mf
import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh
from .problems import FormatError
from .rows import rows_of
from .threemf import bulk, new_model

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
Loops = Sequence[F8]


CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
SLICES = "http://schemas.microsoft.com/3dmanufacturing/slice/2015/07"
MODEL = "3D/3dmodel.model"
TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
)
RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?>'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    f'<Relationship Target="/{MODEL}" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/>'
    "</Relationships>"
)
DECIMALS = 4
"""Of a mm: a twentieth of what any machine draws."""
QUICK = 1
"""How hard it is packed: outlines pack to a fifth at once, and little further."""


def write_slices(parts: Mapping[str, tuple[Mesh, Sequence[Loops]]], tops: F8, handle: BinaryIO) -> None:
    """Write parts in build coordinates, each with its closed outlines (n, 2) of every layer; `tops` (layers,) mm, the
    plate at 0. Layer by layer: no more of it is held than one.
    """
    with zipfile.ZipFile(handle, "w", zipfile.ZIP_DEFLATED, compresslevel=QUICK) as package:
        package.writestr("[Content_Types].xml", TYPES)
        package.writestr("_rels/.rels", RELATIONS)
        with package.open(MODEL, "w", force_zip64=True) as model:
            model.write(
                f'<?xml version="1.0" encoding="UTF-8"?><model unit="millimeter" xmlns="{CORE}" xmlns:s="{SLICES}">'
                "<resources>".encode()
            )
            for k, (name, (mesh, layers)) in enumerate(parts.items()):
                model.write(f'<s:slicestack id="{2 * k + 1}" zbottom="0">'.encode())
                for top, loops in zip(tops.tolist(), layers, strict=True):
                    model.write(_slice(top, loops))
                # The outlines are the whole of it: the mesh is at full detail too.
                model.write(
                    f'</s:slicestack><object id="{2 * k + 2}" type="model" name={quoteattr(name)}'
                    f' s:slicestackid="{2 * k + 1}" s:meshresolution="fullres"><mesh><vertices>'.encode()
                )
                model.write(rows_of(_grains(mesh.vertices), ('<vertex x="', '" y="', '" z="', '"/>'), DECIMALS))
                model.write(b"</vertices><triangles>")
                model.write(rows_of(mesh.faces.astype(np.int64), ('<triangle v1="', '" v2="', '" v3="', '"/>')))
                model.write(b"</triangles></mesh></object>")
            items = "".join(f'<item objectid="{2 * k + 2}"/>' for k in range(len(parts)))
            model.write(f"</resources><build>{items}</build></model>".encode())


def _grains(points: F8) -> I8:
    return np.round(np.asarray(points) * 10**DECIMALS).astype(np.int64)


def _slice(top: float, loops: Loops) -> bytes:
    head = f'<s:slice ztop="{top:.6g}">'.encode()
    if not len(loops):
        return head + b"</s:slice>"
    lines = [head, b"<s:vertices>"]
    lines += [
        rows_of(_grains(np.concatenate(list(loops))), ('<s:vertex x="', '" y="', '"/>'), DECIMALS),
        b"</s:vertices>",
    ]
    first = 0
    for loop in loops:
        # A polygon of the extension is closed by naming its first corner again.
        then = np.append(np.arange(first + 1, first + len(loop)), first)[:, None]
        lines += [f'<s:polygon startv="{first}">'.encode(), rows_of(then, ('<s:segment v2="', '"/>')), b"</s:polygon>"]
        first += len(loop)
    return b"".join([*lines, b"</s:slice>"])


def read_slices(data: bytes) -> dict[str, list[tuple[float, list[F8]]]]:
    """By part: every layer's top in mm, and its closed outlines.

    Raises:
        FormatError: `bad-3mf`.
    """
    model = new_model()
    try:
        model.QueryReader("3mf").ReadFromBuffer(data)
    except lib3mf.ELib3MFException as reason:
        raise FormatError("bad-3mf", "The 3MF cannot be read.", str(reason)[:80], "Write it anew.") from reason
    stacks: dict[str, list[tuple[float, list[F8]]]] = {}
    things = model.GetMeshObjects()
    while things.MoveNext():
        thing = things.GetCurrentMeshObject()
        if thing.HasSlices(False):
            stack = thing.GetSliceStack()
            stacks[thing.GetName()] = [_read(stack.GetSlice(k)) for k in range(stack.GetSliceCount())]
    return stacks


def _read(slice_: Any) -> tuple[float, list[F8]]:
    points = bulk(slice_, "lib3mf_slice_getvertices", lib3mf.Position2D, np.float32).reshape(-1, 2).astype(float)
    loops = [points[slice_.GetPolygonIndices(k)[:-1]] for k in range(slice_.GetPolygonCount())]
    return float(slice_.GetZTop()), loops
