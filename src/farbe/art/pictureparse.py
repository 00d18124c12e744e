"""What a helper does with pictures for :mod:`farbe.art.read`."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np

from farbe.art.artwork import Artwork
from farbe.art.pictureread import picture_here


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
