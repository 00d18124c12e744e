"""PDF and SVG into :class:`Artwork`, read by a process with limits, at real size."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

import numpy as np

from farbe.art.artwork import Artwork, Space
from farbe.art.limited import ask
from farbe.model.artwork import PageBox

#: Seconds that a drawing may take.
SECONDS = 120
SUFFIXES = (".pdf", ".svg")


def is_drawing(start: bytes) -> bool:
    """Whether a file that begins so is a PDF or an SVG."""
    text = start.lstrip(b"\xef\xbb\xbf \t\r\n")
    return b"%PDF-" in start[:1024] or (text.startswith(b"<") and b"<svg" in start)


def read_drawing(
    path: Path, *, page: int = 1, box: PageBox = PageBox.TRIM, groups: tuple[str, ...] = ()
) -> Artwork:
    """Read a page of a PDF, or an SVG.

    A PDF with process or spot inks is separated by Ghostscript: CMYK stays as it is and each spot
    is a plate of its own name. All else is read as RGB with alpha. Groups of an SVG whose name is
    that of an ink (white, varnish, cut ...), or is in ``groups``, are plates and not part of the
    picture.

    Parameters
    ----------
    path : the file
    page : from 1
    box : of a PDF page
    groups : of a drawing, that are plates

    Raises
    ------
    BadInput
        If the file cannot be read, or has no such page.
    """
    with tempfile.TemporaryDirectory(prefix="farbe-drawing-") as folder:
        words = (str(page), box.value, *groups)
        found = ask("farbe.art.drawparse", path, Path(folder), SECONDS, *words)
        pixels = np.load(Path(folder) / "pixels.npy")
        plates = {
            name: np.load(Path(folder) / f"plate-{i}.npy") for i, name in enumerate(found["plates"])
        }
    return Artwork(
        pixels,
        Space(found["space"]),
        (found["dpi"], found["dpi"]),
        None,
        plates=plates,
        pages=found["pages"],
        remark=found["remark"],
        groups=tuple(found.get("groups", ())),
    )


def has_separator() -> bool:
    """Whether Ghostscript is there to separate PDFs."""
    return shutil.which("gs") is not None
