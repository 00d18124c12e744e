"""What a press may answer: whoever asks reads nothing that it does not understand."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import AllowInfNan, Field, StringConstraints, TypeAdapter, ValidationError
from typing_extensions import TypedDict

from farbe.model.base import BadInput
from farbe.said import say

Figure = Annotated[float, AllowInfNan(False)]
Millimetres = Annotated[Figure, Field(ge=0, le=1e6)]
Count = Annotated[int, Field(ge=0, le=10**7)]
Words = Annotated[str, StringConstraints(max_length=1000)]


class Status(TypedDict):
    """All that the panel shows."""

    ready: bool
    why: Words
    warming: bool
    bed: tuple[Millimetres, Millimetres]
    head_height: Millimetres
    head: Figure | None
    board: tuple[Millimetres, Millimetres] | None
    temperature: Figure
    ink_ml: dict[Words, Figure]
    full_ml: Figure
    faults: list[Words]
    pace: Figure
    prints: Count
    running: dict[str, Any] | None
    token: Words
    job: Words | None
    pieces: Count
    complete: list[Words]
    by_hand: list[Words]


class Placed(TypedDict):
    """Pieces that were put in."""

    pieces: Count


class Finished(TypedDict):
    """A piece on the bed, and the pictures that show it."""

    number: Count
    box: tuple[Figure, Figure, Millimetres, Millimetres]
    of: list[Words]


class AllFinished(TypedDict):
    """Where pieces lie, and what they are pressed on."""

    pieces: list[Finished]
    garments: list[Words]


class Read(TypedDict):
    """What the measuring device read of each place."""

    xyz: list[tuple[Figure, Figure, Figure]]


#: What the last answer to a request holds; of others only that it is done is read.
_LAST: Mapping[str, TypeAdapter[Any]] = {
    "status": TypeAdapter(Status),
    "place": TypeAdapter(Placed),
    "finished": TypeAdapter(AllFinished),
    "measure": TypeAdapter(Read),
}
_STRANGE = say("The test press says what cannot be understood; switch it off and on.")


def understood(line: str, asked: str) -> dict[str, Any]:
    """What the press says.

    Parameters
    ----------
    line : as it came
    asked : what it was asked to do

    Returns
    -------
    The answer; its ``status`` tells whether more come.

    Raises
    ------
    BadInput
        If it is no answer to that.
    """
    try:
        found = json.loads(line)
    except ValueError:
        raise BadInput(_STRANGE) from None
    if not isinstance(found, dict) or not isinstance(found.get("status"), str):
        raise BadInput(_STRANGE)
    if found["status"] == "refused" and not isinstance(found.get("why"), str):
        raise BadInput(_STRANGE)
    if found["status"] == "done" and asked in _LAST:
        try:
            _LAST[asked].validate_python(found)
        except ValidationError:
            raise BadInput(_STRANGE) from None
    return found
