"""What is wrong with a value is said in plain words, not in the checking library's."""

from typing import Annotated, Literal

import pytest
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from kaigata.core.faults import said


class Asked(BaseModel):
    model_config = ConfigDict(extra="forbid")

    count: Annotated[int, Field(ge=1, le=99)] = 1
    width: Annotated[float, Field(gt=0, lt=5000, allow_inf_nan=False)] = 1.0
    name: Annotated[str, Field(min_length=1, max_length=4)] = "a"
    kind: Literal["short", "heat"] = "short"
    turns: Annotated[list[float], Field(min_length=1, max_length=2)] = [0.0]
    is_open: bool = False
    inner: "Asked | None" = None


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"count": ""}, "is empty: must be a whole number"),
        ({"count": 2.5}, "is 2.5: must be a whole number"),
        ({"count": 0}, "is 0: must be 1 or more"),
        ({"count": 100}, "is 100: must be 99 or less"),
        ({"width": "wide"}, 'is "wide": must be a number'),
        ({"width": None}, "is null: must be a number"),
        ({"width": 0}, "is 0: must be above 0"),
        ({"width": 1e9}, "is 1000000000.0: must be below 5000"),
        ({"width": float("inf")}, "is Infinity: must be a finite number"),
        ({"name": ""}, "must not be empty"),
        ({"name": "abcde"}, 'is "abcde": must have 4 characters or fewer'),
        ({"name": 3}, "is 3: must be a text"),
        ({"kind": "long"}, "is \"long\": must be one of 'short' or 'heat'"),
        ({"turns": []}, "must not be empty"),
        ({"turns": 5}, "is 5: must be a list"),
        ({"is_open": "maybe"}, 'is "maybe": must be true or false'),
        ({"inner": 7}, "is 7: must be an object"),
        ({"colour": 1}, "is not known here"),
    ],
)
def test_each_kind_of_fault_is_said_plainly(values, words):
    with pytest.raises(ValidationError) as caught:
        Asked.model_validate(values)

    assert [said(e) for e in caught.value.errors()] == [words]
