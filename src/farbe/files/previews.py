"""Small pictures of what is handed off, which only people look at."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PIL import Image

from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.names import safe_name
from farbe.optics.proof import proof_picture, write_png
from farbe.render.shared import artwork_bed
from farbe.render.sources import Sources

#: Pixels of a picture's longer side, where the film is not so long that it takes more.
LONGEST = 1000
#: The least resolution that a printer can be set to.
_LEAST_DPI = 10.0


def write_previews(jobs: tuple[Faced, ...], sources: Sources, folder: Path) -> tuple[str, ...]:
    """Write each plate of the bed, black on white, and the look of each job's first piece.

    Parameters
    ----------
    jobs : that share the bed
    sources : pixels, fonts and profile
    folder : that is made for them

    Returns
    -------
    Names of the files.
    """
    folder.mkdir()
    small = tuple(_coarse(job) for job in jobs)
    bed = artwork_bed(small, sources)
    width, height = bed.size
    rows = bed.rows(0, height)
    plates = np.zeros((height, width, len(bed.channels)), np.uint8) if rows is None else rows
    names = []
    for place, channel in enumerate(bed.channels):
        names.append(f"{safe_name(channel.name)}.png")
        dpi = bed.grid.dpi_x, bed.grid.dpi_y
        Image.fromarray(255 - plates[..., place]).save(folder / names[-1], dpi=dpi)
    for number, job in enumerate(jobs, start=1):
        names.append(f"look {number}.png" if len(jobs) > 1 else "look.png")
        write_png(proof_picture(job, sources, pixels=LONGEST), folder / names[-1])
    return tuple(names)


def _coarse(job: Faced) -> Faced:
    """The job on the same bed in few pixels."""
    longest = max(carrier_of(job).size(job)) / 25.4
    dpi = max(_LEAST_DPI, LONGEST / longest)
    wanted = {"dpi_x": min(job.printer.dpi_x, dpi), "dpi_y": min(job.printer.dpi_y, dpi)}
    return job.replace(printer=job.printer.replace(**wanted))
