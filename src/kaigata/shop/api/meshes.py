"""The pieces of parts as the folded view draws them."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from pydantic import BaseModel
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.blank.mesh import MeshPiece
from kaigata.shop.api.answers import answer
from kaigata.shop.api.parts import ready_blank
from kaigata.shop.services.blanks import (
    document_of,
    mesh_of,
)

__all__ = ["MeshView"]


class JointAnswer(BaseModel):
    """How a bend rolls up; mm, radians."""

    start: tuple[float, float]
    across: tuple[float, float]
    allowance: float
    angle: float
    is_up: bool
    neutral: float


class PieceAnswer(BaseModel):
    """A panel (its number) or bend (its number) as triangles in the blank.

    ``creases`` are lines marked on it: x and y of both ends of each, one after the other.
    """

    panel: int | None
    bend: int | None
    parent: int | None
    triangles: list[float]
    outlines: list[list[float]]
    creases: list[float]
    joint: JointAnswer | None


class MeshAnswer(BaseModel):
    """The pieces of a part, each after the one it hangs on."""

    thickness: float
    pieces: list[PieceAnswer]


class MeshView(APIView):
    """The folded view of a part."""

    @extend_schema(responses=MeshAnswer, operation_id="mesh_show")
    def get(self, request: Request, part: int) -> Response:
        """Give the triangles a folded view turns."""
        blank = ready_blank(part)
        number = {b.place: b.id for b in document_of(blank).bends}
        pieces = [_piece(p, number) for p in mesh_of(blank)]
        return answer(MeshAnswer(thickness=blank.document["thickness"], pieces=pieces))


def _piece(piece: MeshPiece, number: dict[int, int]) -> PieceAnswer:
    joint = piece.joint
    return PieceAnswer(
        panel=piece.panel,
        bend=number.get(piece.bend) if piece.bend is not None else None,
        parent=piece.parent,
        triangles=[round(v, 4) for v in piece.triangles.ravel().tolist()],
        outlines=[[round(v, 4) for v in o.ravel().tolist()] for o in piece.outlines],
        creases=[round(v, 4) for v in piece.creases.ravel().tolist()],
        joint=JointAnswer(**{f: getattr(joint, f) for f in joint.__slots__}) if joint else None,
    )
