"""Whether both sides made the same plates: ``plates.py OURS THEIRS in-place|inks``."""

from __future__ import annotations

import sys
from pathlib import Path

import pyvips

#: Levels by which colours may differ, and share of the pixels that may differ by more: at soft
#: edges both sides come to their levels in another order.
LEVELS, SHARE = 3, 0.02
#: White, whose edges the peer makes hard.
WHITE, WHITE_SHARE = 4, 0.04
#: Share of all ink by which a channel may differ.
INK = 0.02


def compare_plates(ours: Path, theirs: Path, *, in_place: bool) -> str:
    """How far two files differ, in words; it is an error if they show different work.

    Parameters
    ----------
    ours, theirs : files of as many channels
    in_place : the artwork lies on the same pixels; else it was resampled or laid by another
        rounding, and what each channel has of ink is compared
    """
    one, other = (pyvips.Image.new_from_file(str(path), access="sequential")
                  for path in (ours, theirs))  # fmt: skip
    if (one.width, one.height, one.bands) != (other.width, other.height, other.bands):
        raise SystemExit(f"sizes differ: {one.width} x {one.height} x {one.bands} and "
                         f"{other.width} x {other.height} x {other.bands}")  # fmt: skip
    if not in_place:
        return _inks_compared(one, other)
    far = ((one - other).abs() > LEVELS).ifthenelse(255, 0).cast("uchar")
    shares = [mean / 255.0 for mean in _means(far)]
    for band, share in enumerate(shares):
        if share > (WHITE_SHARE if band == WHITE else SHARE):
            raise SystemExit(f"channel {band} differs in {share:.1%} of the pixels")
    words = ", ".join(f"{share:.2%}" for share in shares)
    return f"plates differ by more than {LEVELS} levels in {words} of the pixels"


def _inks_compared(one: pyvips.Image, other: pyvips.Image) -> str:
    ours, theirs = _means(one), _means(other)
    shares = [(a - b) / sum(theirs) for a, b in zip(ours, theirs, strict=True)]
    words = ", ".join(f"{share:.1%}" for share in shares)
    if max(map(abs, shares)) > INK:
        raise SystemExit(f"channels differ by {words} of all ink")
    return f"channels differ by {words} of all ink"


def _means(image: pyvips.Image) -> list[float]:
    stats = image.stats()
    return [stats(4, band + 1)[0] for band in range(image.bands)]


if __name__ == "__main__":
    print(compare_plates(Path(sys.argv[1]), Path(sys.argv[2]), in_place=sys.argv[3] == "in-place"))
