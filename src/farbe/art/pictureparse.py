"""What a helper does with pictures for :mod:`farbe.art.read`."""

from __future__ import annotations

import io
import json
import tempfile
from contextlib import suppress
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from farbe.art.artwork import Artwork
from farbe.art.pictureread import picture_here
from farbe.model.base import BadInput


def warm_up() -> None:
    """Read a picture of each common kind, so that all that this loads is there.

    Where nothing can be written, it is loaded when it is needed.
    """
    with suppress(OSError), tempfile.TemporaryDirectory(prefix="farbe-picture-") as folder:
        for kind in ("PNG", "JPEG", "TIFF"):
            path = Path(folder) / kind
            Image.new("RGB", (2, 2)).save(path, kind)
            with suppress(BadInput):
                np.save(io.BytesIO(), picture_here(path).pixels)


def answer_to(path: Path, folder: Path, words: str) -> dict[str, Any]:
    """What a helper answers: what is known of a picture; its pixels are put into the folder.

    Parameters
    ----------
    path : the file
    folder : where pixels, plates and profile are put
    words : JSON: the page, and whether very many pixels are unpacked

    Raises
    ------
    BadInput
        If the picture cannot be read.
    """
    asked = json.loads(words)
    target = folder / "unpacked" if asked["unpack"] else None
    art = picture_here(path, int(asked["page"]), unpack_to=target)
    if art.small is not None:
        return _told(art) | {
            "unpacked": True, "shape": art.pixels.shape,
            "profile": art.icc.hex() if art.icc is not None else "",
        }  # fmt: skip
    np.save(folder / "pixels.npy", art.pixels)
    for place, plate in enumerate(art.plates.values()):
        np.save(folder / f"plate-{place}.npy", plate)
    if art.icc is not None:
        (folder / "profile.icc").write_bytes(art.icc)
    return _told(art) | {"unpacked": False, "profile": art.icc is not None}


def _told(art: Artwork) -> dict[str, Any]:
    return {
        "space": art.space.value, "dpi": art.dpi, "unfit": art.unfit_profile,
        "pages": art.pages, "plates": list(art.plates),
    }  # fmt: skip
