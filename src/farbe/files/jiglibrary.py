"""Jigs that are kept: one JSON file each, in the user's library or wherever it is exported to."""

from typing import Literal

from farbe.layout.faced import Faced
from farbe.model.base import Margin, Value
from farbe.model.jig import Cutting, Guide, Jig
from farbe.model.piece import Shape

SUFFIX = ".jig.json"


class KeptJig(Value):
    """All that a board with its pockets is: the same pieces go into it, whatever is printed."""

    format: Literal["farbe-jig"] = "farbe-jig"
    version: Literal[1] = 1
    jig: Jig
    shape: Shape
    height: Margin
    bed_turned: bool = False
    guide: Guide
    cutting: Cutting


def kept_from(job: Faced) -> KeptJig:
    """The jig of a job.

    Parameters
    ----------
    job : as one of its faces has it
    """
    return KeptJig(
        jig=job.jig,
        shape=job.piece.shape,
        height=job.piece.height,
        bed_turned=job.bed_turned,
        guide=job.guide,
        cutting=job.cutting,
    )


def with_kept(job: Faced, kept: KeptJig) -> Faced:
    """A job on a kept jig; its artwork, layers and surface stay.

    Parameters
    ----------
    job : as one of its faces has it
    kept : jig and the piece that it was made for

    Raises
    ------
    BadInput
        If the job cannot have it.
    """
    jig, piece = kept.jig, job.piece.replace(shape=kept.shape, height=kept.height)
    if jig.kinds:
        # Of a board with pockets of several shapes, a job takes those of its piece.
        fits = (at for at, kind in enumerate(jig.kinds) if kind.shape == job.piece.shape)
        own = next(fits, jig.kind)
        jig = jig.replace(kind=own, off=frozenset(), first_only=None)
        piece = job.piece.replace(
            shape=jig.kinds[own].shape, height=jig.kinds[own].height or job.piece.height
        )
    return job.replace(
        jig=jig,
        piece=piece,
        medium=job.loaded(turned=kept.bed_turned),
        guide=kept.guide,
        cutting=kept.cutting,
    )
