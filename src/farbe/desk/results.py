"""What follows from the current job, worked out off the window's thread."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QObject, QTimer, Signal

from farbe.apart.asking import ask
from farbe.art.artwork import Pixels
from farbe.checks.check import Check, CheckPlace
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.follows.edges import Edges, edges_of
from farbe.follows.findings import Findings, findings_of, shake_of
from farbe.follows.pictures import (
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
from farbe.follows.preview import (
    Drawn,
    Preview,
    WantedPrint,
    detail_of,
    preview_of,
    print_at,
    wanted_print,
)
from farbe.layout.faced import Faced
from farbe.layout.forplates import PrintForPlates
from farbe.layout.laid import allotted, different
from farbe.layout.prints import PocketPrint
from farbe.plan.sentence import print_words
from farbe.render.cutlines import CutShape
from farbe.render.glimpse import Glimpse
from farbe.render.raster import Report
from farbe.survey.shakejob import JobShake

#: Milliseconds after the last change of zoom, after which finer pictures are made.
SOON_MS = 120
#: Seconds that the window waits for a picture that comes at once.
LINGER = 0.012
#: Seconds, at the most, in which one is asked for.
ASKS = 0.003
#: Milliseconds after a coarse picture in which a fine one mostly comes; while it is made, the
#: window is not to take the processors for what shows little of either.
RESTS_MS = 80
#: What is worked out anew for each job.
_OF_THE_JOB = "preview", "edges", "stamps", "coarse findings", "findings", "shake"


class Results(QObject):
    """Keeps preview, stamps and findings of the session's job up to date.

    The preview is of one pocket's print; stamps are of all different prints, without their texts.
    """

    preview_changed = Signal()
    #: The same of a fine picture, and of a coarse one that a fine one did not follow at once.
    preview_rests = Signal()
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
        #: What is made of new pictures, and whether it is seen.
        self._beside: dict[Callable[[Drawn], object], bool] = {}
        self._pocket = 1
        self._session, self._workers = session, workers
        #: The job and the pocket of which a coarse picture was begun last.
        self._coarse_of: tuple[Faced, int] | None = None
        #: What a choke leaves at the edges of the print that was looked at last, and which it is.
        self._edges: tuple[PrintForPlates | None, Edges | None] = (None, None)
        #: Whether findings and stamps wait for the first picture, and edits that come faster.
        self._others_wait = False
        session.opening.connect(lambda: workers.cancel("coarse preview"))
        session.changed.connect(self._changed)
        self._rests = QTimer(self, singleShot=True, interval=RESTS_MS)
        self._rests.timeout.connect(self.preview_rests)
        self.preview_changed.connect(self._follow_rest)

    def _follow_rest(self) -> None:
        if self.preview is None or not self.preview.coarse:
            self._rests.stop()
            self.preview_rests.emit()
        elif not self._rests.isActive():
            self._rests.start()

    def _changed(self) -> None:
        """Drop what is worked out of the job before; go on once the edit is seen."""
        for key in _OF_THE_JOB:
            self._workers.cancel(key)
        job = self._session.job
        if job is not None and self.preview_is_seen:
            self._start_coarse(job)
        self._workers.once_drawn("results", self.refresh)

    def refresh(self) -> None:
        """Start working out what the job now asks for; older work is dropped."""
        job = self._session.job
        if job is None:
            self._workers.cancel("coarse preview")
            self.preview = self.findings = None
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
        job, store = self._session.job, self._session.store
        if job is None:
            return
        # What is known from before needs no coarse look; what is not gets one at once.
        self._workers.start(
            "coarse findings",
            lambda r: ask(findings_of, job, store, exact=False, report=r).of(job),
            lambda found: self._show_coarse(job, found),
        )  # fmt: skip
        if self.place is not None:
            self.show_place(None)
        self._workers.start(
            "stamps", lambda r: ask(pictures_of, job, store, report=r).of(job), self._show_stamps
        )

    def start_shake(self) -> None:
        """Work out what choke and bleed forgive."""
        job, store = self._session.job, self._session.store
        if job is not None:
            # After the closer look, whose edges it shakes.
            self._workers.start(
                "shake", lambda r: ask(shake_of, job, store, report=r), self._show_shake
            )

    def _show_shake(self, shake: JobShake) -> None:
        self.shake = shake
        self.shake_changed.emit()

    def _show_coarse(self, job: Faced, findings: Findings) -> None:
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

            return ask(findings_of, job, store, report=moved).of(job)

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
        what = self._print(job)
        self._workers.start(
            "place",
            lambda r: ask(detail_of, job, what, store, place, report=r),
            self._show_pixels,
        )

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
        return print_at(job, self._pocket)

    def _start_preview(self, job: Faced) -> None:
        """Have a coarse picture made, then a fine one, then all else, which would hold them up.

        While edits come faster, as when a slider is dragged, coarse pictures follow alone.
        """
        # What is wanted is worked out while a picture is made, whose worker needs it then.
        now, wanted = self.preview, self._wanted
        known = now is not None and wanted is not None and now.made_for == wanted.plates
        if now is not None and known and not now.coarse:
            # What is shown has the plates that this job asks for.
            for key in ("coarse preview", "preview"):
                self._workers.cancel(key)
            self._show_fine_preview(now)
            self._start_what_waits()
            return
        self._start_coarse(job)
        if self.preview_is_seen:
            self._workers.linger("coarse preview", LINGER)

    @property
    def _wanted(self) -> WantedPrint | None:
        """What is to be shown; None without a job."""
        job = self._session.job
        return None if job is None else wanted_print(job, self._pocket)

    def _start_coarse(self, job: Faced) -> None:
        """Have a coarse picture made, unless those that are being made are of this."""
        of, begun = self._coarse_of, self._workers.busy("coarse preview", "preview")
        if begun and of is not None and of[0] is job and of[1] == self._pocket:
            return
        self._coarse_of = job, self._pocket
        self._workers.cancel("preview")
        self._workers.in_step(
            "coarse preview",
            self._pictured(job, coarse=True),
            self._show_coarse_preview,
            at_rest=self._go_on,
        )
        self._workers.linger("coarse preview", ASKS, until_asked=True)

    def _start_what_waits(self) -> None:
        if self._others_wait:
            self._others_wait = False
            self._start_others()

    def _go_on(self) -> None:
        """A coarse picture is shown and no other is to follow."""
        job = self._session.job
        if job is not None:
            self._workers.in_step(
                "preview",
                self._pictured(job, coarse=False),
                self._show_fine_preview,
                at_rest=lambda: self._workers.once_drawn("others", self._start_what_waits),
            )

    def make_beside(self, what: Callable[[Drawn], object], seen: bool) -> None:
        """Have what is shown of new pictures made while the window goes on.

        Parameters
        ----------
        what : makes it of a picture, which may have no look yet, and keeps it
        seen : whether it is; what is not is made of fine pictures alone, so that it can be shown
        """
        # A new table: threads go through the one before.
        self._beside = {**self._beside, what: seen}

    def _pictured(self, job: Faced, *, coarse: bool) -> Callable[[Report], Preview]:
        """What makes a picture of a job, and of that what will be shown."""
        pocket, store = self._pocket, self._session.store

        def beside(drawn: Drawn) -> None:
            for make, seen in self._beside.items():
                if seen or not coarse:
                    make(drawn)

        def work(report: Report) -> Preview:
            # Where its look takes long, it is made meanwhile, and found by its plates afterwards.
            made = ask(
                preview_of, job, pocket, store,
                at_once=True, coarse=coarse, ahead=beside, report=report,
            )  # fmt: skip
            preview = made.of(wanted_print(job, pocket))
            beside(preview)
            return preview

        return work

    def _is_wanted(self, preview: Preview) -> bool:
        """Whether it has the plates that the job asks for now.

        Pictures may be there before anything else follows from an edit.
        """
        wanted = self._wanted
        return wanted is not None and preview.made_for == wanted.plates

    def _show_coarse_preview(self, preview: Preview) -> None:
        """Show it unless the fine one that is wanted is there already."""
        now = self.preview
        if now is None or now.coarse or not self._is_wanted(now):
            self._show_preview(preview)

    def _show_fine_preview(self, preview: Preview) -> None:
        """Show it, and have edges told of it."""
        self._show_preview(preview)
        plates, store, wanted = preview.made_for, self._session.store, self._wanted
        if plates != self._edges[0] and wanted is not None:
            job, what = wanted.job, wanted.what
            self._workers.start(
                "edges",
                lambda r: (plates, ask(edges_of, job, what, store, report=r)),
                self._show_edges,
            )

    def _show_edges(self, made: tuple[PrintForPlates | None, Edges | None]) -> None:
        self._edges = made
        self.edges_changed.emit()

    @property
    def edges(self) -> Edges | None:
        """What the choke leaves at the edges; None until it is known of the print as it is now."""
        (plates, edges), wanted = self._edges, self._wanted
        return edges if wanted is not None and plates == wanted.plates else None

    def _show_preview(self, preview: Preview) -> None:
        wanted = self._wanted
        if wanted is not None and preview.made_for == wanted.plates:
            # It may have been made for a job that differs in what no plate shows.
            preview = preview.of(wanted)
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
            self._workers.start(
                "closer", lambda r: ask(finer, job, store, asked, report=r), self._show_closer
            )

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
