"""What follows from the current job, worked out off the window's thread."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, fields, replace
from itertools import chain

from PySide6.QtCore import QObject, QTimer, Signal

from farbe.art.artwork import Artwork, Pixels
from farbe.checks.check import Check, CheckPlace, Facts
from farbe.checks.filmrules import meeting
from farbe.checks.rules import run_checks
from farbe.checks.weight import Weight
from farbe.desk.edges import Edges, edges_of
from farbe.desk.printpictures import (
    Closer,
    Finer,
    Pictures,
    Stamp,
    finer,
    finest,
    pictures_of,
    the_same,
    wanting,
)
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.estimate.estimate import Estimate, estimate
from farbe.estimate.steps import Step, steps
from farbe.files.store import ArtStore
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced, faces_of
from farbe.layout.fill import Filled, choices
from farbe.layout.forplates import PrintForPlates, print_for_plates
from farbe.layout.frame import sampling_grid
from farbe.layout.guide import guide_reach
from farbe.layout.laid import allotted, different
from farbe.layout.prints import PocketPrint, one_print
from farbe.mishap import guarded
from farbe.model.artwork import PageBox
from farbe.model.base import BadInput
from farbe.optics.look import Seen
from farbe.optics.view import View, look_of, seen_as
from farbe.plan.sentence import print_words
from farbe.plan.stations import Station
from farbe.render.cutlines import CutShape
from farbe.render.glimpse import Box, Glimpse, glimpse, part_of
from farbe.render.piece import piece_separation
from farbe.render.raster import Cancelled, Report
from farbe.said import say
from farbe.separate.grid import Grid
from farbe.survey.prints import PrintSurvey, are_known
from farbe.survey.shakejob import JobShake, job_shake

#: Milliseconds after the last change of zoom, after which finer pictures are made.
SOON_MS = 120
#: Seconds that the window waits for a picture that comes at once.
LINGER = 0.012
#: Pixels along the longer side of the piece's picture.
PREVIEW = 900
#: The same of the picture that comes first.
COARSE = 220


@dataclass(frozen=True)
class FileOffers:
    """What an artwork's file offers to choose from."""

    pages: int = 1
    boxes: tuple[PageBox, ...] = ()
    layers: tuple[tuple[str, bool], ...] = ()
    groups: tuple[str, ...] = ()
    is_page: bool = False

    @staticmethod
    def of(art: Artwork) -> FileOffers:
        return FileOffers(art.pages, art.boxes, art.layers, art.groups, bool(art.boxes))


@dataclass(frozen=True, eq=False)
class Preview(Glimpse):
    """A whole piece on a grid for the screen; ``coarse`` ones are soon followed by a finer.

    It holds for all jobs that print what it was ``made_for``.
    """

    seen: Seen
    look: Pixels
    offers: FileOffers = FileOffers()
    coarse: bool = False
    made_for: PrintForPlates | None = None


@dataclass(frozen=True)
class Findings:
    """Checks and estimate of a job, and how many pockets its board could hold.

    Attributes
    ----------
    steps : its run list
    met : numbers of artworks that lie on each other on a film
    exact : looked at in the resolution that prints; until then a closer look is going on
    prints : different prints that were looked at
    grid : the resolution at which they were
    """

    job: Faced
    checks: tuple[Check, ...]
    estimate: Estimate
    steps: tuple[Step, ...]
    fills: tuple[Filled, ...]
    met: frozenset[int] = frozenset()
    exact: bool = True
    prints: int = 0
    grid: Grid | None = None


#: What is worked out anew for each job.
_OF_THE_JOB = "preview", "edges", "stamps", "coarse findings", "findings", "shake"


class Results(QObject):
    """Keeps preview, stamps and findings of the session's job up to date.

    The preview is of one pocket's print; stamps are of all different prints, without their texts.
    """

    preview_changed = Signal()
    stamps_changed = Signal()
    findings_changed = Signal()
    shake_changed = Signal()
    #: The closer look moved on: the share that is done.
    looked = Signal(float)
    #: A place of a finding is shown, or none any more; pixels of it that print are there.
    #: Another of the different prints is shown, or it is known by other words.
    print_changed = Signal()
    edges_changed = Signal()
    place_changed = Signal()

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self.preview: Preview | None = None
        #: The last one that was not coarse, of which the next one mostly differs little.
        self._finest: Preview | None = None
        self.stamps: dict[PocketPrint, Stamp] = {}
        #: Small pictures of the artworks by digest, straight RGBA.
        self.thumbs: dict[str, Pixels] = {}
        #: Width of the artworks in pixels, by digest.
        self.widths: dict[str, int] = {}
        #: Pages of the artworks' files.
        self.pages: dict[str, int] = {}
        #: Where artworks on a film are cut apart along their shapes, by digest.
        self.cuts: dict[str, CutShape] = {}
        #: The pictures as they were first made, before finer ones took their places.
        self._made = Pictures({}, {}, {}, {}, {})
        #: Finer pictures that were asked for last.
        self._closer: Closer | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self._start_closer)
        self.findings: Findings | None = None
        self.shake: JobShake | None = None
        #: The place that is framed, and its output pixels once they are there.
        self.place: CheckPlace | None = None
        self.place_pixels: Glimpse | None = None
        #: Whether the station that is seen shows the preview.
        self.preview_is_seen = False
        self._pocket = 1
        self._session, self._workers = session, workers
        #: The job of the print that is to be shown, and what its picture is made for.
        self._wanted: tuple[Faced, PrintForPlates] | None = None
        #: What a choke leaves at the edges of the print that was looked at last, and which it is.
        self._edges: tuple[PrintForPlates | None, Edges | None] = (None, None)
        #: Whether findings and stamps wait for the first picture, and edits that come faster.
        self._others_wait = False
        session.opening.connect(lambda: workers.cancel("coarse preview"))
        session.changed.connect(self._changed)

    def _changed(self) -> None:
        """Drop what is worked out of the job before; go on once the edit is seen."""
        for key in _OF_THE_JOB:
            self._workers.cancel(key)
        self._workers.once_drawn("results", self.refresh)

    def refresh(self) -> None:
        """Start working out what the job now asks for; older work is dropped."""
        job = self._session.job
        if job is None:
            self._workers.cancel("coarse preview")
            self._wanted = self.preview = self._finest = self.findings = None
            self.stamps = {}
            self.preview_changed.emit()
            self.edges_changed.emit()
            self.stamps_changed.emit()
            self.findings_changed.emit()
            return
        self._others_wait = True
        self._start_preview(job)

    def _start_others(self) -> None:
        """Start what need not be there at once, nor follow a slider that is dragged."""
        job, whole, store = self._session.job, self._session.first, self._session.store
        if job is None or whole is None:
            return
        # What is known from before needs no coarse look; what is not gets one at once.
        self._workers.start(
            "coarse findings", lambda r: _findings(job, whole, store, r, exact=False),
            lambda found: self._show_coarse(job, whole, found),
        )  # fmt: skip
        if self.place is not None:
            self.show_place(None)
        self._workers.start("stamps", lambda r: pictures_of(job, store, r), self._show_stamps)

    def start_shake(self) -> None:
        """Work out what choke and bleed forgive."""
        job, store = self._session.job, self._session.store
        if job is not None:
            chance = job.running.may_show / 100.0
            # After the closer look, whose edges it shakes.
            self._workers.start(
                "shake", lambda r: job_shake(job, store, chance, r), self._show_shake
            )

    def _show_shake(self, shake: JobShake) -> None:
        self.shake = shake
        self.shake_changed.emit()

    def _show_coarse(self, job: Faced, whole: Faced, findings: Findings) -> None:
        """Show what is found at once, and look closer."""
        store = self._session.store
        if findings.exact:
            self._show_exact(findings)
            return
        if self.findings is None or self.findings.job != job:
            self._show_findings(findings)

        def work(report: Report) -> Findings:
            shown = 0.0

            def moved(done: float) -> None:
                nonlocal shown
                report(done)
                if done - shown > 0.01 or done >= 1.0:
                    shown = done
                    self.looked.emit(done)

            return _findings(job, whole, store, moved)

        self._workers.start("findings", work, self._show_exact)

    def _show_exact(self, findings: Findings) -> None:
        self._show_findings(findings)
        self.start_shake()

    def show_place(self, place: CheckPlace | None) -> None:
        """Frame a place of a finding; its output pixels follow."""
        self.place, self.place_pixels = place, None
        self.place_changed.emit()
        job, store = self._session.job, self._session.store
        if place is None or job is None:
            self._workers.cancel("place")
            return
        self.show_pocket(place.pocket)
        of = one_print(job, self._print(job))
        grid = Grid(job.printer.dpi_x, job.printer.dpi_y)
        box = around(place, grid)
        self._workers.start("place", lambda _: glimpse(of, store, grid, box), self._show_pixels)

    def _show_pixels(self, part: Glimpse) -> None:
        if self.place is not None:
            self.place_pixels = part
            self.place_changed.emit()

    def places_here(self) -> list[tuple[Check, CheckPlace]]:
        """The places of findings on the print that is shown."""
        job = self._session.job
        if job is None or self.findings is None:
            return []
        prints, shown = allotted(job).prints, self._print(job)
        return [
            (check, place)
            for check in self.findings.checks if not check.accepted
            for place in check.places
            if place.face == job.number and prints.get(place.pocket, shown) == shown
        ]  # fmt: skip

    def show_pocket(self, number: int) -> None:
        """Preview what this pocket prints."""
        job = self._session.job
        if job is not None and number != self._pocket:
            before, self._pocket = self._print(job), number
            if self._print(job) != before:
                self._start_preview(job)
        self._pocket = number
        self.print_changed.emit()

    @property
    def shown_print(self) -> tuple[int, int, str]:
        """Which of the different prints is shown, from 0; how many there are; which it is."""
        job = self._session.job
        if job is None:
            return 0, 0, ""
        prints, now = different(job), self._print(job)
        at = next((at for at, (what, _) in enumerate(prints) if what == now), 0)
        numbers = prints[at][1] if prints else ()
        return at, max(1, len(prints)), print_words(job, now, numbers, self._pocket)

    def step_print(self, by: int) -> None:
        """Show the different print that comes so many later; after the last comes the first."""
        job = self._session.job
        prints = () if job is None else different(job)
        if prints:
            _, numbers = prints[(self.shown_print[0] + by) % len(prints)]
            self.show_pocket(numbers[0])

    def _print(self, job: Faced) -> PocketPrint:
        """The print of the pocket that is shown; the first one's, if it prints nothing."""
        prints = allotted(job).prints
        first = next(iter(prints.values()), PocketPrint(job.artwork, job.placing, ()))
        return prints.get(self._pocket, first)

    def _start_preview(self, job: Faced) -> None:
        """Have a coarse picture made, then a fine one, then all else, which would hold them up.

        While edits come faster, as when a slider is dragged, coarse pictures follow alone.
        """
        what, store = self._print(job), self._session.store
        self._wanted = of, plates = one_print(job, what), print_for_plates(job, what)
        self._workers.cancel("preview")
        now = self.preview
        if now is not None and not now.coarse and self._is_wanted(now):
            # What is shown has the plates that this job asks for.
            self._workers.cancel("coarse preview")
            self._show_fine_preview(now)
            self._start_what_waits()
            return
        self._workers.in_step(
            "coarse preview",
            lambda r: _preview(of, plates, store, r, coarse=True),
            self._show_coarse_preview,
            at_rest=self._go_on,
        )
        if self.preview_is_seen:
            self._workers.linger("coarse preview", LINGER)

    def _start_what_waits(self) -> None:
        if self._others_wait:
            self._others_wait = False
            self._start_others()

    def _go_on(self) -> None:
        """A coarse picture is shown and no other is to follow."""
        if self._wanted is not None:
            (of, plates), store, before = self._wanted, self._session.store, self._finest
            self._workers.in_step(
                "preview",
                lambda r: _preview(of, plates, store, r, before=before),
                self._show_fine_preview,
                at_rest=lambda: self._workers.once_drawn("others", self._start_what_waits),
            )

    def _is_wanted(self, preview: Preview) -> bool:
        return self._wanted is not None and preview.made_for == self._wanted[1]

    def _show_coarse_preview(self, preview: Preview) -> None:
        """Show it unless the fine one that is wanted is there already."""
        now = self.preview
        if now is None or now.coarse or not self._is_wanted(now):
            self._show_preview(preview)

    def _show_fine_preview(self, preview: Preview) -> None:
        """Show it, and have edges told of it."""
        self._finest = preview
        self._show_preview(preview)
        job, plates, store = preview.job, preview.made_for, self._session.store
        if plates != self._edges[0]:
            self._workers.start("edges", lambda _: (plates, edges_of(job, store)), self._show_edges)

    def _show_edges(self, made: tuple[PrintForPlates | None, Edges | None]) -> None:
        self._edges = made
        self.edges_changed.emit()

    @property
    def edges(self) -> Edges | None:
        """What the choke leaves at the edges; None until it is known of the print as it is now."""
        plates, edges = self._edges
        return edges if self._wanted is not None and plates == self._wanted[1] else None

    def _show_preview(self, preview: Preview) -> None:
        if self._wanted is not None and self._is_wanted(preview):
            # It may have been made for a job that differs in what no plate shows.
            preview = replace(preview, job=self._wanted[0])
        self.preview = preview
        self.preview_changed.emit()

    def look_closer(
        self, per_mm: float, prints: Iterable[PocketPrint], arts: Iterable[str]
    ) -> None:
        """Have pictures made as fine as they are shown, a moment after they were asked for last.

        Parameters
        ----------
        per_mm : pixels of the screen to the millimetre
        prints : that are shown as stamps
        arts : keys of artworks that are shown as thumbs
        """
        job = self._session.job
        if job is None or not self.stamps:
            return
        asked = wanting(job, self.stamps, self.thumbs, per_mm, prints, arts)
        if asked and asked != self._closer:
            self._closer = asked
            self._soon.start()

    def _start_closer(self) -> None:
        job, store, asked = self._session.job, self._session.store, self._closer
        if job is not None and asked is not None:
            self._workers.start("closer", lambda r: finer(job, store, asked, r), self._show_closer)

    def _show_closer(self, made: Finer) -> None:
        # The tables are made anew, by which those who draw them see that they changed.
        self.stamps = {**self.stamps, **made.stamps}
        self.thumbs = {**self.thumbs, **made.thumbs}
        self.stamps_changed.emit()

    def _show_stamps(self, made: Pictures) -> None:
        self._workers.cancel("closer")
        self._closer = None
        before, self._made = self._made, made
        stamps, thumbs = finest(made, before, self.stamps, self.thumbs)
        told = self.widths, self.pages
        if (
            the_same(stamps, self.stamps)
            and the_same(thumbs, self.thumbs)
            and the_same(made.cuts, self.cuts)
            and told == (made.widths, made.pages)
        ):
            # Pictures of the bed need not be drawn anew.
            return
        self.stamps, self.thumbs = stamps, thumbs
        self.widths, self.pages, self.cuts = made.widths, made.pages, made.cuts
        self.stamps_changed.emit()

    def _show_findings(self, findings: Findings) -> None:
        self.findings = findings
        self.findings_changed.emit()


def _size(job: Faced) -> tuple[float, float]:
    shape = job.piece.shape
    return shape.width + 2 * job.bleed, shape.height + 2 * job.bleed


def _preview(
    job: Faced,
    plates: PrintForPlates,
    store: ArtStore,
    report: Report,
    *,
    coarse: bool = False,
    before: Preview | None = None,
) -> Preview:
    grid = sampling_grid(job, COARSE if coarse else PREVIEW)
    separation = piece_separation(job, store, grid, as_read=True)
    whole = part_of(job, store, replace(separation, kept=True), None, exact=not coarse)
    report(0.5)
    return Preview(
        **{part.name: getattr(whole, part.name) for part in fields(whole)},
        seen=seen_as(whole, View()),
        look=look_of(whole, None if before is None else (before, before.look)),
        offers=FileOffers.of(separation.placed.artwork),
        coarse=coarse,
        made_for=plates,
    )


#: Output pixels along a side of what is shown around a place, fewest and most.
FEWEST_PIXELS, MOST_PIXELS = 60, 150


def around(place: CheckPlace, grid: Grid) -> Box:
    """A place with some room around it, so that its output pixels can be told.

    Parameters
    ----------
    place : of a finding
    grid : of the output
    """
    least, most = FEWEST_PIXELS / grid.per_mm_x, MOST_PIXELS / grid.per_mm_x
    width = min(most, max(least, 1.6 * place.width))
    height = min(most, max(least, 1.6 * place.height))
    x, y = place.left + place.width / 2, place.bottom + place.height / 2
    if width < place.width or height < place.height:
        # Of a large place, where most of it is.
        x, y = place.x, place.y
    return Box(x - width / 2, y - height / 2, width, height)


def _findings(
    job: Faced, whole: Faced, store: ArtStore, report: Report, *, exact: bool = True
) -> Findings:
    """Both sides are checked; what mends the job is told for the side that is looked at."""
    # An edit that changes no plate needs no coarse look.
    exact = exact or all(are_known(face) for face in faces_of(job.job))
    facts = Facts(job, store, exact=exact, report=report, go_on=lambda: report(0.0))
    checks = run_checks(facts)
    foretold = guarded(
        say("The estimate"),
        lambda: (estimate(whole, store, report, exact=exact), steps(whole)),
        let=(BadInput, Cancelled),
    )
    figures, listed = foretold.made or (Estimate((), 0, 0.0), ())
    margin = max(job.bleed, guide_reach(job.guide))
    fills = (
        () if carrier_of(job).one_sheet else choices(job.jig, job.piece.shape, job.printer, margin)
    )
    met = frozenset(chain.from_iterable(_meeting(job, store)))
    if foretold.mishap is not None:
        failed = Check("estimate-failed", Weight.CAUTION, foretold.mishap.sentence, Station.RUN,
                       mishap=foretold.mishap)  # fmt: skip
        checks = (*checks, failed)
    looked = _looked_at(facts)
    prints = len(set(allotted(job).prints.values())) or len(looked)
    # A coarse grid may be as fine as what prints.
    fine = len(looked) == prints and all(one.survey.exact for one in looked)
    return Findings(
        job, checks, figures, listed, fills, met,
        exact=exact or (fine and bool(looked)),
        prints=prints,
        grid=Grid(job.printer.dpi_x, job.printer.dpi_y) if looked else None,
    )  # fmt: skip


def _looked_at(facts: Facts) -> tuple[PrintSurvey, ...]:
    try:
        return facts.surveys
    except BadInput:
        return ()  # said by the checks


def _meeting(job: Faced, store: ArtStore) -> list[tuple[int, int]]:
    """Artworks that lie on each other; the check of them says why that cannot be told."""
    let = (BadInput, Cancelled)
    return (
        guarded(say("Looking for overlaps"), lambda: meeting(Facts(job, store)), let=let).made or []
    )
