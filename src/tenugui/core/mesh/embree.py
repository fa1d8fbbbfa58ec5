"""Embree by its C interface, called from compiled loops: buffers are filled at once, and rays are shot without the
interpreter's lock.

The library is the one that the `embreex` package brings. Its own binding fills buffers corner by corner, which takes
longer than the building of the tree and holds the lock meanwhile: `./tenugui bench "mesh prepared"` has both side by
side.
"""

from __future__ import annotations

import ctypes
import importlib.util
import weakref
from pathlib import Path
from typing import Any

import llvmlite.binding
import numpy as np
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic
from numpy.typing import NDArray

from ..compiled import njit
from ..errors import CoreError

INDEX, VERTEX, UINT3, FLOAT3 = 0, 1, 0x5003, 0x9003
ROBUST = 1 << 2
TRIANGLES = 0
FLOATS = 24
"""A ray and its hit as 32-bit words: 12 of the ray, 3 of the normal, u, v, face, geometry, instances; to a multiple of
16 bytes.
"""
NO_FACE = 0xFFFFFFFF


def _library() -> Path:
    spec = importlib.util.find_spec("embreex")
    assert spec is not None and spec.origin is not None
    home = Path(spec.origin).parent
    libraries = sorted([*home.parent.glob("embreex.libs/libembree4*"), *home.glob("**/libembree4*")])
    if not libraries:
        raise CoreError("no-embree", "The ray library is not where its package puts it.", str(home), "Install again.")
    return libraries[0]


def _loaded() -> ctypes.CDLL:
    import embreex.rtcore_scene  # noqa: F401  it loads what the library itself needs

    path = str(_library())
    library = ctypes.CDLL(path)
    llvmlite.binding.load_library_permanently(path)  # compiled code finds the functions by name, also from its cache
    handle, size = ctypes.c_void_p, ctypes.c_size_t
    for name, result, takes in (
        ("rtcNewDevice", handle, [ctypes.c_char_p]),
        ("rtcNewScene", handle, [handle]),
        ("rtcSetSceneFlags", None, [handle, ctypes.c_int]),
        ("rtcNewGeometry", handle, [handle, ctypes.c_int]),
        ("rtcSetNewGeometryBuffer", handle, [handle, ctypes.c_int, ctypes.c_uint, ctypes.c_int, size, size]),
        ("rtcCommitGeometry", None, [handle]),
        ("rtcAttachGeometry", ctypes.c_uint, [handle, handle]),
        ("rtcReleaseGeometry", None, [handle]),
        ("rtcCommitScene", None, [handle]),
        ("rtcReleaseScene", None, [handle]),
        ("rtcGetDeviceError", ctypes.c_int, [handle]),
    ):
        function = getattr(library, name)
        function.restype, function.argtypes = result, takes
    return library


_LIB = _loaded()
_DEVICE = _LIB.rtcNewDevice(None)


def _check_layout() -> None:
    """Offsets in rays are the library's own: one ray at one triangle says whether the installed one still keeps to
    them.

    Raises:
        CoreError: `embree-layout`.
    """
    _LIB.rtcIntersect1.restype, _LIB.rtcIntersect1.argtypes = None, [ctypes.c_void_p] * 3
    corners = np.array([[0, 0, 2], [4, 0, 2], [0, 8, 2]], np.float32)
    target = Scene(corners, np.array([[0, 1, 2]], np.int32))
    words = np.zeros(FLOATS + 4, np.uint32)
    skip = (16 - words.ctypes.data % 16) % 16 // 4
    words = words[skip : skip + FLOATS]
    ray = words.view(np.float32)
    ray[:12] = 1, 1, 0, 0, 0, 0, 0.5, 0, np.inf, 0, 0, 0
    words[9], words[17:] = NO_FACE, NO_FACE
    _LIB.rtcIntersect1(target.address, words.ctypes.data, None)
    # Twice as far in lengths of its direction, the triangle's normal, a quarter along one edge and an eighth along
    # the other.
    seen = [*ray[[8, 12, 13, 14, 15, 16]].tolist(), *words[17:19].tolist()]
    if seen != [4.0, 0.0, 0.0, 32.0, 0.25, 0.125, 0, 0]:
        raise CoreError(
            "embree-layout",
            f"The ray library answers in another layout: {seen}.",
            str(_library()),
            "Install the locked version of its package again.",
        )


_intersect = types.ExternalFunction("rtcIntersect1", types.void(types.voidptr, types.voidptr, types.voidptr))


class Scene:
    """Triangles prepared for rays. `address` is what compiled code is given; the scene lives as long as this does."""

    def __init__(self, vertices: NDArray[np.float32], faces: NDArray[np.int32]) -> None:
        scene, geometry = _LIB.rtcNewScene(_DEVICE), _LIB.rtcNewGeometry(_DEVICE, TRIANGLES)
        weakref.finalize(self, _LIB.rtcReleaseScene, scene)
        _LIB.rtcSetSceneFlags(scene, ROBUST)  # no ray slips between two faces
        if len(faces):
            # Embree reads four floats where it was given three: a spare corner keeps it inside its buffer.
            _fill(geometry, VERTEX, FLOAT3, vertices, spare=1)
            _fill(geometry, INDEX, UINT3, faces.view(np.uint32))
            _LIB.rtcCommitGeometry(geometry)
            _LIB.rtcAttachGeometry(scene, geometry)
        _LIB.rtcReleaseGeometry(geometry)
        _LIB.rtcCommitScene(scene)
        fault = _LIB.rtcGetDeviceError(_DEVICE)
        if fault:
            raise MemoryError(f"embree: error {fault} for {len(faces):,} triangles")
        self.address: int = scene


def _fill(geometry: Any, kind: int, form: int, rows: NDArray[Any], spare: int = 0) -> None:
    place = _LIB.rtcSetNewGeometryBuffer(geometry, kind, 0, form, 12, len(rows) + spare)
    if not place:
        raise MemoryError(f"embree has no room for {len(rows):,} rows")
    ctypes.memmove(place, np.ascontiguousarray(rows).ctypes.data, 12 * len(rows))


@intrinsic
def _pointer(typing: Any, address: Any) -> Any:
    def code(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        return builder.inttoptr(arguments[0], cgutils.voidptr_t)

    return types.voidptr(types.uintp), code


@njit()
def ray_room() -> NDArray[np.float32]:
    """Room for one ray and its hit, aligned as Embree wants it; one for each thread."""
    room = np.empty(FLOATS + 4, np.float32)
    skip = (16 - room.ctypes.data % 16) % 16 // 4
    return room[skip : skip + FLOATS]


@njit()
def shoot_one(
    scene: int, ray: NDArray[np.float32], x: float, y: float, z: float, u: float, v: float, w: float
) -> float:
    """Distance of the first hit from a point in a direction, in its lengths; infinite where there is none. `ray` is the
    room it is given, and holds the hit.
    """
    words = ray.view(np.uint32)
    ray[0], ray[1], ray[2], ray[3] = x, y, z, 0.0
    ray[4], ray[5], ray[6], ray[7], ray[8] = u, v, w, 0.0, np.inf
    words[9], words[10], words[11] = 0xFFFFFFFF, 0, 0
    for k in range(17, FLOATS):
        words[k] = NO_FACE
    _intersect(_pointer(np.uintp(scene)), _pointer(np.uintp(ray.ctypes.data)), _pointer(np.uintp(0)))
    return ray[8]


@njit()
def shoot(
    scene: int,
    origins: NDArray[np.float32],
    directions: NDArray[np.float32],
    distance: NDArray[np.float32],
    face: NDArray[np.int32],
) -> None:
    """Shoot rays (n, 3): the distance in lengths of its direction and the face of each first hit; infinite and -1 where
    there is none.
    """
    ray = ray_room()
    words = ray.view(np.uint32)
    for k in range(len(origins)):
        o, d = origins[k], directions[k]
        distance[k] = shoot_one(scene, ray, o[0], o[1], o[2], d[0], d[1], d[2])
        face[k] = -1 if words[17] == NO_FACE else np.int32(words[17])


_check_layout()
