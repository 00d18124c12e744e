"""The reference of a job's own control strip."""

from __future__ import annotations

from farbe.files.reference import Reference, Spot, column_name
from farbe.layout.faced import Faced
from farbe.layout.strip import laid_strips
from farbe.optics.patches import predicted


def strip_reference(job: Faced, profile: bytes) -> Reference | None:
    """What is sent to the strip of a job, and what it is expected to look like; None without one.

    Several sheets of film have the same.

    Parameters
    ----------
    job : as its first face has it
    profile : the job's CMYK profile, ICC bytes
    """
    strips = laid_strips(job)
    if not strips:
        return None
    strip, printer, surface = strips[0], job.printer, job.piece.surface
    spots = tuple(
        Spot(
            f"{column_name(at % strip.columns)}{at // strip.columns + 1}", patch,
            (at % strip.columns + 0.5) * strip.wide, (at // strip.columns + 0.5) * strip.high,
        )
        for at, patch in enumerate(strip.patches)
    )  # fmt: skip
    return Reference(
        chart="", printer=printer.name, mode="" if printer.mode is None else printer.mode.name,
        laydown=printer.laydown, inks=tuple(ink.name for ink in printer.inks), surface=surface,
        reader=job.reader, white=max(patch.white for patch in strip.patches),
        columns=strip.columns, spots=spots,
        expected=predicted(
            strip.patches, printer, surface, job.reader, profile, condition=job.condition
        ),
    ).numbered()  # fmt: skip
