"""What the printer's front end expects of the files."""

from __future__ import annotations

from enum import StrEnum

from pydantic import model_validator

from farbe.model.base import Name, Value


class Compression(StrEnum):
    NONE = "none"
    LZW = "lzw"
    DEFLATE = "deflate"
    ZSTD = "zstd"


class FileFormat(StrEnum):
    TIFF = "tiff"
    PDF = "pdf"


class Split(StrEnum):
    """What goes into one file."""

    RUN = "a run"
    LAYER = "a layer"


class Receiver(Value):
    """A front end: ``channel_names`` gives its own name for an ink where it differs from ours.

    ``split`` says whether a TIFF holds a run or a single layer; ``inverted`` that 0 means solid
    in its TIFF; ``folder`` is where its hand-offs go.
    """

    name: Name
    formats: tuple[FileFormat, ...] = (FileFormat.TIFF, FileFormat.PDF)
    compression: Compression = Compression.LZW
    mirrors: bool = False
    split: Split = Split.RUN
    inverted: bool = False
    folder: str = ""
    channel_names: tuple[tuple[Name, Name], ...] = ()

    @model_validator(mode="after")
    def _names_differ(self) -> Receiver:
        theirs = [name for _, name in self.channel_names]
        if len(set(theirs)) != len(theirs):
            raise ValueError("two inks have the same channel name")
        return self

    def channel(self, ink: str) -> str:
        """The name this receiver wants for a channel of this ink."""
        return dict(self.channel_names).get(ink, ink)
