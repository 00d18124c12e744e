"""PDF, EPS and SVG into :class:`Artwork`, read by a process with limits, at real size."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

import numpy as np

from farbe.art.artwork import Artwork, Space
from farbe.art.limited import ask
from farbe.art.wanted import Wanted
from farbe.model.artwork import PageBox

#: Seconds that a drawing may take.
SECONDS = 120
SUFFIXES = (".pdf", ".eps", ".svg")


def is_drawing(start: bytes) -> bool:
    """Whether a file that begins so is a PDF, an EPS or an SVG.

    Parameters
    ----------
    start : the first bytes of the file
    """
    text = start.lstrip(b"\xef\xbb\xbf \t\r\n")
    return is_page(start) or (text.startswith(b"<") and b"<svg" in start)


def is_page(start: bytes) -> bool:
    """Whether a file that begins so has pages whose inks are told apart: a PDF or an EPS.

    Parameters
    ----------
    start : the first bytes of the file
    """
    return b"%PDF-" in start[:1024] or is_encapsulated(start)


def is_encapsulated(start: bytes) -> bool:
    """Whether a file that begins so is an EPS, with or without a picture for the screen.

    Parameters
    ----------
    start : the first bytes of the file
    """
    return start.startswith((b"%!PS", b"\xc5\xd0\xd3\xc6"))


def read_drawing(path: Path, wanted: Wanted) -> Artwork:
    """Read a page of a PDF or an EPS, or an SVG.

    A page with process or spot inks is separated by Ghostscript: CMYK stays as it is, other
    colours become ink as is wanted, and each spot is a plate of its own name. All else is read as
    RGB with alpha. Groups of an SVG whose name is that of an ink (white, varnish, cut ...), and
    groups and layers that are wanted, are plates and not part of the picture.

    Parameters
    ----------
    path : the file
    wanted : of it

    Returns
    -------
    The page, or the drawing, with its pixels, its plates and what is said of it.

    Raises
    ------
    BadInput
        If the file cannot be read, or has no such page.
    """
    with tempfile.TemporaryDirectory(prefix="farbe-drawing-") as folder:
        into = Path(folder)
        found = ask("farbe.art.drawparse", path, into, SECONDS, wanted.words(into))
        pixels = np.load(into / "pixels.npy")
        plates = {name: np.load(into / f"plate-{i}.npy") for i, name in enumerate(found["plates"])}
    size = found.get("size")
    return Artwork(
        pixels, Space(found["space"]), (found["dpi"], found["dpi"]), None,
        plates=plates,
        pages=found["pages"],
        remark=found["remark"],
        groups=tuple(found.get("groups", ())),
        layers=tuple((str(name), bool(on)) for name, on in found.get("layers", ())),
        boxes=tuple(PageBox(box) for box in found.get("boxes", ())),
        alternates={name: (c, m, y, k) for name, (c, m, y, k) in
                    found.get("alternates", {}).items()},
        knocked={str(name): float(area) for name, area in found.get("knocked", {}).items()},
        lost=tuple(found.get("lost", ())),
        size=None if size is None else (float(size[0]), float(size[1])),
    )  # fmt: skip


def has_separator() -> bool:
    """Whether Ghostscript is there to separate PDFs."""
    return shutil.which("gs") is not None
