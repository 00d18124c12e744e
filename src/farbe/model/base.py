"""What all values of a job share."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints


class BadInput(Exception):
    """Input that cannot be used. Its text is one sentence: what is wrong and what to do."""


class Value(BaseModel):
    """A frozen value; an unknown or wrong field is an error, never ignored."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


#: A length in millimetres that a thing can have; 20 m is longer than any bed.
Length = Annotated[float, Field(gt=0, le=20_000)]
#: A length in millimetres that may be nothing.
Margin = Annotated[float, Field(ge=0, le=20_000)]
#: A place in millimetres.
Coordinate = Annotated[float, Field(ge=-20_000, le=20_000)]
#: An sRGB colour, ``#rrggbb``.
Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9a-fA-F]{6}$")]
Name = Annotated[str, StringConstraints(min_length=1, max_length=80)]
