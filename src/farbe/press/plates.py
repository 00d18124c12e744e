"""Reading handed-off TIFF files at the press's own, coarser resolution."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import numpy.typing as npt
import tifffile

from farbe.model.base import BadInput

Coverage = npt.NDArray[np.float32]


def read_plates(
    path: Path, scale: float, report: Callable[[float], None]
) -> tuple[dict[str, Coverage], tuple[float, float]]:
    """Every channel of a TIFF, averaged over the press's pixels.

    Parameters
    ----------
    scale : pixels of the press per mm

    Returns
    -------
    coverage of each ink by its name, float32 (height, width), 0 to 1; and the size in mm

    Raises
    ------
    BadInput
        If the file cannot be read or its inks have no names.
    """
    try:
        with tifffile.TiffFile(path) as file:
            page = file.pages[0]
            if not isinstance(page, tifffile.TiffPage):
                raise BadInput(f"{path.name} has no page that can be printed.")
            return _averaged(page, scale, report)
    except (OSError, ValueError, KeyError, IndexError, tifffile.TiffFileError) as error:
        raise BadInput(f"{path.name} cannot be printed: {error}.") from error


def _averaged(
    page: tifffile.TiffPage, scale: float, report: Callable[[float], None]
) -> tuple[dict[str, Coverage], tuple[float, float]]:
    height, width = page.imagelength, page.imagewidth
    count = page.samplesperpixel
    names = [name for name in str(page.tags["InkNames"].value).split("\0") if name]
    if len(names) != count:
        raise BadInput(f"The file names {len(names)} inks for {count} channels.")
    dpi_x, dpi_y = page.get_resolution(unit="INCH")
    size = width / dpi_x * 25.4, height / dpi_y * 25.4
    across, down = max(1, round(size[0] * scale)), max(1, round(size[1] * scale))
    total = np.zeros((down, across * count), np.float32)
    step = down / height
    for data, index, _ in page.segments():
        start = int(index[-3])
        if data is None:
            continue
        block = np.asarray(data).reshape(-1, width, count)
        if block.any():
            narrow = np.dstack(
                [
                    cv2.resize(
                        np.ascontiguousarray(block[..., i], dtype=np.float32),
                        (across, len(block)),
                        interpolation=cv2.INTER_AREA,
                    )
                    for i in range(count)
                ]
            ).reshape(len(block), -1)
            _add_rows(total, np.asarray(narrow, np.float32), start, step)
        report(min(1.0, (start + len(block)) / height))
    planes = (total / 255.0).reshape(down, across, count)
    dots = page.tags.get("DotRange")
    if dots is not None and tuple(dots.value[:2]) == (255, 0):
        planes = 1.0 - planes
    return {name: np.ascontiguousarray(planes[..., i]) for i, name in enumerate(names)}, size


def _add_rows(total: Coverage, rows: Coverage, start: int, step: float) -> None:
    """Add source rows to the coarse rows that they cover, each by its share."""
    edges = (start + np.arange(len(rows) + 1)) * step
    first = int(edges[0])
    last = min(len(total), int(np.ceil(edges[-1] - 1e-9)))
    target = np.arange(first, last)[:, None]
    share = np.minimum(edges[1:], target + 1) - np.maximum(edges[:-1], target)
    total[first:last] += np.clip(share, 0, None).astype(np.float32) @ rows
