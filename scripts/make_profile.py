"""Make the shipped CMYK profile from the inks of the test press.

Needs Argyll's ``colprof`` (Debian package ``argyll``) only when the profile is made anew:

    python scripts/make_profile.py
"""

from __future__ import annotations

import itertools
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image, ImageCms

from farbe.press.inks import reflectance, xyz

#: The sRGB profile that comes with Argyll; it maps the perceptual intent.
SRGB = "/usr/share/color/argyll/ref/sRGB.icm"
TARGET = Path(__file__).parents[1] / "src/farbe/data/test-press-cmyk.icc"


def chart() -> np.ndarray:
    steps = np.linspace(0, 1, 7)
    colours = itertools.product(steps, steps, steps, (0, 0.2, 0.45, 0.75, 1))
    ramps = [np.eye(4)[i] * v for i in range(4) for v in np.linspace(0, 1, 21)]
    return np.array([*colours, *ramps])


def ti3(cmyk: np.ndarray) -> str:
    values = xyz(reflectance(cmyk)) * 100
    rows = "\n".join(
        f"{i + 1} " + " ".join(f"{v:.4f}" for v in (*(device * 100), *seen))
        for i, (device, seen) in enumerate(zip(cmyk, values, strict=True))
    )
    return (
        'CTI3\n\nDEVICE_CLASS "OUTPUT"\nCOLOR_REP "CMYK_XYZ"\n\nNUMBER_OF_FIELDS 8\n'
        "BEGIN_DATA_FORMAT\nSAMPLE_ID CMYK_C CMYK_M CMYK_Y CMYK_K XYZ_X XYZ_Y XYZ_Z\n"
        "END_DATA_FORMAT\n\n"
        f"NUMBER_OF_SETS {len(cmyk)}\nBEGIN_DATA\n{rows}\nEND_DATA\n"
    )


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        base = Path(folder) / "press"
        base.with_suffix(".ti3").write_text(ti3(chart()))
        subprocess.run(
            [
                "colprof",
                "-qm",
                "-bm",
                "-kp",
                "0",
                "0.35",
                "0.95",
                "0.9",
                "0.8",
                "-l260",
                "-S",
                SRGB,
                "-cmt",
                "-dpp",
                "-D",
                "Farbe test press CMYK",
                "-A",
                "Farbe",
                "-M",
                "test press",
                "-C",
                "Made-up inks. Public domain (CC0).",
                str(base),
            ],
            check=True,
        )
        made = next(p for p in base.parent.iterdir() if p.name in ("press.icc", "press.icm"))
        TARGET.write_bytes(made.read_bytes())
    to_press = ImageCms.buildTransform(
        ImageCms.createProfile("sRGB"), str(TARGET), "RGB", "CMYK", 1
    )
    print(
        "white becomes",
        ImageCms.applyTransform(Image.new("RGB", (1, 1), "white"), to_press).getpixel((0, 0)),
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
