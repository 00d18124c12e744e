"""Pictures and drawings into :class:`Artwork`, read by a process with limits."""

from __future__ import annotations

import json
import os
import tempfile
from pathlib import Path
from typing import Any

import numpy as np

from farbe.art.artwork import Artwork, Space
from farbe.art.damage import DAMAGE, unreadable
from farbe.art.drawing import SUFFIXES as DRAWINGS
from farbe.art.drawing import is_drawing, read_drawing
from farbe.art.limited import ask
from farbe.art.pictureread import picture_here
from farbe.art.pnghead import large_shape
from farbe.art.unpacked import Mapped, small_path
from farbe.art.wanted import Wanted
from farbe.model.base import BadInput
from farbe.said import say

SUFFIXES = (
    ".png", ".jpg", ".jpeg", ".jfif", ".tif", ".tiff", ".webp", ".avif", ".bmp", ".gif", *DRAWINGS,
)  # fmt: skip
#: Seconds that a large picture may take.
SECONDS = 240.0


def read_artwork(
    path: Path,
    wanted: Wanted | None = None,
    *,
    by_rows: bool = False,
    unpack_to: Path | None = None,
) -> Artwork:
    """Read one picture or drawing.

    Parameters
    ----------
    path : a picture, PDF, EPS or SVG; told by its content, not by its name
    wanted : of a file that holds more than one picture; None is its first
    by_rows : whether a large PNG may be left in its file, to be read as rows are asked for
    unpack_to : where a very large PNG is unpacked, to be mapped instead of held in memory

    Returns
    -------
    Its pixels, plates, profile and size as the file states them.

    Raises
    ------
    BadInput
        If the file is missing, of another kind, damaged, or too large.
    """
    try:
        if not path.is_file():
            raise BadInput(_no_file(path))
        with path.open("rb") as file:
            start = file.read(4096)
    except DAMAGE as error:
        raise unreadable(path, error) from error
    if is_drawing(start):
        return read_drawing(path, wanted or Wanted())
    if by_rows and large_shape(start) is not None:
        # Rows are unpacked one after the other, in memory that is bounded by a few of them.
        return picture_here(path, by_rows=True)
    return _read_picture(path, wanted.page if wanted is not None else 1, unpack_to)


def _no_file(path: Path) -> str:
    if path.is_dir():
        return say("{path} is a folder; choose a picture in it.", path=path.name)
    if path.exists():
        return say("{path} is no file but a device or a pipe; choose a picture.", path=path.name)
    return say("{path} is not there; choose the file again.", path=path.name)


def _read_picture(path: Path, page: int, unpack_to: Path | None) -> Artwork:
    """Have a helper read a picture; very large ones it unpacks beside where they are to be."""
    if unpack_to is not None and _told_path(unpack_to).exists():
        return _mapped(json.loads(_told_path(unpack_to).read_bytes()), unpack_to)
    where = None if unpack_to is None else unpack_to.parent
    with tempfile.TemporaryDirectory(prefix="farbe-picture-", dir=where) as folder:
        into = Path(folder)
        words = json.dumps({"page": page, "unpack": unpack_to is not None})
        found = ask("farbe.art.pictureparse", path, into, SECONDS, words)
        if unpack_to is not None and found["unpacked"]:
            os.replace(small_path(into / "unpacked"), small_path(unpack_to))
            os.replace(into / "unpacked", unpack_to)
            # What is known of them comes last: who finds it finds all.
            (into / "told").write_text(json.dumps(found))
            os.replace(into / "told", _told_path(unpack_to))
            return _mapped(found, unpack_to)
        pixels = np.load(into / "pixels.npy")
        plates = {name: np.load(into / f"plate-{i}.npy") for i, name in enumerate(found["plates"])}
        icc = (into / "profile.icc").read_bytes() if found["profile"] else None
    return Artwork(
        pixels, Space(found["space"]), _dpi(found), icc, bool(found["unfit"]), plates,
        pages=int(found["pages"]),
    )  # fmt: skip


def _told_path(target: Path) -> Path:
    """Where it is kept what is known of unpacked pixels."""
    return target.with_name(target.name + ".json")


def _mapped(found: dict[str, Any], at: Path) -> Artwork:
    high, wide, count = (int(value) for value in found["shape"])
    mapped = Mapped(at, (high, wide, count))
    icc = bytes.fromhex(found["profile"]) if found["profile"] else None
    return Artwork(
        mapped.pixels, Space(found["space"]), _dpi(found), icc, bool(found["unfit"]),
        pages=int(found["pages"]), small=np.load(small_path(at)), looked_at=mapped.looked_at,
    )  # fmt: skip


def _dpi(found: dict[str, Any]) -> tuple[float, float] | None:
    stated = found["dpi"]
    return None if stated is None else (float(stated[0]), float(stated[1]))
