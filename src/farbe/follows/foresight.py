"""What a choke that is changed step by step will mostly want next.

What is seen around strokes changes with a choke every few hundredths of a mm. Pictures of those
chokes take half as long again, unless that was made while nobody waited.
"""

from __future__ import annotations

from collections.abc import Sequence

from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.model.layer import Layer
from farbe.model.treatment import Choke, TreatmentValue
from farbe.render.glimpse import foreseen
from farbe.render.piece import piece_separation
from farbe.render.raster import Report
from farbe.separate.grid import Grid
from farbe.separate.strokes import STEP, onward

#: Mm up to which chokes are drawn back so quickly that it may be done without being asked for.
MOST = 1.0


def foresee(
    job: Faced, former: Faced, store: ArtStore, grids: Sequence[Grid], report: Report
) -> None:
    """Make what pictures of a farther choke would want, if chokes changed by little.

    Parameters
    ----------
    job : a print's, of which a picture was made
    former : the same of the picture before
    store : of the job's files
    grids : of the pictures
    report : is asked again and again whether to go on

    Raises
    ------
    BadInput
        If a file cannot be read.
    """
    farther = choked_farther(job, former)
    if farther is None:
        return
    for grid in grids:
        foreseen(farther, piece_separation(farther, store, grid, as_read=True), report)


def choked_farther(job: Faced, former: Faced) -> Faced | None:
    """A job whose chokes have gone on as they did since another, until strokes look otherwise.

    Parameters
    ----------
    job : with chokes
    former : the job before

    Returns
    -------
    None if none was changed, or by much.
    """
    before = {layer.name: layer for layer in former.stack}
    stack = tuple(_farther(layer, before.get(layer.name)) for layer in job.stack)
    return None if stack == job.stack else job.replace(stack=stack)


def _farther(layer: Layer, before: Layer | None) -> Layer:
    if before is None or len(layer.treatments) != len(before.treatments):
        return layer
    both = zip(layer.treatments, before.treatments, strict=True)
    return layer.replace(treatments=tuple(_next(new, old) for new, old in both))


def _next(new: TreatmentValue, old: TreatmentValue) -> TreatmentValue:
    """A treatment; a choke that was changed by little has gone on."""
    if not (isinstance(new, Choke) and isinstance(old, Choke)):
        return new
    by = onward(new.by, old.by)
    stepped = 0.0 < round(abs(new.by - old.by), 6) <= STEP
    return new.replace(by=by) if stepped and 0.0 < by <= MOST else new
