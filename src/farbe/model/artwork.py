"""A customer's file, and what its named plates are for."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from farbe.model.base import Digest, Length, Name, Value
from farbe.model.edit import Crop, Edit
from farbe.model.treatment import Share


class PageBox(StrEnum):
    """Which of a PDF page's boxes is the artwork."""

    TRIM = "trim"
    CROP = "crop"
    MEDIA = "media"


class Meaning(StrEnum):
    """What a named plate of an artwork is for."""

    COLOUR = "colour"
    WHITE = "white"
    VARNISH = "varnish"
    INK = "named ink"
    CUT = "cut line"
    IGNORE = "nothing"


class PlateUse(Value):
    """A named plate's meaning; as colour it is printed in these percents of the process inks."""

    name: Name
    meaning: Meaning
    inks: tuple[Share, Share, Share, Share] = (0.0, 0.0, 0.0, 100.0)


class ArtworkFile(Value):
    """A customer's file, known by what is in it, and its actual size in mm.

    ``quantity`` is how many pockets it takes; None takes the rest. ``page`` and ``box`` are of
    a PDF; ``groups`` of an SVG are read as plates, besides those named after an ink.
    ``profile`` is taken instead of the embedded one. ``edits`` are made in their order when the
    file is read.
    """

    digest: Digest
    file_name: Name
    width: Length
    height: Length
    quantity: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    page: Annotated[int, Field(ge=1, le=100_000)] = 1
    box: PageBox = PageBox.TRIM
    plates: Annotated[tuple[PlateUse, ...], Field(max_length=60)] = ()
    groups: Annotated[tuple[Name, ...], Field(max_length=60)] = ()
    edits: Annotated[tuple[Edit, ...], Field(max_length=30)] = ()
    profile: Digest | None = None

    @property
    def cropped(self) -> tuple[float, float]:
        """Width and height in mm of what crops leave."""
        crops = [edit for edit in self.edits if isinstance(edit, Crop) and edit.on]
        wide = self.width - sum(crop.left + crop.right for crop in crops)
        high = self.height - sum(crop.top + crop.bottom for crop in crops)
        return max(wide, 1e-3), max(high, 1e-3)
