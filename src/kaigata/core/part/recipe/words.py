"""What the steps of a recipe are said in: amounts, names and places."""

from __future__ import annotations

from typing import Annotated, Literal, TypeAlias

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

__all__ = [
    "Amount",
    "DimensionName",
    "EdgeName",
    "Metal",
    "Model",
    "Name",
    "Outline",
    "OutlineRow",
    "Place",
    "Sides",
    "Text",
]

Amount: TypeAlias = Annotated[float, Field(allow_inf_nan=False)] | str
Text = Annotated[str, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]
Name = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9_-]{0,39}$")]
DimensionName = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9_]{0,39}$")]
EdgeName = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9_-]{0,44}\.[1-9][0-9]*$")]
Place = tuple[Amount, Amount]
OutlineRow = Annotated[list[Amount], Field(min_length=2, max_length=3)]
Sides = Annotated[int, Field(ge=3, le=200)]
Metal = Literal["inside", "outside"]
Outline = Annotated[list[OutlineRow], Field(min_length=3)]


class Model(BaseModel):
    """What is said, as it was said: nothing else, and never changed."""

    model_config = ConfigDict(extra="forbid", frozen=True)
