"""Parts built here from fold recipes."""

from __future__ import annotations

from dataclasses import asdict

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.part.recipe import Recipe, sentences, shell_faces, starters
from kaigata.core.part.recipe.document import Metal
from kaigata.shop.api.answers import BINARY, answer, download, read
from kaigata.shop.api.racks import RackLine, rack_line
from kaigata.shop.models import Order, Part
from kaigata.shop.services.recipes import (
    begin_recipe,
    change_recipe,
    flat_nets,
    fold_round,
    panel_names,
    recipe_of,
)

__all__ = ["BlockView", "NetsView", "RecipeFileView", "RecipeView", "StarterView", "StartersView"]


class DimensionView(BaseModel):
    """A named dimension: as it was said, and what it comes to in the recipe's unit."""

    name: str
    said: str
    value: float


class EdgeNameView(BaseModel):
    """A free edge of a panel: its number, and its middle on the blank, mm."""

    number: int
    at: tuple[float, float]


class PanelNameView(BaseModel):
    """What a recipe calls a panel: the panel it lies in, and where on the blank, mm."""

    name: str
    panel: int
    at: tuple[float, float]
    edges: list[EdgeNameView]


class RecipeAnswer(BaseModel):
    """A part's recipe, its dimensions worked out, its steps told and its panels by name.

    ``seen`` goes back with a change.
    """

    recipe: Recipe
    panels: list[PanelNameView]
    dimensions: list[DimensionView]
    sentences: list[str]
    seen: str


class RecipeAsk(BaseModel):
    """Another recipe, and which one it was made of."""

    model_config = ConfigDict(extra="forbid")

    recipe: Recipe
    seen: str


class StarterAnswer(BaseModel):
    """A recipe to start from."""

    name: str
    part: str
    sentences: list[str]


class StarterList(BaseModel):
    """The recipes to start from, the plainest first."""

    starters: list[StarterAnswer]


class StarterAsk(BaseModel):
    """Which recipe to start from."""

    model_config = ConfigDict(extra="forbid")

    starter: str


class RecipeView(APIView):
    """The recipe of a part that was built here."""

    @extend_schema(responses=RecipeAnswer, operation_id="recipe_show")
    def get(self, request: Request, part: int) -> Response:
        """Show the recipe."""
        return answer(_answer(_part(part)))

    @extend_schema(request=RecipeAsk, responses=RecipeAnswer, operation_id="recipe_change")
    def put(self, request: Request, part: int) -> Response:
        """Build the part from a changed recipe."""
        asked = read(RecipeAsk, request)
        change_recipe(_part(part), asked.recipe, seen=asked.seen)
        return answer(_answer(_part(part)))


def _part(part: int) -> Part:
    return get_object_or_404(
        Part.objects.select_related("source", "line__material", "blank"), pk=part
    )


def _answer(part: Part) -> RecipeAnswer:
    recipe = recipe_of(part)
    said = {
        "thickness": recipe.thickness,
        "inside_radius": "thickness" if recipe.inside_radius is None else recipe.inside_radius,
        **recipe.dimensions,
    }
    return RecipeAnswer(
        recipe=recipe,
        dimensions=[
            DimensionView(
                name=name,
                said=said[name] if isinstance(said[name], str) else f"{said[name]:.6g}",
                value=value,
            )
            for name, value in recipe.sizes().known.items()
        ],
        panels=[
            PanelNameView(
                name=n.name,
                panel=n.panel + 1,
                at=n.at,
                edges=[EdgeNameView(number=e.number, at=e.at) for e in n.edges],
            )
            for n in panel_names(part, recipe)
        ],
        sentences=sentences(recipe),
        seen=part.source_id,
    )


class NeighbourView(BaseModel):
    """A face beyond an edge: how long that is, mm, and how far the sheet turns, degrees."""

    face: str
    length: float
    turn: float


class FaceView(BaseModel):
    """A face of a shell: what it hangs on, null where it is the first or left open."""

    name: str
    is_open: bool
    hangs_on: str | None
    beside: list[NeighbourView]


class NetView(BaseModel):
    """A net of a shell: its bends and how long they are in all, and the blank it makes, mm."""

    bent: list[tuple[str, str]]
    length: float
    width: float
    height: float


class NetsAnswer(BaseModel):
    """The faces of a part's shell and nets it could have; none where it is no shell."""

    faces: list[FaceView]
    nets: list[NetView]


class NetsView(APIView):
    """What can be chosen of a shell."""

    @extend_schema(responses=NetsAnswer, operation_id="recipe_nets")
    def get(self, request: Request, part: int) -> Response:
        """Show its faces, and nets with the size of the blank they make."""
        known = _part(part)
        recipe = recipe_of(known)
        return answer(
            NetsAnswer(
                faces=[
                    FaceView(
                        name=f.name,
                        is_open=f.is_open,
                        hangs_on=f.hangs_on,
                        beside=[NeighbourView(**asdict(b)) for b in f.beside],
                    )
                    for f in shell_faces(recipe)
                ],
                nets=[
                    NetView(
                        bent=[*flat.net.bent],
                        length=flat.net.length,
                        width=flat.size[0],
                        height=flat.size[1],
                    )
                    for flat in flat_nets(known, recipe)
                ],
            )
        )


class BlockAsk(BaseModel):
    """How a sheet is folded round a block: its thickness, mm, and on which side of the faces."""

    model_config = ConfigDict(extra="forbid")

    thickness: float = Field(gt=0, le=100)
    metal: Metal = "inside"


class BlockView(APIView):
    """A refused solid that is to be the block inside of a shell."""

    @extend_schema(request=BlockAsk, responses={204: None}, operation_id="recipe_round_block")
    def post(self, request: Request, part: int) -> Response:
        """Make a recipe of the shell round a solid that is no folded sheet."""
        asked = read(BlockAsk, request)
        fold_round(_part(part), thickness=asked.thickness, metal=asked.metal)
        return Response(status=204)


class RecipeFileView(APIView):
    """A recipe as a file."""

    @extend_schema(responses=BINARY, operation_id="recipe_download")
    def get(self, request: Request, part: int) -> HttpResponse:
        """Download the recipe."""
        known = _part(part)
        recipe_of(known)
        content = bytes(known.source.content)
        return download(content, known.name, "json", "application/json; charset=utf-8")


class StartersView(APIView):
    """The recipes to start from."""

    @extend_schema(responses=StarterList, operation_id="starters_list")
    def get(self, request: Request) -> Response:
        """List them, told in sentences."""
        return answer(
            StarterList(
                starters=[
                    StarterAnswer(name=name, part=recipe.part, sentences=sentences(recipe))
                    for name, recipe in starters().items()
                ]
            )
        )


class StarterView(APIView):
    """Parts begun from a recipe."""

    @extend_schema(request=StarterAsk, responses={201: RackLine}, operation_id="recipe_begin")
    def post(self, request: Request, order: int) -> Response:
        """Put a part onto the rack that is built from a recipe to start from."""
        known = get_object_or_404(Order, pk=order)
        line = begin_recipe(known, read(StarterAsk, request).starter)
        return answer(rack_line(line), 201, about=line.part.name)
