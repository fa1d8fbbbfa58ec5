"""The documents of what people look at."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..look import Face
from .base import Document, Place, Sha


class FaceDoc(Document):
    """A face that was found: its middle on the surface, its radius, how sure it is (0 to 1), towards whom it looks and
    how many views agree.
    """

    x_mm: float
    y_mm: float
    z_mm: float
    radius_mm: float
    sure: float
    toward: Place
    views: int

    @classmethod
    def of(cls, face: Face, factor: float = 1.0) -> FaceDoc:
        """The document of a face, its lengths times `factor`."""
        x, y, z = (float(v) * factor for v in face.middle)
        return cls(
            x_mm=x,
            y_mm=y,
            z_mm=z,
            radius_mm=face.radius * factor,
            sure=face.sure,
            toward=face.toward,
            views=face.views,
        )

    def face(self) -> Face:
        """The face itself."""
        return Face((self.x_mm, self.y_mm, self.z_mm), self.radius_mm, self.toward, self.views, self.sure)


class FacesDoc(Document):
    """The faces of a figure, in its file's frame and unit, the surest first."""

    faces: list[FaceDoc]


class FrontDoc(Document):
    """Where a figure faces, in its file's frame."""

    front: Place


class LookDoc(Document):
    """Where a figure faces, what is found on it, and by the faces of its coarse copy their importance and sight."""

    front: Place
    faces: list[FaceDoc]
    importance_sha: Sha
    sight_sha: Sha


class JudgeDoc(Document):
    """The contract's `judge`: in the file's frame; `importance` names the array, a value a triangle of the file, 0
    to 1.
    """

    schema_: Literal["tenugui/judge@1"] = Field("tenugui/judge@1", alias="schema")
    up: Place
    front: Place | None
    faces: list[FaceDoc]
    importance: str | None
