"""The inputs, made once and kept in ``benchmarks/work``; as a script, all of them."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw

from farbe.samples.draw import lid_emblem, srgb_bytes

WORK = Path(__file__).parent / "work"
SHEET = (6614, 18898)
LID_PX = 1654


def sheet() -> Path:
    """A transfer sheet of 125 Mpx RGBA, about half of it transparent: emblems on a film."""
    path = WORK / "sheet.png"
    if not path.exists():
        WORK.mkdir(exist_ok=True)
        width, height = SHEET
        pixels = np.zeros((height, width, 4), np.uint8)
        art = np.asarray(lid_emblem().resize((1500, 1500)))
        ground = np.zeros_like(art)
        y, x = np.mgrid[0:1500, 0:1500]
        disc = (x - 750) ** 2 + (y - 750) ** 2 < 700**2
        ground[..., 0], ground[..., 1], ground[..., 2] = x // 8, 90 + y // 20, 60
        ground[..., 3] = np.where(disc, 255, 0)
        label = Image.fromarray(ground)
        label.alpha_composite(Image.fromarray(art))
        label_pixels = np.asarray(label)
        for row in range(0, height - 1500, 1560):
            for column in range(40, width - 1500, 1640):
                pixels[row : row + 1500, column : column + 1500] = label_pixels
        Image.fromarray(pixels).save(
            path, dpi=(600, 600), compress_level=6, icc_profile=srgb_bytes()
        )
    return path


def part_of_sheet(times: int) -> Path:
    """So many 64ths of the sheet, from its top."""
    path = WORK / f"sheet-{times}.png"
    if not path.exists():
        Image.MAX_IMAGE_PIXELS = None
        with Image.open(sheet()) as whole:
            part = whole.crop((0, 0, SHEET[0], SHEET[1] * times // 64))
            part.save(path, dpi=(600, 600), compress_level=6, icc_profile=srgb_bytes())
    return path


def different() -> list[Path]:
    """Artworks for 96 lids, no two alike."""
    folder = WORK / "different"
    paths = [folder / f"{number:02}.png" for number in range(96)]
    if not all(path.exists() for path in paths):
        folder.mkdir(parents=True, exist_ok=True)
        plain = np.asarray(lid_emblem().resize((LID_PX, LID_PX)))
        for number, path in enumerate(paths):
            pixels = plain.copy()
            # Every one in its own tint.
            tint = np.array([(number * 37) % 97, (number * 53) % 89, (number * 71) % 83])
            pixels[..., :3] = np.maximum(pixels[..., :3], tint).astype(np.uint8)
            Image.fromarray(pixels).save(path, dpi=(600, 600), icc_profile=srgb_bytes())
    return paths


def drawn(path: Path, number: int) -> Path:
    """A small picture that no other is."""
    picture = Image.new("RGBA", (120, 120))
    pen = ImageDraw.Draw(picture)
    pen.ellipse((4, 4, 116, 116), fill=(number % 256, 90, (number * 7) % 256, 255))
    pen.text((40, 50), str(number), fill=(255, 255, 255, 255))
    picture.save(path, dpi=(300, 300))
    return path


def emblem() -> Path:
    """One lid's artwork."""
    path = WORK / "emblem.png"
    if not path.exists():
        WORK.mkdir(exist_ok=True)
        picture = lid_emblem().resize((LID_PX, LID_PX))
        picture.save(path, dpi=(600, 600), icc_profile=srgb_bytes())
    return path


if __name__ == "__main__":
    emblem(), different()
    for times in (1, 4, 16, 64):
        part_of_sheet(times)
