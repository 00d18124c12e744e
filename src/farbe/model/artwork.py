"""A customer's file, and what its named plates are for."""

from typing import Annotated, Self

from pydantic import Field

from farbe.model.base import Digest, Length, Name, Value
from farbe.model.edit import Crop, Edit
from farbe.model.meaning import Meaning
from farbe.model.treatment import Share
from farbe.said import Spoken


class PageBox(Spoken):
    """Which of a PDF page's boxes is the artwork."""

    TRIM = "trim"
    BLEED = "bleed"
    CROP = "crop"
    MEDIA = "media"
    ART = "art"


class PlateUse(Value):
    """A named plate's meaning; as colour it is printed in these percents of the process inks.

    ``guessed`` is a meaning that only its name tells. ``whole`` takes the plate without what lies
    above it in the file. As long as nobody told what it is for it is seen in its ``inks``.
    """

    name: Name
    meaning: Meaning
    inks: tuple[Share, Share, Share, Share] = (0.0, 0.0, 0.0, 40.0)
    guessed: bool = False
    whole: bool = False


class PageLayer(Value):
    """A layer of a PDF that is switched otherwise than its file has it."""

    name: Name
    on: bool


class ArtworkFile(Value):
    """A customer's file, known by what is in it, and its actual size in mm.

    ``quantity`` is how many pockets it takes; None takes the rest. ``page`` is of a PDF or TIFF,
    ``box`` of a PDF; ``groups`` of an SVG and layers of a PDF are read as plates, besides groups
    named after an ink. ``layers`` of a PDF are switched otherwise than in the file.
    ``copy_number`` tells several artworks of one file apart: other pages, or other sizes.
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
    layers: Annotated[tuple[PageLayer, ...], Field(max_length=500)] = ()
    edits: Annotated[tuple[Edit, ...], Field(max_length=30)] = ()
    profile: Digest | None = None
    copy_number: Annotated[int, Field(ge=0, le=9999)] = 0

    def __hash__(self) -> int:
        # All of a job's artworks are asked for it at each look into what is kept for the job.
        return hash(self.digest)

    @property
    def key(self) -> str:
        """What tells it from the job's other artworks; files may be there more than once."""
        return f"{self.digest}.{self.copy_number}" if self.copy_number else self.digest

    @property
    def plain(self) -> Self:
        """It without what changes no pixel: how many are wanted, and which of the job's it is."""
        if self.quantity is None and not self.copy_number:
            return self
        return self.model_copy(update={"quantity": None, "copy_number": 0})

    @property
    def cropped(self) -> tuple[float, float]:
        """Width and height in mm of what crops leave."""
        crops = [edit for edit in self.edits if isinstance(edit, Crop) and edit.on]
        wide = self.width - sum(crop.left + crop.right for crop in crops)
        high = self.height - sum(crop.top + crop.bottom for crop in crops)
        return max(wide, 1e-3), max(high, 1e-3)
