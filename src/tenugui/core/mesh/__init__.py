"""Meshes: the figure as triangles, its basics, its shells and what is wrong with it."""

from .basics import Basics, MeshError, measure, require_figure
from .cuts import Fit, FlatFace, fits, flat_faces
from .distance import surface_distance
from .edges import edges_of
from .health import CODES, UNITS, Finding, Health, examine, guess_unit
from .mesh import Mesh
from .picture import picture
from .rays import FAR, RayMesh, rays_of
from .shells import shell_labels
from .simplify import cluster, decimate
from .thickness import Thickness, ThinPlace, local_thickness, thin_places, vertex_thickness
from .weld import weld

__all__ = [
    "CODES",
    "FAR",
    "UNITS",
    "Basics",
    "Finding",
    "Fit",
    "FlatFace",
    "Health",
    "Mesh",
    "MeshError",
    "RayMesh",
    "Thickness",
    "ThinPlace",
    "cluster",
    "decimate",
    "edges_of",
    "examine",
    "fits",
    "flat_faces",
    "guess_unit",
    "local_thickness",
    "measure",
    "picture",
    "rays_of",
    "require_figure",
    "shell_labels",
    "surface_distance",
    "thin_places",
    "vertex_thickness",
    "weld",
]
