"""What the Proof shows, worked out off the window's thread."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from PySide6.QtCore import QObject, Signal

from farbe.art.artwork import MM_PER_INCH, Pixels
from farbe.desk.results import Results
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.follows.preview import Preview
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.optics.gamut import Reach, reached
from farbe.optics.look import Seen
from farbe.optics.view import ArtworkWhite, View, artwork_white, hiding, seen_as
from farbe.plan.alternatives import Alternative
from farbe.render.contours import Contour, contours, margin
from farbe.render.glimpse import Box, Glimpse, glimpse
from farbe.render.sources import Sources
from farbe.said import Spoken, say
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid

#: Coverage from which a place counts as inked in the outlines.
ANY_INK = 24
#: Stands for the artwork as it was sent, laid on the surface.
ARTWORK = Alternative(say("the artwork"), lambda job: job)


class Shown(Spoken):
    LOOK = "prediction"
    ARTWORK = "artwork"
    WHITE = "artwork's white"
    HIDING = "hiding"
    OUTLINES = "outlines"
    PLATE = "one plate"
    BODY = "on the body"
    REACH = "out of reach"


@dataclass(frozen=True)
class LookWanted:
    """How the piece is looked at, what of it is shown, and what it is wiped to."""

    view: View = field(default_factory=View)
    shown: Shown = Shown.LOOK
    against: Alternative | None = None


@dataclass(frozen=True, eq=False)
class Scene:
    """A part of the piece, and of the rest what is wanted.

    ``lines`` are the outlines of each layer by its name, ``margins`` how far they stay from the
    piece's edge in mm, None without ink.
    """

    part: Glimpse
    wanted: LookWanted
    seen: Seen
    look: Pixels
    other: Pixels | None = None
    hiding: Plate | None = None
    white: ArtworkWhite | None = None
    lines: dict[str, list[Contour]] | None = None
    margins: dict[str, float | None] | None = None
    reach: Reach | None = None


class Looks(QObject):
    """Keeps a scene of the whole piece, and one of what is seen of it when zoomed in."""

    changed = Signal()

    def __init__(self, session: Session, results: Results, workers: Workers) -> None:
        super().__init__(results)
        self._session, self._results, self._workers = session, results, workers
        self.wanted = LookWanted()
        self.whole: Scene | None = None
        self.detail: Scene | None = None
        self._detail_of: tuple[Box, Grid] | None = None
        results.preview_changed.connect(self.refresh)

    def want(self, **fields: object) -> None:
        """Look at it otherwise."""
        self.wanted = replace(self.wanted, **fields)  # type: ignore[arg-type]
        self.refresh()

    def view(self, **fields: object) -> None:
        """Look from elsewhere, by another light, on another surface."""
        self.want(view=replace(self.wanted.view, **fields))  # type: ignore[arg-type]

    def refresh(self) -> None:
        """Work out the scene that is wanted; the former one stays until then."""
        preview, wanted, store = self._results.preview, self.wanted, self._session.store
        self.detail = None
        if self._is_other_piece(preview):
            # What was tried and compared was about the piece before.
            self.wanted = wanted = LookWanted(shown=wanted.shown)
        if preview is None:
            self.whole = None
            self.changed.emit()
        elif wanted == LookWanted():
            self._workers.cancel("look")
            self._show(Scene(preview, wanted, preview.seen, preview.look))
        else:
            known = self._known(preview)
            self._workers.start(
                "look", lambda _: scene_of(preview, wanted, store, known=known), self._show
            )

    def _is_other_piece(self, preview: Preview | None) -> bool:
        if preview is None or self.whole is None:
            return False
        now, before = preview.job.piece, self.whole.part.job.piece
        return (now.name, now.shape) != (before.name, before.shape)

    def _known(self, preview: Preview) -> Seen | None:
        """What was worked out for another light, if nothing else has changed."""
        before, after = self.whole, self.wanted.view
        if before is None or before.part is not preview:
            return None
        same = replace(before.wanted.view, lit=after.lit, exposure=after.exposure) == after
        return before.seen if same else None

    def _show(self, scene: Scene) -> None:
        self.whole = scene
        if self._detail_of is not None:
            self.zoom(*self._detail_of)
        self.changed.emit()

    def zoom(self, box: Box, grid: Grid) -> None:
        """Work out a part of the piece on a finer grid."""
        preview, wanted, store = self._results.preview, self.wanted, self._session.store
        if preview is None:
            return
        self._detail_of, job = (box, grid), preview.job
        self._workers.start(
            "detail",
            lambda _: scene_of(glimpse(job, store, grid, box), wanted, store),
            self._show_detail,
        )

    def _show_detail(self, scene: Scene) -> None:
        preview = self._results.preview
        if preview is not None and scene.part.job == preview.job and scene.wanted == self.wanted:
            self.detail = scene
            self.changed.emit()

    def leave_detail(self) -> None:
        """The whole is fine enough again."""
        self._workers.cancel("detail")
        self.detail = self._detail_of = None


def scene_of(
    part: Glimpse,
    wanted: LookWanted,
    sources: Sources,
    *,
    known: Seen | None = None,
) -> Scene:
    """Work out what is wanted of a part.

    ``known`` is what is seen of it if it was worked out before.
    """
    found, shown, lit = known or seen_as(part, wanted.view), wanted.shown, wanted.view.lit
    lines = _lines(part) if shown is Shown.OUTLINES else None
    gain = wanted.view.gain(found) if lit else None
    return Scene(
        part=part,
        wanted=wanted,
        seen=found,
        look=found.by(lit, gain),
        other=_other(part, wanted, sources, gain),
        hiding=hiding(part) if shown is Shown.HIDING else None,
        white=artwork_white(part) if shown is Shown.WHITE else None,
        reach=reached(part) if shown is Shown.REACH else None,
        lines=lines,
        margins=None
        if lines is None
        else {name: margin(found_, part.job.piece.shape) for name, found_ in lines.items()},
    )


def _other(
    part: Glimpse, wanted: LookWanted, sources: Sources, gain: float | None
) -> Pixels | None:
    """The look of what it is wiped to."""
    against = wanted.against
    if against is None or against is ARTWORK or wanted.shown is not Shown.LOOK:
        return None
    other = glimpse(against.of(part.job), sources, part.grid, part.box)
    view = wanted.view
    return seen_as(other, view).by(view.lit, gain)


def _lines(part: Glimpse) -> dict[str, list[Contour]]:
    """Outlines of each layer; colour's are those of all its inks together."""
    found = {}
    for layer in part.layers:
        plates = part.plates_of(layer.name)
        together = plates[0].copy()
        for plate in plates[1:]:
            together = together | plate
        # Any ink counts, were it one dot of a tint.
        solid = ((together >= ANY_INK) * 255).astype("uint8")
        found[layer.name] = contours(solid, part.box, part.grid)
    return found


def kept(job: Faced) -> Alternative:
    """A job as it is now, for later."""

    def of(now: Faced) -> Faced:
        if now.piece.shape != job.piece.shape or now.bleed != job.bleed:
            raise BadInput(say("The look that was kept is of another piece; keep the present one."))
        return job

    return Alternative(say("the look that was kept"), of)


def grid_for(job: Faced, scale: float) -> Grid:
    """A grid with a pixel for each of the screen's, at ``scale`` of them per mm.

    At most the printer's resolution.
    """
    dpi = scale * MM_PER_INCH
    return Grid(min(dpi, job.printer.dpi_x), min(dpi, job.printer.dpi_y))
