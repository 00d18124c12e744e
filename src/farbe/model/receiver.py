"""What the printer's front end expects of the files, and how they get to it."""

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, model_validator

from farbe.model.base import Name, Value
from farbe.said import Spoken, say


class Compression(Spoken):
    NONE = "none"
    LZW = "lzw"
    DEFLATE = "deflate"
    ZSTD = "zstd"


class FileFormat(StrEnum):
    TIFF = "tiff"
    PDF = "pdf"


class Split(Spoken):
    """What goes into one file."""

    RUN = "a run"
    LAYER = "a layer"
    CHANNEL = "a channel"


class Drive(StrEnum):
    """What makes a printer print."""

    PRESS = "press"
    FOLDER = "folder"


class Delivery(Spoken):
    """What a front end finds in the folder that it watches."""

    FOLDER = "a folder for each job"
    FILES = "the files alone"


class Inks(Spoken):
    """How a TIFF says what its channels are."""

    NAMED = "an ink set with names"
    CMYK = "CMYK and extra samples"


class Screen(Value):
    """Dots of one bit in place of tones: lines an inch, and the first ink's angle in degrees.

    Other inks follow by 30°, the lightest of four by 15°, as printing has it.
    """

    ruling: Annotated[float, Field(ge=10, le=400)] = 60.0
    angle: Annotated[float, Field(ge=0, lt=180)] = 15.0


class TiffWays(Value):
    """How TIFFs are written.

    Attributes
    ----------
    inks : CMYK with extra samples where all four process inks are in a file; else an ink set
    planar : each channel by itself, one after the other
    screen : one bit a pixel, screened; None is 8 bit
    profile : the profile of the colours is put into files with all four process inks
    """

    inks: Inks = Inks.NAMED
    planar: bool = False
    screen: Screen | None = None
    profile: bool = False


class PdfWays(Value):
    """How PDFs are written.

    Attributes
    ----------
    pieces : a page for each piece, trimmed and with its bleed, in place of the whole bed
    cut : the lines to cut are in it, as the processing step Cutting
    cutter_marks : marks by which a cutter finds the print, around what is cut
    """

    pieces: bool = False
    cut: bool = False
    cutter_marks: bool = False


class Receiver(Value):
    """A front end.

    Attributes
    ----------
    channel_names : its own name for an ink where it differs from ours
    mirrors : it mirrors what is read through the piece
    split : whether a TIFF holds a run, a layer or a channel
    inverted : 0 means solid in its TIFF
    drive : the test press, or a folder that it watches
    folder : where its hand-offs go; the folder that it watches
    delivery : what it finds there
    marker : what it appends to the name of what it took, if it leaves it there
    tiff, pdf : how these are written
    previews : pictures of each plate and of the look go with the files
    exchange : a job ticket for other programs' work flow (CIP4 XJDF) goes with them
    """

    name: Name
    formats: tuple[FileFormat, ...] = (FileFormat.TIFF, FileFormat.PDF)
    compression: Compression = Compression.LZW
    mirrors: bool = False
    split: Split = Split.RUN
    inverted: bool = False
    drive: Drive = Drive.PRESS
    folder: str = ""
    delivery: Delivery = Delivery.FOLDER
    marker: Annotated[str, Field(max_length=40, pattern=r"^[^/\\\x00-\x1f]*$")] = ""
    channel_names: tuple[tuple[Name, Name], ...] = ()
    tiff: TiffWays = TiffWays()
    pdf: PdfWays = PdfWays()
    previews: bool = False
    exchange: bool = False

    @model_validator(mode="after")
    def _names_differ(self) -> Self:
        theirs = [name for _, name in self.channel_names]
        if len(set(theirs)) != len(theirs):
            raise ValueError(say("two inks have the same channel name"))
        return self

    def channel(self, ink: str) -> str:
        """The name this receiver wants for a channel of this ink.

        Parameters
        ----------
        ink : of the printer
        """
        return dict(self.channel_names).get(ink, ink)
