"""Layers as closed outlines in a 3MF, by its published slice extension: each part's own stack beside its mesh, at the
heights of its layers.

A reader that knows the extension prints the outlines as they are; any other one takes the meshes.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from ctypes import c_uint8, c_uint64
from typing import Any, BinaryIO

import lib3mf
import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh
from .problems import FormatError
from .threemf import bulk, new_model, set_geometry

F8 = NDArray[np.float64]
Loops = Sequence[F8]


def write_slices(parts: Mapping[str, tuple[Mesh, Sequence[Loops]]], tops: F8, handle: BinaryIO) -> None:
    """Write parts in build coordinates, each with its closed outlines (n, 2) of every layer; `tops` (layers,) mm, the
    plate at 0.
    """
    model = new_model()
    for name, (mesh, layers) in parts.items():
        thing = model.AddMeshObject()
        thing.SetName(name)
        set_geometry(thing, mesh)
        stack = model.AddSliceStack(0.0)
        for top, loops in zip(tops.tolist(), layers, strict=True):
            _add(stack.AddSlice(top), loops)
        thing.AssignSliceStack(stack)
        # The outlines are the whole of it: the mesh is at full detail too.
        thing.SetSlicesMeshResolution(lib3mf.SlicesMeshResolution.Fullres)
        model.AddBuildItem(thing, lib3mf.get_wrapper().GetIdentityTransform())
    handle.write(bulk(model.QueryWriter("3mf"), "lib3mf_writer_writetobuffer", c_uint8, np.uint8).tobytes())


def _add(slice_: Any, loops: Loops) -> None:
    if not len(loops):
        return
    points = np.ascontiguousarray(np.concatenate(list(loops)))
    corners = (lib3mf.Position2D * len(points)).from_buffer_copy(points.astype(np.float32))
    code = slice_._wrapper.lib.lib3mf_slice_setvertices(slice_._handle, c_uint64(len(points)), corners)
    slice_._wrapper.checkError(slice_, code)
    first = 0
    for loop in loops:
        # A polygon of the extension is closed by naming its first corner again.
        slice_.AddPolygon([*range(first, first + len(loop)), first])
        first += len(loop)


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
