"""Jig, grid, board, datum and keep-outs."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from farbe.desk.fields import ColourField, NumberField, TextField, fill
from farbe.desk.form import ElidedButton
from farbe.desk.inspector import Inspector
from farbe.desk.stations.base import Desk
from farbe.desk.stations.bed.canvas import BedCanvas
from farbe.desk.stations.bed.jigmenu import JigMenu
from farbe.desk.stations.bed.rollform import lies_on
from farbe.desk.stations.part import Part
from farbe.edits import bed as bed_edits
from farbe.edits.bed import loaded
from farbe.edits.values import lens, with_jig
from farbe.layout.faced import Faced
from farbe.layout.figures import measure, sizes
from farbe.layout.pockets import centred_jig, pitch
from farbe.model.base import BadInput
from farbe.model.jig import Corner, Numbering, Pattern
from farbe.said import say


def with_pitch(job: Faced, *, across: float | None = None, along: float | None = None) -> Faced:
    """The job with the gaps that give this pitch.

    Raises
    ------
    BadInput
        If the pieces would lie over each other.
    """
    now = pitch(job.jig, job.piece.shape)
    jig = job.jig
    if across is not None:
        jig = jig.replace(gap_x=_gap(jig.gap_x + across - now.across, across))
    if along is not None:
        # Staggered rows close up: the gap that gives a pitch is found by halving.
        low, high = 0.0, 20_000.0
        for _ in range(60):
            middle = (low + high) / 2
            step = pitch(jig.replace(gap_y=middle), job.piece.shape).along
            low, high = (middle, high) if step < along else (low, middle)
        if abs(pitch(jig.replace(gap_y=high), job.piece.shape).along - along) > 1e-6:
            raise BadInput(
                say(
                    "At a pitch of {along} the rows lie over each other; give more.",
                    along=measure(along),
                )
            )
        jig = jig.replace(gap_y=round(high, 6))
    return job.replace(jig=jig)


def _gap(gap: float, pitch_: float) -> float:
    if gap < -1e-9:
        raise BadInput(
            say(
                "At a pitch of {pitch} the pieces lie over each other; give more.",
                pitch=measure(pitch_),
            )
        )
    return max(0.0, round(gap, 6))


class GridPart(Part):
    """Pattern, counts, gap or pitch, first pocket, name, numbers."""

    NAME = say("Jig")

    def __init__(self, inspector: Inspector, desk: Desk, canvas: BedCanvas) -> None:
        self._canvas = canvas
        super().__init__(inspector, desk)
        canvas.jig_loosened.connect(lambda on: fill(self._loose, on))

    def build(self) -> None:
        form, session = self.form, self.session
        patterns = [
            (Pattern.SQUARE, say("rows in line")),
            (Pattern.STAGGERED, say("rows shifted by half")),
        ]
        self._of_grid = [
            self.choice(say("Pattern"), say("Pattern"), patterns, "jig.pattern"),
            *self._steps(),
        ]
        lies = [
            (0, say("upright")),
            (90, say("turned by 90°")),
            (180, say("by 180°")),
            (270, say("by 270°")),
        ]
        self.choice(say("Pieces lie"), say("Pieces lie"), lies, "jig.turned")
        self._fill = form.button(
            say("Fill the board"),
            lambda: bed_edits.fill_board(session),
            say("As many pockets as fit, with room for bleed and guide"),
        )
        self._fits = form.words()
        self._centre = ElidedButton(say("Centre on the board"))
        self._centre.clicked.connect(
            lambda: session.edit(
                say("Centre the grid"), lambda j: j.replace(jig=centred_jig(j.jig, j.piece.shape))
            )
        )
        self._loose = ElidedButton(
            say("Move the jig"),
            say("Drag the whole grid in the picture, or move it with the arrow keys (J)"),
        )
        self._loose.setCheckable(True)
        self._loose.clicked.connect(self._canvas.loosen_jig)
        form.beside(self._centre, self._loose)
        kept = ElidedButton(say("Kept jigs"))
        self.jig_menu = JigMenu(session, kept)
        kept.setMenu(self.jig_menu)
        form.wide(kept)
        form.fold(say("Name and numbers"))
        form.row(say("Name"), TextField(session, say("Jig name"), *lens("jig.name")))
        self.choice(
            say("Numbered"), say("Numbering"), [(n, n.words) for n in Numbering], "jig.numbering"
        )
        self.numbers(
            say("Only the first"),
            (say("Only the first pockets, 0 for all"),
             (lambda j: j.jig.first_only or 0, lambda j, v: with_jig(j, first_only=v or None))),
            unit="", digits=0,
        )  # fmt: skip
        self.desk.results.findings_changed.connect(self._follow)

    def _steps(self) -> list[QWidget]:
        """How many pockets, how far apart, and where the first is."""
        return [
            self.numbers(
                say("Columns, rows"),
                (say("Columns"), "jig.columns"),
                (say("Rows"), "jig.rows"),
                unit="",
                digits=0,
            ),
            self.numbers(
                say("Gap"), (say("Gap across"), "jig.gap_x"), (say("Gap along"), "jig.gap_y")
            ),
            self.numbers(
                say("or pitch"),
                (
                    say("Pitch across"),
                    (
                        lambda j: pitch(j.jig, j.piece.shape).across,
                        lambda j, v: with_pitch(j, across=v),
                    ),
                ),
                (
                    say("Pitch along"),
                    (
                        lambda j: pitch(j.jig, j.piece.shape).along,
                        lambda j, v: with_pitch(j, along=v),
                    ),
                ),
            ),
            self.numbers(
                say("First pocket"),
                (say("First pocket x"), "jig.first_x"),
                (say("First pocket y"), "jig.first_y"),
            ),
        ]

    def refresh(self) -> None:
        findings, job = self.desk.results.findings, self.session.job
        if job is None:
            return
        single = bool(job.jig.places)
        for row in (*self._of_grid, self._fill, self._fits, self._centre):
            row.setVisible(not single)
        self._loose.setText(say("Move pockets") if single else say("Move the jig"))
        self.thing.say(
            say("{count} pockets", count=len(job.jig.places))
            if single
            else f"{job.jig.columns} × {job.jig.rows}"
        )
        ways = findings.fills if findings else ()
        if ways:
            self._fits.setText("; ".join(f"{way.count} {way.words}" for way in ways))
            self._fill.setText(say("Fill the board with {ways}", ways=ways[0].count))
        else:
            self._fits.setText(say("Not one piece fits on this board.") if findings else "")
            self._fill.setText(say("Fill the board"))


class BoardPart(Part):
    """What the job lies on, datum and board."""

    NAME = say("Board and datum")

    def build(self) -> None:
        self.form.row(say("Lies on"), lies_on(self.desk))
        self.choice(say("Datum"), say("Datum"), [(c, c.words) for c in Corner], "jig.datum.corner")
        self.numbers(
            say("Into the bed"), (say("Datum x"), "jig.datum.x"), (say("Datum y"), "jig.datum.y")
        )
        self.numbers(
            say("Board at"), (say("Board x"), "jig.board.x"), (say("Board y"), "jig.board.y")
        )
        self.numbers(
            say("Size"),
            (say("Board width"), "jig.board.width"),
            (say("Board length"), "jig.board.height"),
        )
        self.form.row(
            say("Colour"), ColourField(self.session, say("Board colour"), *lens("jig.board.colour"))
        )
        turned = [(False, say("as drawn")), (True, say("turned by 180°"))]
        self.choice(say("Loaded"), say("Board loaded"), turned, (lambda j: j.bed_turned, loaded))

    def refresh(self) -> None:
        job = self.session.job
        if job is not None:
            board = job.jig.board
            turned = say(", turned") if job.bed_turned else ""
            self.thing.say(f"{sizes(board.width, board.height)}{turned}")


class KeepOutPart(Part):
    """Where no piece may lie."""

    NAME = say("Keep-outs")

    def __init__(self, inspector: Inspector, desk: Desk, canvas: BedCanvas) -> None:
        self._canvas = canvas
        self._fields: list[NumberField] = []
        super().__init__(inspector, desk)
        canvas.choice_changed.connect(self._chosen)

    def build(self) -> None:
        form, session = self.form, self.session
        form.button(
            say("Add a clamp"), lambda: bed_edits.add_keep_out(session, circle=False),
            say("A rectangle where no piece may lie; drag it to its place"),
        )  # fmt: skip
        form.button(
            say("Add a pin"), lambda: bed_edits.add_keep_out(session, circle=True),
            say("A circle where no piece may lie; drag it to its place"),
        )  # fmt: skip
        self._at = form.row(say("At"), self._field("x", "x"), self._field("y", "y"))
        self._box = form.row(
            say("Size"), self._field(say("width"), "width"), self._field(say("length"), "height")
        )
        self._round = form.row(say("Diameter"), self._field(say("diameter"), "diameter"))

    def _field(self, words: str, field: str) -> NumberField:
        def get(job: Faced) -> float:
            index = self._canvas.keep_out
            chosen = job.jig.keep_outs[index] if index is not None else None
            return float(getattr(chosen, field, 0.0))

        def put(job: Faced, value: float) -> Faced:
            index = self._canvas.keep_out
            return job if index is None else bed_edits.with_keep_out(job, index, **{field: value})

        made = self.number(say("Keep-out {words}", words=words), (get, put))
        self._fields.append(made)
        return made

    def _chosen(self) -> None:
        for field in self._fields:
            field.refresh()
        self.refresh()

    def refresh(self) -> None:
        job, index = self.session.job, self._canvas.keep_out
        if job is None:
            return
        self.thing.say(str(len(job.jig.keep_outs) or say("none")))
        kind = job.jig.keep_outs[index].kind if index is not None else None
        rows: tuple[tuple[QWidget, bool], ...] = (
            (self._at, kind is not None),
            (self._box, kind == "rectangle"),
            (self._round, kind == "circle"),
        )
        for row, shown in rows:
            row.setVisible(shown)
