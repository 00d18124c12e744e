"""Shake of a job: its white against its colour, and its print against its pieces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from farbe.layout.bedframe import axes
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.layout.outline import outline, rings
from farbe.model.layer import Layer
from farbe.model.printer import LayerKind
from farbe.model.source import ArtworkShape
from farbe.optics.shake import Edge, Shaken, edge_of, moves, play_moves, shaken, telling
from farbe.plan.readers import own_layers
from farbe.render.raster import Report, unwatched
from farbe.render.sources import Sources
from farbe.survey.prints import PrintSurvey, surveys

#: Share of the piece's edge from which on artwork is taken to run over it.
REACHES = 0.1


@dataclass(frozen=True)
class JobShake:
    """``white`` against the choke, None without white that is choked from the artwork's shape;
    ``piece`` against the bleed, None where no artwork reaches the piece's edge."""

    white: Shaken | None
    piece: Shaken | None


def choked_layer(job: Faced) -> Layer | None:
    """The white that ends inside the artwork's shape, the one with the least choke.

    Parameters
    ----------
    job : as one of its faces has it
    """
    found = [
        layer for layer in own_layers(job)
        if layer.kind is LayerKind.WHITE and isinstance(layer.source, ArtworkShape)
    ]  # fmt: skip
    return min(found, key=lambda layer: layer.choke, default=None)


def job_shake(
    job: Faced, sources: Sources, chance: float, report: Report = unwatched, *, exact: bool = True
) -> JobShake:
    """Shake all that a job prints.

    Parameters
    ----------
    job : the job as one of its faces has it
    sources : pixels, fonts and profile
    chance : share of prints that may show an edge, 0 to 1
    report : told the share that is done, 0 to 1
    exact : by the edges in the resolution that prints

    Returns
    -------
    How often the misregister would show, at worst and typically, and what is enough.

    Raises
    ------
    BadInput
        If a file cannot be read.
    Cancelled
        If ``report`` does.
    """
    register, white = job.machine.misregister, choked_layer(job)
    looked = surveys(job, sources, report, exact=exact)
    edge = _edge(looked)
    against_white = None
    if white is not None and edge is not None:
        placed = _over_the_bed(job, edge) if job.running.separate else edge
        against_white = shaken(moves(register, placed), white.choke, chance)
    against_piece = None
    if max(one.survey.on_edge for one in looked) >= REACHES:
        border = telling(edge_of(list(rings(outline(job.piece.shape)))))
        off = moves(register, border) + play_moves(job.jig.play, border)
        against_piece = shaken(off, job.bleed, chance)
    return JobShake(against_white, against_piece)


def _edge(looked: tuple[PrintSurvey, ...]) -> Edge | None:
    """What tells of the edges of all prints."""
    tables = [one.survey.edge for one in looked if len(one.survey.edge)]
    if not tables:
        return None
    together = np.concatenate(tables).astype(np.float64)
    return telling(Edge(together[:, :2], together[:, 2:]))


def _over_the_bed(job: Faced, edge: Edge) -> Edge:
    """The edge in the pieces that lie outermost, measured from the datum.

    Runs of their own come back to the datum each time, so that they turn and stretch about it.
    """
    pieces = laid(job)
    if not pieces:
        return edge
    across, along = axes(job.jig.datum)
    bed = job.printer.bed_width, job.printer.bed_height
    x = np.array([piece.x for piece in pieces]) - (bed[0] if across < 0 else 0.0)
    y = np.array([piece.y for piece in pieces]) - (bed[1] if along < 0 else 0.0)
    corners = [(a, b) for a in (x.min(), x.max()) for b in (y.min(), y.max())]
    places = np.concatenate([edge.places + corner for corner in corners])
    return telling(Edge(places, np.tile(edge.outward, (4, 1))))
