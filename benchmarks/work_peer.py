"""The same work written with pyvips, streaming and with its own threads."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import pyvips
from inputs import WORK, different
from work_geometry import BED_PX, DISC, FILLED, LID, PITCH, PROFILE


def disc(radius: float) -> pyvips.Image:
    """A mask for ``morph``: 255 inside the disc, 128 for what does not matter."""
    side = int(radius) * 2 + 1
    centre = side // 2
    rows = [
        [255 if (x - centre) ** 2 + (y - centre) ** 2 <= radius**2 else 128 for x in range(side)]
        for y in range(side)
    ]
    return pyvips.Image.new_from_array(rows)


def plates(art: pyvips.Image, *, varnish: bool) -> pyvips.Image:
    """CMYK by the profile under alpha, white choked by erosion, varnish from the shape."""
    alpha = art[3]
    inks = art[0:3].icc_transform(PROFILE, input_profile="srgb", intent="relative", pcs="lab")
    colour = (inks * (alpha / 255.0)).rint().cast("uchar")
    # Erosion works on black and white: soft edges are lost, which spares the peer work.
    solid = (alpha >= 128).ifthenelse(255, 0).cast("uchar")
    white = solid.morph(disc(DISC), "erode")
    return colour.bandjoin([white, alpha] if varnish else [white])


def turned(path: Path, number: int) -> pyvips.Image:
    """The plates of an artwork, made smaller, turned, shifted and cut to its lid."""
    art = pyvips.Image.new_from_file(str(path)).premultiply()
    moved = art.similarity(
        scale=64 / 70, angle=-(3.0 + number), odx=0.013 * number / 25.4 * 600,
        interpolate=pyvips.Interpolate.new("bicubic"), background=[0],
    )  # fmt: skip
    cut = moved.gravity("centre", LID, LID, extend="black").unpremultiply().cast("uchar")
    return plates(cut, varnish=True)


def save(image: pyvips.Image, codec: str, out: str) -> None:
    image.copy(interpretation="multiband").tiffsave(
        out, compression=codec, predictor="none" if codec == "none" else "horizontal",
        bigtiff=True,
    )  # fmt: skip
    # Farbe's file has its name only once it is on the disk; to wait for that is part of the work.
    with Path(out).open("rb") as file:
        os.fsync(file.fileno())


def main() -> None:
    what, codec, out = sys.argv[1:4]
    # Nothing is asked for twice; what it keeps for that would only take memory.
    pyvips.cache_set_max(0)
    if what == "sheet":
        art = pyvips.Image.new_from_file(str(WORK / "sheet.png"), access="sequential")
        save(plates(art, varnish=False).fliphor(), codec, out)
        return
    width, height = BED_PX
    if what == "different":
        lids = [turned(path, number) for number, path in enumerate(different())]
        bed = pyvips.Image.arrayjoin(
            lids, across=FILLED[0], hspacing=PITCH[0], vspacing=PITCH[1], halign="centre",
            valign="centre",
        )  # fmt: skip
        save(bed.embed(0, 0, width, height), codec, out)
        return
    art = pyvips.Image.new_from_file(str(WORK / "emblem.png"))
    lid = plates(art, varnish=True).copy_memory()
    cell = lid.embed((PITCH[0] - LID) // 2, (PITCH[1] - LID) // 2, *PITCH)
    bed = cell.replicate(*FILLED).embed(0, 0, width, height)
    save(bed, codec, out)


main()
