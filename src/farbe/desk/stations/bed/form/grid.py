"""Jig, grid, board, datum and keep-outs."""

from __future__ import annotations

from PySide6.QtWidgets import QPushButton, QWidget

from farbe.desk.fields import ColourField, NumberField, TextField
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
                f"At a pitch of {measure(along)} the rows lie over each other; give more."
            )
        jig = jig.replace(gap_y=round(high, 6))
    return job.replace(jig=jig)


def _gap(gap: float, pitch_: float) -> float:
    if gap < -1e-9:
        raise BadInput(
            f"At a pitch of {measure(pitch_)} the pieces lie over each other; give more."
        )
    return max(0.0, round(gap, 6))


class GridPart(Part):
    """Pattern, counts, gap or pitch, first pocket, name, numbers."""

    NAME = "Jig"

    def build(self) -> None:
        form, session = self.form, self.session
        patterns = [(Pattern.SQUARE, "rows in line"), (Pattern.STAGGERED, "rows shifted by half")]
        self.choice("Pattern", "Pattern", patterns, "jig.pattern")
        self.numbers("Columns, rows", ("Columns", "jig.columns"), ("Rows", "jig.rows"),
                     unit="", digits=0)  # fmt: skip
        self.numbers("Gap", ("Gap across", "jig.gap_x"), ("Gap along", "jig.gap_y"))
        self.numbers(
            "or pitch",
            ("Pitch across", (lambda j: pitch(j.jig, j.piece.shape).across,
                              lambda j, v: with_pitch(j, across=v))),
            ("Pitch along", (lambda j: pitch(j.jig, j.piece.shape).along,
                             lambda j, v: with_pitch(j, along=v))),
        )  # fmt: skip
        self.numbers(
            "First pocket", ("First pocket x", "jig.first_x"), ("First pocket y", "jig.first_y")
        )
        lies = [(0, "upright"), (90, "turned by 90°"), (180, "by 180°"), (270, "by 270°")]
        self.choice("Pieces lie", "Pieces lie", lies, "jig.turned")
        self._fill = form.button(
            "Fill the board",
            lambda: bed_edits.fill_board(session),
            "As many pockets as fit, with room for bleed and guide",
        )
        self._fits = form.words()
        form.button(
            "Centre on the board",
            lambda: session.edit(
                "Centre the grid", lambda j: j.replace(jig=centred_jig(j.jig, j.piece.shape))
            ),
        )
        kept = QPushButton("Kept jigs")
        self.jig_menu = JigMenu(session, kept)
        kept.setMenu(self.jig_menu)
        form.wide(kept)
        form.fold("Name and numbers")
        form.row("Name", TextField(session, "Jig name", *lens("jig.name")))
        self.choice("Numbered", "Numbering", [(n, n.value) for n in Numbering], "jig.numbering")
        self.numbers(
            "Only the first",
            ("Only the first pockets, 0 for all",
             (lambda j: j.jig.first_only or 0, lambda j, v: with_jig(j, first_only=v or None))),
            unit="", digits=0,
        )  # fmt: skip
        self.desk.results.findings_changed.connect(self.refresh)

    def refresh(self) -> None:
        findings, job = self.desk.results.findings, self.session.job
        if job is None:
            return
        self.thing.say(f"{job.jig.columns} × {job.jig.rows}")
        ways = findings.fills if findings else ()
        if ways:
            self._fits.setText("; ".join(f"{way.count} {way.words}" for way in ways))
            self._fill.setText(f"Fill the board with {ways[0].count}")
        else:
            self._fits.setText("Not one piece fits on this board." if findings else "")
            self._fill.setText("Fill the board")


class BoardPart(Part):
    """What the job lies on, datum and board."""

    NAME = "Board and datum"

    def build(self) -> None:
        self.form.row("Lies on", lies_on(self.desk))
        self.choice("Datum", "Datum", [(c, c.value) for c in Corner], "jig.datum.corner")
        self.numbers("Into the bed", ("Datum x", "jig.datum.x"), ("Datum y", "jig.datum.y"))
        self.numbers("Board at", ("Board x", "jig.board.x"), ("Board y", "jig.board.y"))
        self.numbers(
            "Size", ("Board width", "jig.board.width"), ("Board length", "jig.board.height")
        )
        self.form.row(
            "Colour", ColourField(self.session, "Board colour", *lens("jig.board.colour"))
        )
        turned = [(False, "as drawn"), (True, "turned by 180°")]
        self.choice("Loaded", "Board loaded", turned, (lambda j: j.bed_turned, loaded))

    def refresh(self) -> None:
        job = self.session.job
        if job is not None:
            board = job.jig.board
            turned = ", turned" if job.bed_turned else ""
            self.thing.say(f"{sizes(board.width, board.height)}{turned}")


class KeepOutPart(Part):
    """Where no piece may lie."""

    NAME = "Keep-outs"

    def __init__(self, inspector: Inspector, desk: Desk, canvas: BedCanvas) -> None:
        self._canvas = canvas
        self._fields: list[NumberField] = []
        super().__init__(inspector, desk)
        canvas.choice_changed.connect(self._chosen)

    def build(self) -> None:
        form, session = self.form, self.session
        form.button(
            "Add a clamp", lambda: bed_edits.add_keep_out(session, circle=False),
            "A rectangle where no piece may lie; drag it to its place",
        )  # fmt: skip
        form.button(
            "Add a pin", lambda: bed_edits.add_keep_out(session, circle=True),
            "A circle where no piece may lie; drag it to its place",
        )  # fmt: skip
        self._at = form.row("At", self._field("x", "x"), self._field("y", "y"))
        self._box = form.row("Size", self._field("width", "width"), self._field("length", "height"))
        self._round = form.row("Diameter", self._field("diameter", "diameter"))

    def _field(self, words: str, field: str) -> NumberField:
        def get(job: Faced) -> float:
            index = self._canvas.keep_out
            chosen = job.jig.keep_outs[index] if index is not None else None
            return float(getattr(chosen, field, 0.0))

        def put(job: Faced, value: float) -> Faced:
            index = self._canvas.keep_out
            return job if index is None else bed_edits.with_keep_out(job, index, **{field: value})

        made = self.number(f"Keep-out {words}", (get, put))
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
        self.thing.say(str(len(job.jig.keep_outs) or "none"))
        kind = job.jig.keep_outs[index].kind if index is not None else None
        rows: tuple[tuple[QWidget, bool], ...] = (
            (self._at, kind is not None),
            (self._box, kind == "rectangle"),
            (self._round, kind == "circle"),
        )
        for row, shown in rows:
            row.setVisible(shown)
