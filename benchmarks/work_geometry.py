"""Sizes that both sides of a comparison share, in pixels at 600 dpi."""

from __future__ import annotations

from pathlib import Path

PROFILE = str(Path(__file__).parents[1] / "src/farbe/data/test-press-cmyk.icc")
#: A choke of 0.1 mm at 600 dpi.
DISC = 0.1 / 25.4 * 600
LID = 1654
#: 150 mm from lid to lid.
PITCH = (3543, 3543)
FILLED = (12, 8)
#: 2050 x 1395 mm.
BED_PX = (48426, 32953)
