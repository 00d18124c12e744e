"""What follows from the current job, worked out off the window's thread."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QObject, Signal

from farbe.art.artwork import CHANNELS, Artwork, Pixels, Space
from farbe.checks.check import Check, Facts
from farbe.checks.rules import run_checks
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.estimate.estimate import Estimate, estimate, sampling_grid
from farbe.files.store import ArtStore
from farbe.layout.fill import Filled, choices
from farbe.layout.guide import guide_reach
from farbe.model.job import Job
from farbe.model.layer import Layer
from farbe.model.printer import LayerKind
from farbe.optics.look import look
from farbe.plan.order import printing_layers
from farbe.render.piece import job_converter, piece_separation, place
from farbe.render.raster import Report
from farbe.separate.choke import Plate
from farbe.separate.colour import Converter
from farbe.separate.grid import Grid

#: Pixels along the longer side of the piece's picture.
PREVIEW = 900
#: Output pixels along a side of the picture of an edge.
EDGE = 22


@dataclass(frozen=True, eq=False)
class Edge:
    """Output pixels at one edge of the colour: where it is, the plates, size of a pixel in mm."""

    x: float
    y: float
    colour: Plate
    white: Plate
    pixel: tuple[float, float]


@dataclass(frozen=True, eq=False)
class Preview:
    """A piece's plates as read, on a grid for the screen.

    ``size`` is in mm, around the piece's middle. ``artwork`` is straight RGBA.
    """

    job: Job
    layers: tuple[Layer, ...]
    plates: list[Plate]
    look: Pixels
    artwork: Pixels
    size: tuple[float, float]
    grid: Grid
    edge: Edge | None

    def plates_of(self, name: str) -> list[Plate]:
        """The plates of a layer: four of colour, else one; none if it is off."""
        at = 0
        for layer in self.layers:
            count = 4 if layer.kind is LayerKind.COLOUR else 1
            if layer.name == name:
                return self.plates[at : at + count]
            at += count
        return []


@dataclass(frozen=True)
class Findings:
    """Checks and estimate of a job, and how many pockets its board could hold."""

    job: Job
    checks: tuple[Check, ...]
    estimate: Estimate
    fills: tuple[Filled, ...]


class Results(QObject):
    """Keeps preview and findings of the session's job up to date."""

    preview_changed = Signal()
    findings_changed = Signal()

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self.preview: Preview | None = None
        self.findings: Findings | None = None
        self._session, self._workers = session, workers
        self._converters: dict[object, Converter] = {}
        session.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Start working out what the job now asks for; older work is dropped."""
        job, store = self._session.job, self._session.store
        if job is None:
            self.preview = self.findings = None
            self.preview_changed.emit()
            self.findings_changed.emit()
            return
        self._workers.start("preview", lambda r: self._preview(job, store, r), self._show_preview)
        self._workers.start("findings", lambda r: self._find(job, store, r), self._show_findings)

    def _show_preview(self, preview: Preview) -> None:
        self.preview = preview
        self.preview_changed.emit()

    def _show_findings(self, findings: Findings) -> None:
        self.findings = findings
        self.findings_changed.emit()

    def _converter(self, job: Job, artwork: Artwork, profile: bytes) -> Converter:
        key = (job.artwork.digest if job.artwork else None, job.conversion)
        if key not in self._converters:
            self._converters.clear()
            self._converters[key] = job_converter(job, artwork, profile)
        return self._converters[key]

    def _preview(self, job: Job, store: ArtStore, report: Report) -> Preview:
        artwork, profile = store.artwork(job), store.profile(job)
        grid = sampling_grid(job, PREVIEW)
        placed = place(job, artwork, grid)
        converter = self._converter(job, placed.artwork, profile)
        separation = piece_separation(
            job, artwork, profile, grid, as_read=True, converter=converter
        )
        height = separation.size[1]
        plates = separation.plates(0, height)
        report(0.5)
        seen = plates or [np.zeros(separation.size[::-1], np.uint8)]
        shape = job.piece.shape
        return Preview(
            job=job,
            layers=separation.layers,
            plates=plates,
            look=look(
                separation.layers if plates else (),
                seen,
                reader=job.reader,
                surface=job.piece.surface,
                profile=profile,
            ),
            artwork=_rgba(placed.colours(0, height), placed.alpha(0, height), placed.artwork.space),
            size=(shape.width + 2 * job.bleed, shape.height + 2 * job.bleed),
            grid=grid,
            edge=_edge(job, artwork, profile, converter),
        )

    def _find(self, job: Job, store: ArtStore, report: Report) -> Findings:
        artwork, profile = store.artwork(job), store.profile(job)
        placed = place(job, artwork, sampling_grid(job))
        converter = self._converter(job, placed.artwork, profile)
        foretold = estimate(job, artwork, profile, converter=converter)
        report(0.5)
        checks = run_checks(Facts(job, artwork, profile, converter))
        margin = max(job.bleed, guide_reach(job.guide))
        fills = choices(job.jig, job.piece.shape, job.printer, margin)
        return Findings(job, checks, foretold, fills)


def _rgba(colours: Pixels, alpha: Plate, space: Space) -> Pixels:
    """Straight RGBA for the screen; CMYK is shown plainly, its profile is the proof's matter."""
    if space is Space.CMYK:
        inks = colours.astype(np.uint16)
        rest = 255 - inks[..., 3:]
        shown = ((255 - inks[..., :3]) * rest // 255).astype(np.uint8)
    elif CHANNELS[space] == 1:
        shown = np.repeat(colours, 3, axis=2)
    else:
        shown = colours
    return np.dstack([shown, alpha])


def _edge(job: Job, artwork: Artwork | None, profile: bytes, converter: Converter) -> Edge | None:
    """The edge of the colour to the right of the middle, at output resolution."""
    white = next((la for la in printing_layers(job.stack) if la.kind is LayerKind.WHITE), None)
    if artwork is None or white is None:
        return None
    grid = Grid(job.printer.dpi_x, job.printer.dpi_y)
    separation = piece_separation(
        job, artwork, profile, grid, layers=(white,), as_read=True, converter=converter
    )
    width, height = separation.size
    row = _row_with_edge(job, artwork, grid)
    start = max(0, min(height - EDGE, row - EDGE // 2))
    alpha = separation.placed.alpha(start, start + EDGE)
    solid = np.flatnonzero(alpha[EDGE // 2] >= 128)
    if not len(solid):
        return None
    ends = solid[np.flatnonzero(np.diff(solid, append=width + 9) > 1)]
    # The edge nearest to two thirds of the way right shows well in the picture.
    column = int(ends[np.argmin(np.abs(ends - width * 0.72))])
    left = max(0, min(width - EDGE, column - EDGE * 2 // 3))
    plate = separation.plates(start, start + EDGE)[0]
    return Edge(
        x=(column + 0.5 - width / 2) / grid.per_mm_x,
        y=(height / 2 - start - EDGE / 2) / grid.per_mm_y,
        colour=np.ascontiguousarray(alpha[:, left : left + EDGE]),
        white=np.ascontiguousarray(plate[:, left : left + EDGE]),
        pixel=(1 / grid.per_mm_x, 1 / grid.per_mm_y),
    )


def _row_with_edge(job: Job, artwork: Artwork, grid: Grid) -> int:
    """An output row of the piece, below its middle, that crosses the artwork's edges."""
    coarse = sampling_grid(job, 240)
    placed = place(job, artwork, coarse)
    alpha = placed.alpha(0, placed.canvas[1])
    crossing = np.flatnonzero((alpha >= 128).any(axis=1))
    if not len(crossing):
        return 0
    wanted = placed.canvas[1] * 0.6
    best = crossing[np.argmin(np.abs(crossing - wanted))]
    return int((best + 0.5) / coarse.per_mm_y * grid.per_mm_y)
