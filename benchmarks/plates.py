"""Whether both sides of a comparison made the same plates."""

from __future__ import annotations

from pathlib import Path

import pyvips

#: Levels by which colours may differ, and share of the pixels that may differ by more: at soft
#: edges both sides come to their levels in another order.
LEVELS, SHARE = 3, 0.02
#: White, whose edges the peer makes hard.
WHITE, WHITE_SHARE = 4, 0.04


def compare_plates(ours: Path, theirs: Path, *, turned: bool) -> str:
    """How far two files differ, in words; it is an error if they show different work.

    Parameters
    ----------
    ours, theirs : files of as many channels
    turned : the artwork was resampled, each side in its own way
    """
    one, other = (pyvips.Image.new_from_file(str(path), access="sequential")
                  for path in (ours, theirs))  # fmt: skip
    if (one.width, one.height, one.bands) != (other.width, other.height, other.bands):
        raise SystemExit(f"sizes differ: {one.width} x {one.height} x {one.bands} and "
                         f"{other.width} x {other.height} x {other.bands}")  # fmt: skip
    far = ((one - other).abs() > LEVELS).ifthenelse(255, 0).cast("uchar")
    shares = [far.stats()(0, 0)[0]] if far.bands == 1 else _means(far)
    for band, share in enumerate(shares):
        most = (WHITE_SHARE if band == WHITE else SHARE) * (5 if turned else 1)
        if share > most:
            raise SystemExit(f"channel {band} differs in {share:.1%} of the pixels")
    return "plates differ by more than {} levels in {} of the pixels".format(
        LEVELS, ", ".join(f"{share:.3%}" for share in shares)
    )


def _means(far: pyvips.Image) -> list[float]:
    stats = far.stats()
    return [stats(4, band + 1)[0] / 255.0 for band in range(far.bands)]
