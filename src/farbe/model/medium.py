"""What carries the pieces under the heads."""

from typing import Annotated, Literal

from farbe.model.base import Value
from farbe.model.kinds import Kinds
from farbe.said import shipped


class MediumValue(Value):
    """What all media have."""

    kind: str


MEDIA: Kinds[MediumValue] = Kinds(MediumValue, shipped("medium"))
#: Any registered medium.
Medium = Annotated[MediumValue, *MEDIA.field()]


@MEDIA.enter
class Bed(MediumValue):
    """The bed with what the jig says: a board with pockets, or rollers where bodies are round.

    ``turned``: it is loaded turned by half a turn, for guide and artwork alike.
    """

    kind: Literal["bed"] = "bed"
    turned: bool = False
