"""Put a figure onto the plate in a pose."""

from __future__ import annotations

import numpy as np

from ..machines import MachineError, Printer
from ..mesh import Mesh
from .directions import rotation_to_plate


def posed(mesh: Mesh, down: tuple[float, float, float], lift: float = 0.0, printer: Printer | None = None) -> Mesh:
    """Turn `down` to the plate, drop, centre, raise by `lift` mm; with a printer, turn about z by up to 90° until it fits.

    Raises `MachineError` with code `does-not-fit` where no turn fits the build space.
    """
    vector = np.asarray(down, float)
    length = float(np.linalg.norm(vector))
    if not np.isfinite(vector).all() or length < 1e-9:
        raise MachineError("bad-direction", f"{down} is not a direction.", remedy="Give a vector that is not zero.")
    turned = mesh.transformed(rotation_to_plate(vector / length)).dropped()
    if printer is not None:
        turned = _fitted(turned, lift, printer)
    return Mesh(turned.vertices + np.array([0, 0, lift]), turned.faces)


def _fitted(mesh: Mesh, lift: float, printer: Printer) -> Mesh:
    width, depth, height = printer.build_mm
    for degrees in (0, 90, *range(5, 90, 5)):
        angle = np.radians(degrees)
        turn = np.array([[np.cos(angle), -np.sin(angle), 0], [np.sin(angle), np.cos(angle), 0], [0, 0, 1]])
        trial = mesh if degrees == 0 else mesh.transformed(turn).dropped()
        x, y, z = trial.size
        if x <= width and y <= depth and z + lift <= height:
            return trial
    x, y, z = mesh.size
    raise MachineError(
        "does-not-fit", f"The figure measures {x:.0f} x {y:.0f} x {z + lift:.0f} mm in this pose.",
        f"'{printer.name}' builds {width:.0f} x {depth:.0f} x {height:.0f} mm", "Make it smaller, choose another pose, or split it.",
    )
