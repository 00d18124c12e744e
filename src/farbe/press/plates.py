"""Reading handed-off TIFF files at the press's own, coarser resolution."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import numpy.typing as npt
import tifffile

from farbe.model.base import BadInput
from farbe.said import say

Coverage = npt.NDArray[np.float32]


def read_plates(
    path: Path, channels: tuple[str, ...], scale: float, report: Callable[[float], None]
) -> tuple[dict[str, Coverage], tuple[float, float]]:
    """Every channel of a TIFF, averaged over the press's pixels.

    Parameters
    ----------
    path : the file
    channels : as the ticket names them, for files that do not name their inks
    scale : pixels of the press per mm
    report : told the share that is read, 0 to 1

    Returns
    -------
    coverage of each ink by its name, float32 (height, width), 0 to 1; and the size in mm

    Raises
    ------
    BadInput
        If the file cannot be read, or names other inks than the ticket.
    """
    try:
        with tifffile.TiffFile(path) as file:
            page = file.pages[0]
            if not isinstance(page, tifffile.TiffPage):
                raise BadInput(say("{path} has no page that can be printed.", path=path.name))
            names = _names(page, channels, path.name)
            planes, size = _averaged(page, scale, report)
    except (OSError, ValueError, KeyError, IndexError, tifffile.TiffFileError) as error:
        raise BadInput(
            say("{path} cannot be printed: {error}.", path=path.name, error=error)
        ) from error
    return {name: np.ascontiguousarray(planes[..., i]) for i, name in enumerate(names)}, size


def _names(page: tifffile.TiffPage, channels: tuple[str, ...], name: str) -> tuple[str, ...]:
    """What the channels are called."""
    named = page.tags.get("InkNames")
    found = tuple(one for one in str(named.value).split("\0") if one) if named else channels
    if len(found) != page.samplesperpixel:
        raise BadInput(
            say(
                "{name} names {inks} inks for {channels} channels; hand it off again.",
                name=name,
                inks=len(found),
                channels=page.samplesperpixel,
            )
        )
    if set(found) != set(channels):
        raise BadInput(
            say("{name} has other inks than its ticket says; hand it off again.", name=name)
        )
    return found


def _averaged(
    page: tifffile.TiffPage, scale: float, report: Callable[[float], None]
) -> tuple[npt.NDArray[np.float32], tuple[float, float]]:
    height, width = page.imagelength, page.imagewidth
    count, planar = page.samplesperpixel, page.planarconfig == tifffile.PLANARCONFIG.SEPARATE
    dpi_x, dpi_y = page.get_resolution(unit="INCH")
    size = width / dpi_x * 25.4, height / dpi_y * 25.4
    across, down = max(1, round(size[0] * scale)), max(1, round(size[1] * scale))
    total = np.zeros((down, across * count), np.float32)
    step, solid = down / height, float((1 << page.bitspersample) - 1)
    for data, index, shape in page.segments():
        first, start = int(index[0]) if planar else 0, int(index[-3])
        samples = 1 if planar else count
        if data is None:
            continue
        # Strips at the end may be padded.
        block = np.asarray(data).reshape(-1, width, samples)[: shape[-3]]
        if block.any():
            narrow = np.dstack(
                [
                    cv2.resize(
                        np.ascontiguousarray(block[..., i], dtype=np.float32),
                        (across, len(block)),
                        interpolation=cv2.INTER_AREA,
                    )
                    for i in range(samples)
                ]
            ).reshape(len(block), across, samples)
            target = total.reshape(down, across, count)[..., first : first + samples]
            _add_rows(target, np.asarray(narrow, np.float32), start, step)
        report(min(1.0, (start + len(block)) / height))
    planes = (total / solid).reshape(down, across, count)
    return (1.0 - planes if _inverted(page) else planes), size


def _inverted(page: tifffile.TiffPage) -> bool:
    """Whether 0 is solid: DotRange says so, or a picture in grey whose 0 is black."""
    dots = page.tags.get("DotRange")
    if dots is not None:
        return bool(dots.value[0] > dots.value[1])
    return bool(page.photometric == tifffile.PHOTOMETRIC.MINISBLACK)


def _add_rows(
    total: npt.NDArray[np.float32], rows: npt.NDArray[np.float32], start: int, step: float
) -> None:
    """Add source rows to the coarse rows that they cover, each by its share."""
    edges = (start + np.arange(len(rows) + 1)) * step
    first = int(edges[0])
    last = min(len(total), int(np.ceil(edges[-1] - 1e-9)))
    target = np.arange(first, last)[:, None]
    share = np.minimum(edges[1:], target + 1) - np.maximum(edges[:-1], target)
    weights = np.clip(share, 0, None).astype(np.float32)
    flat = weights @ rows.reshape(len(rows), -1)
    total[first:last] += flat.reshape(len(weights), *rows.shape[1:])
