"""Files in and out: open handles to meshes and back."""

from .beams import Beams
from .gltf import read_gltf, write_glb
from .label import Label, write_labels
from .load import FORMATS, Held, load, read, refuse_early
from .obj import read_obj, write_obj
from .offersheet import OfferSheet, write_offer
from .packed import pack_whole, read_whole
from .photo import Photo, read_photo
from .plate import Spot, plate_picture, write_plate
from .ply import read_ply, write_ply
from .problems import NO_LIMITS, FormatError, Limits
from .runsheet import RunSheet, write_run_sheet
from .slices import read_slices, write_slices
from .stl import read_stl, write_stl
from .threemf import read_3mf, write_3mf

__all__ = [
    "FORMATS",
    "NO_LIMITS",
    "Beams",
    "FormatError",
    "Held",
    "Label",
    "Limits",
    "OfferSheet",
    "Photo",
    "RunSheet",
    "Spot",
    "load",
    "pack_whole",
    "plate_picture",
    "read",
    "read_3mf",
    "read_gltf",
    "read_obj",
    "read_photo",
    "read_ply",
    "read_slices",
    "read_stl",
    "read_whole",
    "refuse_early",
    "write_3mf",
    "write_glb",
    "write_labels",
    "write_obj",
    "write_offer",
    "write_plate",
    "write_ply",
    "write_run_sheet",
    "write_slices",
    "write_stl",
]
