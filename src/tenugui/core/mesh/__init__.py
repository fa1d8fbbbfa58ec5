"""Meshes: the figure as triangles, its basics, its shells and what is wrong with it."""

from .basics import Basics, MeshError, measure, require_figure
from .cuts import Fit, FlatFace, fits, flat_faces
from .edges import edges_of, face_volumes
from .fit import Working, compact, fit_for_work, repeating, subset
from .health import CODES, UNITS, Finding, Health, examine, guess_unit
from .hull import corners_of, hull_corners
from .mesh import Mesh
from .near import distance_within, face_grid
from .nearest import Nearest, nearest_of
from .picture import picture
from .rays import FAR, RayMesh, rays_of
from .samples import surface_samples
from .shells import shell_labels
from .simplify import cluster, decimate
from .thickness import Thickness, ThinPlace, face_thickness, local_thickness, thin_places, vertex_thickness
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
    "Nearest",
    "RayMesh",
    "Thickness",
    "ThinPlace",
    "Working",
    "cluster",
    "compact",
    "corners_of",
    "decimate",
    "distance_within",
    "edges_of",
    "examine",
    "face_grid",
    "face_thickness",
    "face_volumes",
    "fit_for_work",
    "fits",
    "flat_faces",
    "guess_unit",
    "hull_corners",
    "local_thickness",
    "measure",
    "nearest_of",
    "picture",
    "rays_of",
    "repeating",
    "require_figure",
    "shell_labels",
    "subset",
    "surface_samples",
    "thin_places",
    "vertex_thickness",
    "weld",
]
