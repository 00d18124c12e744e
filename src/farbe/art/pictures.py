"""What readers of pictures share: limits, profiles, resolution, and which way is up."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
from PIL import ImageCms

from farbe.art.artwork import Pixels, Space
from farbe.said import say

#: Largest artwork that is read; beyond it memory, not the file, is the limit.
MAX_PIXELS = 1_000_000_000
#: Largest picture that is unpacked by rows instead.
MAX_STREAMED = 2_500_000_000
MAX_BYTES = 8 * MAX_PIXELS
#: Flips, and quarter turns anticlockwise after them, for each orientation.
ORIENTATION = 274
TURNS = {
    2: (True, 0), 3: (False, 2), 4: (True, 2), 5: (True, 1), 6: (False, 3), 7: (True, 3),
    8: (False, 1),
}  # fmt: skip


def upright(plane: Pixels, orientation: int) -> Pixels:
    """Pixels (h, w, ...) as they are meant to be seen.

    Parameters
    ----------
    plane : pixels (h, w, ...)
    orientation : of EXIF, 1 to 8
    """
    flipped, quarters = TURNS.get(orientation, (False, 0))
    turned = np.rot90(plane[:, ::-1] if flipped else plane, quarters)
    return np.ascontiguousarray(turned)


def upright_dpi(dpi: tuple[float, float] | None, orientation: int) -> tuple[float, float] | None:
    """Resolution along the axes that a picture has once it is upright.

    Parameters
    ----------
    dpi : pixels to the inch along x and y
    orientation : of EXIF, 1 to 8
    """
    return dpi[::-1] if dpi is not None and orientation >= 5 else dpi


def no_page(path: Path, pages: int, number: int) -> str:
    """What to say of a page that is not there.

    Parameters
    ----------
    path : of the file
    pages : that it has
    number : of the page that was asked for
    """
    return say(
        "{path} has {pages} pages; there is no page {number}.",
        path=path.name,
        pages=pages,
        number=number,
    )


def too_large(path: Path, width: int, height: int) -> str:
    """What to say of a picture with too many pixels.

    Parameters
    ----------
    path : of the file
    width : in pixels
    height : in pixels
    """
    return say(
        "{path} has {width} x {height} pixels, more than {max_pixels} million; make it smaller.",
        path=path.name,
        width=width,
        height=height,
        max_pixels=MAX_PIXELS // 1000000,
    )


def likely_dpi(x: float, y: float) -> tuple[float, float] | None:
    """A resolution, unless it cannot be meant.

    Parameters
    ----------
    x : pixels to the inch, as the file says; 0 or less if it says nothing
    y : the same along y
    """
    # Cameras write 0 or 1 where nothing is meant.
    return (x, y) if 5 <= x <= 10_000 and 5 <= y <= 10_000 else None


def fitting_profile(icc: bytes | None, space: Space) -> bytes | None:
    """The embedded profile where it fits the pixels; a wrong one is not used.

    Parameters
    ----------
    icc : bytes of a profile; None without one
    space : of the colours
    """
    if not icc:
        return None
    try:
        found = ImageCms.ImageCmsProfile(io.BytesIO(icc)).profile.xcolor_space.strip()
    except (OSError, ValueError):
        # Its header may say what is not even text.
        return None
    wanted = {Space.GREY: "GRAY", Space.RGB: "RGB", Space.CMYK: "CMYK"}[space]
    return icc if found == wanted else None
