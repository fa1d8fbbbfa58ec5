"""Files in and out: open handles to meshes and back."""

from .load import load, refuse_early
from .problems import FormatError, Limits
from .runsheet import RunSheet, write_run_sheet
from .stl import read_stl, write_stl
from .threemf import read_3mf, write_3mf

__all__ = ["FormatError", "Limits", "RunSheet", "load", "read_3mf", "read_stl", "refuse_early", "write_3mf", "write_run_sheet", "write_stl"]
