"""What people look at: sight, saliency and faces, as one importance of every face of a mesh."""

from .faces import Face, find_faces, front_by
from .importance import FACE_FROM, Look, look_at
from .saliency import saliency
from .sight import LOWEST, around, sight

__all__ = ["FACE_FROM", "LOWEST", "Face", "Look", "around", "find_faces", "front_by", "look_at", "saliency", "sight"]
