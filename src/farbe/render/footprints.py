"""What artworks cover, for laying them on film by their true shapes."""

from __future__ import annotations

import math

import cv2
import numpy as np
import numpy.typing as npt

from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.layout.packing import Mask
from farbe.layout.rolls import packed
from farbe.model.artwork import ArtworkFile
from farbe.model.roll import Packing
from farbe.plan.order import mirrored
from farbe.render.sources import Sources

#: Coverage of a pixel from which it counts as covered.
LEAST = 4
#: Rows of an artwork that are looked at together.
ROWS = 512
#: What the artworks cover that were asked for last: laying and checking ask again and again.
_MASKS: Kept[ArtworkFile, Mask] = Kept(5000, most=32 << 20, weigh=lambda mask: mask.nbytes)


def footprint_of(job: Faced, file: ArtworkFile, sources: Sources) -> Mask:
    """What an artwork covers, one bool a square mm (h, w), y down: wherever any of it lies.

    The artwork's middle is that of the map, which is up to a millimetre larger.

    Parameters
    ----------
    job, file : a job, and a file of it
    sources : pixels, fonts and profile

    Returns
    -------
    bool (h, w), a cell a square millimetre
    """
    # An artwork is known by what is in it, so this is the same wherever it comes from.
    return _MASKS.get(file.plain, lambda: _covered(job, file, sources))


def _covered(job: Faced, file: ArtworkFile, sources: Sources) -> Mask:
    wide, high = file.cropped
    size = math.ceil(high - 1e-6), math.ceil(wide - 1e-6)
    art = sources.artwork(file, job)
    if not art.has_alpha:
        return np.ones(size, np.bool_)
    rows, columns = (
        _cells_of_pixels(n, extent, cells)
        for n, extent, cells in ((art.height, high, size[0]), (art.width, wide, size[1]))
    )
    if art.height >= size[0] and art.width >= size[1]:
        # The most of each square millimetre: along one axis, then along the other.
        tall = np.zeros((size[0], art.width), np.uint8)
        for start in range(0, art.height, ROWS):
            part = art.rows(start, min(art.height, start + ROWS))[..., -1]
            for ends in rows:
                np.maximum.at(tall, ends[start : start + len(part)], part)
        found = np.zeros(size, np.uint8)
        for ends in columns:
            np.maximum.at(found.T, ends, tall.T)
    else:
        alpha = np.ascontiguousarray(art.pixels[..., -1])
        found = np.asarray(cv2.resize(alpha, size[::-1], interpolation=cv2.INTER_LINEAR), np.uint8)
        found = np.asarray(cv2.dilate(found, np.ones((5, 5), np.uint8)), np.uint8)
    return np.asarray(found >= LEAST, np.bool_)


def _cells_of_pixels(
    count: int, extent: float, cells: int
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """The cells in which each pixel of a row begins and ends, the row in the middle of them."""
    ends = np.arange(count + 1) / count * extent + (cells - extent) / 2
    first = np.floor(ends[:-1] + 1e-9).astype(np.int64)
    last = np.ceil(ends[1:] - 1e-9).astype(np.int64) - 1
    return np.clip(first, 0, cells - 1), np.clip(last, 0, cells - 1)


def footprints(job: Faced, sources: Sources) -> dict[str, Mask]:
    """What each artwork of a job covers as it is printed, by its digest: mirrored, if that is.

    Parameters
    ----------
    job : the job as one of its faces has it
    sources : pixels, fonts and profile

    Returns
    -------
    For each digest bool (h, w), true where it covers.
    """
    found = {file.key: footprint_of(job, file, sources) for file in job.artworks}
    if mirrored(job.reader):
        return {digest: np.ascontiguousarray(mask[:, ::-1]) for digest, mask in found.items()}
    return found


def ganged(job: Faced, sources: Sources) -> Faced:
    """The job with its artworks laid on the film anew; a job without a roll stays.

    Parameters
    ----------
    job : as one of its faces has it
    sources : pixels of its artworks

    Raises
    ------
    BadInput
        If an artwork is larger than a sheet.
    """
    if job.roll is None:
        return job
    shapes = job.roll.packing is Packing.SHAPES
    return packed(job, footprints(job, sources) if shapes else {})
