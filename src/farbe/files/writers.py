"""How the files of each format are written."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from farbe.files.pdf import PdfPage, pdf_strips, write_pdf
from farbe.files.tiff import tiff_strips, write_tiff
from farbe.model.receiver import FileFormat, Receiver
from farbe.render.raster import Elsewhere, Raster, Report

#: Sum of coverage of each channel, as it was written.
Sums = npt.NDArray[Any]


@dataclass(frozen=True, eq=False)
class Given:
    """What writers know besides the pixels.

    Attributes
    ----------
    receiver : that the file is for
    profile : of the printer's process inks, ICC
    title : of the job and the run
    pages : of a PDF, where it is not the whole bed
    elsewhere : for a page of the file, by its number, what makes its strips in other processes
    """

    receiver: Receiver
    profile: bytes = b""
    title: str = ""
    pages: tuple[PdfPage, ...] = ()
    elsewhere: Callable[[int], Elsewhere | None] | None = None


Write = Callable[[Raster, Path, Given, Report], Sums]
Ranges = Sequence[tuple[int, int]]
#: For a raster, what makes its strips for ranges of rows in another process, for
#: ``Given.elsewhere``.
MakeStrips = Callable[[Raster, Receiver], Callable[[Ranges], list[Any]]]


@dataclass(frozen=True)
class Writer:
    """A format.

    Attributes
    ----------
    suffix : of its files
    splits : a file may hold one layer, where the receiver wants that
    write : a raster to a file as its receiver wants it; the sum of coverage of each channel
    strips : parts of such a file, made by themselves
    """

    suffix: str
    splits: bool
    write: Write
    strips: MakeStrips


WRITERS: dict[FileFormat, Writer] = {}


def writes(
    kind: FileFormat, *, suffix: str, splits: bool, strips: MakeStrips
) -> Callable[[Write], Write]:
    """Enter how a format is written; used as a decorator.

    Parameters
    ----------
    kind : the format
    suffix : of its files, with the dot
    splits : whether plates may be written into several files
    strips : what makes parts of such a file by themselves

    Returns
    -------
    The decorator, which gives the writer back as it is.

    Raises
    ------
    TypeError
        If there is one for it already, or its suffix is none.
    """

    def enter(write: Write) -> Write:
        if kind in WRITERS:
            raise TypeError(f"{kind.value} is written already")
        if not suffix.startswith("."):
            raise TypeError(f"the suffix of {kind.value} is to begin with a dot")
        WRITERS[kind] = Writer(suffix, splits, write, strips)
        return write

    return enter


def _tiff_strips(raster: Raster, receiver: Receiver) -> Callable[[Ranges], list[Any]]:
    return tiff_strips(raster, compression=receiver.compression,
                       inverted=receiver.inverted, ways=receiver.tiff)  # fmt: skip


@writes(FileFormat.TIFF, suffix=".tif", splits=True, strips=_tiff_strips)
def _tiff(raster: Raster, path: Path, given: Given, report: Report) -> Sums:
    receiver = given.receiver
    return np.asarray(
        write_tiff(raster, path, compression=receiver.compression, inverted=receiver.inverted,
                   ways=receiver.tiff, profile=given.profile,
                   elsewhere=given.elsewhere(0) if given.elsewhere else None, report=report)
    )  # fmt: skip


@writes(FileFormat.PDF, suffix=".pdf", splits=False,
        strips=lambda raster, _: pdf_strips(raster))  # fmt: skip
def _pdf(raster: Raster, path: Path, given: Given, report: Report) -> Sums:
    return np.asarray(
        write_pdf(raster, path, profile=given.profile, title=given.title, pages=given.pages,
                  elsewhere=given.elsewhere, report=report)
    )  # fmt: skip


_MISSING = [kind.value for kind in FileFormat if kind not in WRITERS]
if _MISSING:
    raise TypeError(f"nothing writes {_MISSING[0]}")
