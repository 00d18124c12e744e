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
from farbe.estimate.estimate import Estimate, estimate
from farbe.files.store import ArtStore
from farbe.layout.fill import Filled, choices
from farbe.layout.frame import sampling_grid
from farbe.layout.guide import guide_reach
from farbe.layout.prints import PocketPrint, one_print, spread
from farbe.model.job import Job
from farbe.model.layer import Layer
from farbe.model.printer import LayerKind
from farbe.optics.look import Seen, seen
from farbe.optics.shakejob import JobShake, job_shake, shape_edge
from farbe.plan.order import printing_layers
from farbe.render.piece import piece_separation
from farbe.render.raster import Report
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid
from farbe.separate.plates import Separation

#: Pixels along the longer side of the piece's picture.
PREVIEW = 900
#: Pixels, or somewhat more, along the longer side of an artwork's small picture.
THUMB = 200
#: Pixels of the picture in which edges are found, and how many of them are tried.
EDGE_SIDE, EDGES_TRIED = 400, 12
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
    seen: Seen
    look: Pixels
    artwork: Pixels
    size: tuple[float, float]
    grid: Grid
    edge: Edge | None
    pages: int = 1
    groups: tuple[str, ...] = ()
    profile: bytes = b""

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


@dataclass(frozen=True, eq=False)
class Stamp:
    """What the pieces with one print look like, sRGB, and its size in mm."""

    look: Pixels
    size: tuple[float, float]


class Results(QObject):
    """Keeps preview, stamps and findings of the session's job up to date.

    The preview is of one pocket's print; stamps are of all different prints, without their texts.
    """

    preview_changed = Signal()
    stamps_changed = Signal()
    findings_changed = Signal()
    shake_changed = Signal()

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self.preview: Preview | None = None
        self.stamps: dict[PocketPrint, Stamp] = {}
        #: Small pictures of the artworks by digest, straight RGBA.
        self.thumbs: dict[str, Pixels] = {}
        #: Width of the artworks in pixels, by digest.
        self.widths: dict[str, int] = {}
        self.findings: Findings | None = None
        self.shake: JobShake | None = None
        #: Share of prints that may show misregister.
        self.chance = 0.05
        self._pocket = 1
        self._session, self._workers = session, workers
        session.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Start working out what the job now asks for; older work is dropped."""
        job, whole, store = self._session.job, self._session.whole, self._session.store
        if job is None or whole is None:
            self.preview = self.findings = None
            self.stamps = {}
            self.preview_changed.emit()
            self.stamps_changed.emit()
            self.findings_changed.emit()
            return
        self._start_preview(job)
        self._workers.start(
            "findings", lambda r: _findings(job, whole, store, r), self._show_findings
        )
        self.start_shake()
        self._workers.start("stamps", lambda r: _stamps(job, store, r), self._show_stamps)

    def start_shake(self) -> None:
        """Work out what choke and bleed forgive."""
        job, store, chance = self._session.job, self._session.store, self.chance
        if job is not None:
            self._workers.start("shake", lambda _: job_shake(job, store, chance), self._show_shake)

    def _show_shake(self, shake: JobShake) -> None:
        self.shake = shake
        self.shake_changed.emit()

    def show_pocket(self, number: int) -> None:
        """Preview what this pocket prints."""
        job = self._session.job
        if job is not None and number != self._pocket:
            before, self._pocket = self._print(job), number
            if self._print(job) != before:
                self._start_preview(job)
        self._pocket = number

    def _print(self, job: Job) -> PocketPrint:
        """The print of the pocket that is shown; the first one's, if it prints nothing."""
        prints = spread(job).prints
        first = next(iter(prints.values()), PocketPrint(job.artwork, job.placing, ()))
        return prints.get(self._pocket, first)

    def _start_preview(self, job: Job) -> None:
        of, store = one_print(job, self._print(job)), self._session.store
        self._workers.start("preview", lambda r: _preview(of, store, r), self._show_preview)

    def _show_preview(self, preview: Preview) -> None:
        self.preview = preview
        self.preview_changed.emit()

    def _show_stamps(
        self, made: tuple[dict[PocketPrint, Stamp], dict[str, Pixels], dict[str, int]]
    ) -> None:
        self.stamps, self.thumbs, self.widths = made
        self.stamps_changed.emit()

    def _show_findings(self, findings: Findings) -> None:
        self.findings = findings
        self.findings_changed.emit()


def _size(job: Job) -> tuple[float, float]:
    shape = job.piece.shape
    return shape.width + 2 * job.bleed, shape.height + 2 * job.bleed


def _seen(job: Job, separation: Separation, plates: list[Plate], store: ArtStore) -> Seen:
    return seen(
        separation.layers if plates else (),
        plates or [np.zeros(separation.size[::-1], np.uint8)],
        reader=job.reader,
        surface=job.piece.surface,
        profile=store.profile(job),
        named={ink.name: ink.shown for ink in job.printer.inks},
    )


def _preview(job: Job, store: ArtStore, report: Report) -> Preview:
    grid = sampling_grid(job, PREVIEW)
    separation = piece_separation(job, store, grid, as_read=True)
    placed, height = separation.placed, separation.size[1]
    plates = separation.plates(0, height)
    report(0.5)
    artwork = _rgba(placed.colours(0, height), placed.alpha(0, height), placed.artwork.space)
    found = _seen(job, separation, plates, store)
    return Preview(
        job=job,
        layers=separation.layers,
        plates=plates,
        seen=found,
        look=found.by(0.0),
        artwork=_lettered(artwork, job, separation),
        size=_size(job),
        grid=grid,
        edge=_edge(job, store),
        pages=placed.artwork.pages,
        groups=placed.artwork.groups,
        profile=store.profile(job),
    )


def _stamps(
    job: Job, store: ArtStore, report: Report
) -> tuple[dict[PocketPrint, Stamp], dict[str, Pixels], dict[str, int]]:
    """A picture of each different print and artwork, and the artworks' widths in pixels.

    Pictures of many prints are made smaller.
    """
    plain = list(dict.fromkeys(what.plain for what in spread(job).prints.values()))
    grid = sampling_grid(job, max(90, round(PREVIEW / max(1, len(plain)) ** 0.5)))
    found = {}
    for index, what in enumerate(plain):
        report(index / len(plain))
        of = one_print(job, what)
        separation = piece_separation(of, store, grid, as_read=True)
        plates = separation.plates(0, separation.size[1])
        found[what] = Stamp(_seen(of, separation, plates, store).by(0.0), _size(job))
    arts = {art.digest: store.artwork(art) for art in job.artworks}
    thumbs = {digest: _thumb(art) for digest, art in arts.items()}
    return found, thumbs, {digest: art.width for digest, art in arts.items()}


def _thumb(artwork: Artwork) -> Pixels:
    """A small picture of an artwork, straight RGBA."""
    by = max(1, max(artwork.width, artwork.height) // THUMB)
    part = artwork.pixels[by // 2 :: by, by // 2 :: by]
    colours = CHANNELS[artwork.space]
    alpha = part[..., -1] if artwork.has_alpha else np.full(part.shape[:2], 255, np.uint8)
    return _rgba(part[..., :colours], alpha, artwork.space)


def _findings(job: Job, whole: Job, store: ArtStore, report: Report) -> Findings:
    """Both sides are checked; what mends the job is told for the side that is looked at."""
    foretold = estimate(whole, store)
    report(0.5)
    checks = run_checks(Facts(job, store))
    margin = max(job.bleed, guide_reach(job.guide))
    fills = choices(job.jig, job.piece.shape, job.printer, margin)
    return Findings(job, checks, foretold, fills)


def _lettered(artwork: Pixels, job: Job, separation: Separation) -> Pixels:
    """The artwork with its lines of type, straight RGBA."""
    shown = artwork.copy()
    for line, box in zip(separation.lettering, (b for b in job.texts if b.text), strict=True):
        covered = line.cover(separation.size[0], 0, separation.size[1])
        if covered is None:
            continue
        columns, cover = covered
        share = cover[..., None] / 255.0
        ink = np.array([int(box.colour[i : i + 2], 16) for i in (1, 3, 5)])
        part = shown[:, columns]
        part[..., :3] = np.rint(part[..., :3] * (1 - share) + ink * share)
        np.maximum(part[..., 3], cover, out=part[..., 3])
    return shown


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


def _edge(job: Job, store: ArtStore) -> Edge | None:
    """The worst edge of the colour: where the least of it is left white, at output resolution."""
    white = next((la for la in printing_layers(job.stack) if la.kind is LayerKind.WHITE), None)
    if job.artwork is None or white is None:
        return None
    coarse = sampling_grid(job, EDGE_SIDE)
    seen_coarsely = piece_separation(job, store, coarse, layers=(), as_read=True)
    found = shape_edge(seen_coarsely.shape(0, seen_coarsely.size[1]), coarse)
    if found is None:
        return None
    grid = Grid(job.printer.dpi_x, job.printer.dpi_y)
    separation = piece_separation(job, store, grid, layers=(white,), as_read=True)
    every = max(1, len(found.places) // EDGES_TRIED)
    windows = [_window(separation, x, y) for x, y in found.places[::every]]
    return min(windows, key=_white_share)


def _window(separation: Separation, x: float, y: float) -> Edge:
    """Output pixels around a place in mm from the piece's middle."""
    (width, height), grid = separation.size, separation.grid
    row, column = height / 2 - y * grid.per_mm_y, width / 2 + x * grid.per_mm_x
    start = max(0, min(height - EDGE, int(row) - EDGE // 2))
    left = max(0, min(width - EDGE, int(column) - EDGE // 2))
    columns = slice(left, left + EDGE)
    return Edge(
        x=x,
        y=y,
        colour=np.ascontiguousarray(separation.shape(start, start + EDGE)[:, columns]),
        white=np.ascontiguousarray(separation.plates(start, start + EDGE)[0][:, columns]),
        pixel=(1 / grid.per_mm_x, 1 / grid.per_mm_y),
    )


def _white_share(edge: Edge) -> float:
    """How much of the colour in a window has white; hardly any colour tells nothing."""
    colour = float(edge.colour.sum(dtype="int64"))
    enough = colour > 0.03 * 255 * edge.colour.size
    return float(edge.white.sum(dtype="int64")) / colour if enough else 2.0
