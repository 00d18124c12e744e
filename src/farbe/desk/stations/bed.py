"""Bed: where the pieces lie, and what shows the places."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QPushButton, QWidget

from farbe.desk.fields import ChoiceField, ColourField, Form, NumberField, TextField
from farbe.desk.stations import bededits
from farbe.desk.stations.base import (
    Desk,
    StationView,
    scrolled,
    with_artwork,
    with_board,
    with_guide,
    with_jig,
)
from farbe.desk.stations.bedcanvas import BedCanvas
from farbe.desk.stations.jigmenu import JigMenu
from farbe.desk.stations.nineplaces import NinePlaces
from farbe.desk.stations.tray import Tray
from farbe.files.cutting import write_cutting_file
from farbe.layout.guide import guide_ink, jig_code
from farbe.layout.placing import artwork_box
from farbe.layout.pockets import centred_jig
from farbe.model.jig import Corner, GuideStyle, Numbering, Pattern
from farbe.model.job import Job
from farbe.model.placing import Fit
from farbe.plan.sentence import number


def _aspect(job: Job) -> float:
    """Height by width of the artwork."""
    return job.artwork.height / job.artwork.width if job.artwork else 1.0


def _with_datum(job: Job, **fields: object) -> Job:
    return with_jig(job, datum=job.jig.datum.replace(**fields))


def _with_placing(job: Job, **fields: object) -> Job:
    return job.replace(placing=job.placing.replace(**fields))


def _with_cutting(job: Job, **fields: object) -> Job:
    return job.replace(cutting=job.cutting.replace(**fields))


class BedForm(Form):
    """Pocket, grid, artwork, board and datum, keep-outs, guide, cutting file."""

    def __init__(self, desk: Desk, canvas: BedCanvas) -> None:
        super().__init__()
        self._desk, self._canvas, self._session = desk, canvas, desk.session
        self._keep_out_fields: list[NumberField] = []
        self._pocket()
        self._grid()
        self._artwork()
        self._board()
        self._keep_outs()
        self._guide()
        self._cutting()
        desk.session.changed.connect(self.refresh)
        desk.results.findings_changed.connect(self._refresh_fill)
        canvas.choice_changed.connect(self._choice_changed)
        self.refresh()

    def _button(self, words: str, run: object, tip: str = "") -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.clicked.connect(lambda: run())  # type: ignore[operator]
        self.wide(button)
        return button

    def _number(self, name: str, get: object, set_: object, **more: object) -> NumberField:
        return NumberField(self._session, name, get, set_, **more)  # type: ignore[arg-type]

    def _pocket(self) -> None:
        self._title, self._place = self.title("Pocket 1")
        self._switch = self._button(
            "Switch off",
            lambda: bededits.switch_pockets(
                self._session, self._canvas.banded or {self._canvas.chosen}
            ),
            "Switch the chosen pockets off or on (X); drag over the board to choose several",
        )

    def _grid(self) -> None:
        session = self._session
        self.head("Jig")
        self.row(
            "Name",
            TextField(session, "Jig name", lambda j: j.jig.name,
                      lambda j, v: with_jig(j, name=v)),
        )  # fmt: skip
        kept = QPushButton("Kept jigs")
        self.jig_menu = JigMenu(session, kept)
        kept.setMenu(self.jig_menu)
        self.wide(kept)
        self._count = self.head("Grid")
        patterns = [
            (Pattern.SQUARE, "rows in line"),
            (Pattern.STAGGERED, "rows shifted by half"),
        ]
        self.row(
            "Pattern",
            ChoiceField(session, "Pattern", patterns, lambda j: j.jig.pattern,
                        lambda j, v: with_jig(j, pattern=v)),
        )  # fmt: skip
        self.row(
            "Columns, rows",
            self._number("Columns", lambda j: j.jig.columns, lambda j, v: with_jig(j, columns=v),
                         unit="", digits=0),
            self._number("Rows", lambda j: j.jig.rows, lambda j, v: with_jig(j, rows=v),
                         unit="", digits=0),
        )  # fmt: skip
        self.row(
            "Gap",
            self._number("Gap across", lambda j: j.jig.gap_x, lambda j, v: with_jig(j, gap_x=v)),
            self._number("Gap along", lambda j: j.jig.gap_y, lambda j, v: with_jig(j, gap_y=v)),
        )
        self.row(
            "First pocket",
            self._number("First pocket x", lambda j: j.jig.first_x,
                         lambda j, v: with_jig(j, first_x=v)),
            self._number("First pocket y", lambda j: j.jig.first_y,
                         lambda j, v: with_jig(j, first_y=v)),
        )  # fmt: skip
        self.row(
            "Pieces lie",
            ChoiceField(session, "Pieces lie", [(False, "upright"), (True, "turned by 90°")],
                        lambda j: j.jig.turned, lambda j, v: with_jig(j, turned=v)),
        )  # fmt: skip
        self.row(
            "Numbered",
            ChoiceField(session, "Numbering", [(n, n.value) for n in Numbering],
                        lambda j: j.jig.numbering, lambda j, v: with_jig(j, numbering=v)),
        )  # fmt: skip
        self.row(
            "Only the first",
            self._number("Only the first pockets, 0 for all", lambda j: j.jig.first_only or 0,
                         lambda j, v: with_jig(j, first_only=v or None), unit="", digits=0),
        )  # fmt: skip
        self._fill = self._button(
            "Fill the board",
            lambda: bededits.fill_board(session),
            "As many pockets as fit, with room for bleed and guide",
        )
        self._fits = self.words()
        self._button(
            "Centre on the board",
            lambda: session.edit(
                "Centre the grid", lambda j: j.replace(jig=centred_jig(j.jig, j.piece.shape))
            ),
        )

    def _artwork(self) -> None:
        session = self._session
        self._art_size = self.head("Artwork on the piece")
        fits = [(Fit.ACTUAL, "its own"), (Fit.FIT, "as large as fits"), (Fit.FILL, "fills it")]
        self.row(
            "Size",
            ChoiceField(session, "Artwork fit", fits, lambda j: j.placing.fit,
                        lambda j, v: _with_placing(j, fit=v)),
        )  # fmt: skip
        self._size_row = self.row(
            "Width, height",
            self._number("Artwork width", lambda j: j.artwork.width if j.artwork else 0,
                         lambda j, v: with_artwork(j, 0, width=v, height=v * _aspect(j))),
            self._number("Artwork height", lambda j: j.artwork.height if j.artwork else 0,
                         lambda j, v: with_artwork(j, 0, height=v, width=v / _aspect(j))),
        )  # fmt: skip
        self.row("Aligned", NinePlaces(session))
        self.row(
            "Moved by",
            self._number("Artwork right", lambda j: j.placing.offset_x,
                         lambda j, v: _with_placing(j, offset_x=v), step=0.1),
            self._number("Artwork up", lambda j: j.placing.offset_y,
                         lambda j, v: _with_placing(j, offset_y=v), step=0.1),
        )  # fmt: skip
        self.row(
            "Turned by",
            self._number("Artwork turned", lambda j: j.placing.rotation,
                         lambda j, v: _with_placing(j, rotation=v), unit="°", step=5),
        )  # fmt: skip
        self.row(
            "Shown",
            ChoiceField(session, "Artwork mirrored", [(False, "as it is"), (True, "mirrored")],
                        lambda j: j.placing.mirror, lambda j, v: _with_placing(j, mirror=v)),
        )  # fmt: skip
        self.row(
            "Margin, bleed",
            self._number("Printable margin", lambda j: j.placing.margin,
                         lambda j, v: _with_placing(j, margin=v), step=0.5),
            self._number("Bleed", lambda j: j.bleed, lambda j, v: j.replace(bleed=v), step=0.5),
        )  # fmt: skip

    def _board(self) -> None:
        session = self._session
        self.head("Board and datum")
        self.row(
            "Datum",
            ChoiceField(session, "Datum", [(c, c.value) for c in Corner],
                        lambda j: j.jig.datum.corner, lambda j, v: _with_datum(j, corner=v)),
        )  # fmt: skip
        self.row(
            "Into the bed",
            self._number("Datum x", lambda j: j.jig.datum.x, lambda j, v: _with_datum(j, x=v)),
            self._number("Datum y", lambda j: j.jig.datum.y, lambda j, v: _with_datum(j, y=v)),
        )
        self.row(
            "Board at",
            self._number("Board x", lambda j: j.jig.board.x, lambda j, v: with_board(j, x=v)),
            self._number("Board y", lambda j: j.jig.board.y, lambda j, v: with_board(j, y=v)),
        )
        self.row(
            "Size",
            self._number("Board width", lambda j: j.jig.board.width,
                         lambda j, v: with_board(j, width=v)),
            self._number("Board length", lambda j: j.jig.board.height,
                         lambda j, v: with_board(j, height=v)),
        )  # fmt: skip
        self.row(
            "Colour",
            ColourField(session, "Board colour", lambda j: j.jig.board.colour,
                        lambda j, v: with_board(j, colour=v)),
        )  # fmt: skip
        self.row(
            "Loaded",
            ChoiceField(session, "Board loaded", [(False, "as drawn"), (True, "turned by 180°")],
                        lambda j: j.bed_turned, lambda j, v: j.replace(bed_turned=v)),
        )  # fmt: skip

    def _keep_outs(self) -> None:
        self._keep_out_head = self.head("Keep-outs")
        self._button(
            "Add a clamp", lambda: bededits.add_keep_out(self._session, circle=False),
            "A rectangle where no piece may lie; drag it to its place",
        )  # fmt: skip
        self._button(
            "Add a pin", lambda: bededits.add_keep_out(self._session, circle=True),
            "A circle where no piece may lie; drag it to its place",
        )  # fmt: skip
        self._keep_out_row = self.row(
            "At", self._keep_out_number("Keep-out x", "x"), self._keep_out_number("Keep-out y", "y")
        )
        self._box_row = self.row(
            "Size",
            self._keep_out_number("Keep-out width", "width"),
            self._keep_out_number("Keep-out length", "height"),
        )
        self._round_row = self.row(
            "Diameter", self._keep_out_number("Keep-out diameter", "diameter")
        )

    def _keep_out_number(self, name: str, field: str) -> NumberField:
        def get(job: Job) -> float:
            index = self._canvas.keep_out
            chosen = job.jig.keep_outs[index] if index is not None else None
            return float(getattr(chosen, field, 0.0))

        def set_(job: Job, value: float) -> Job:
            index = self._canvas.keep_out
            return job if index is None else bededits.with_keep_out(job, index, **{field: value})

        made = self._number(name, get, set_)
        self._keep_out_fields.append(made)
        return made

    def _guide(self) -> None:
        session = self._session
        self._code = self.head("Guide, printed")
        styles = [
            (GuideStyle.OUTLINE, "outlines"),
            (GuideStyle.TICKS, "corner ticks"),
            (GuideStyle.KERB, "raised kerb"),
        ]
        self.row(
            "Style",
            ChoiceField(session, "Guide style", styles, lambda j: j.guide.style,
                        lambda j, v: with_guide(j, style=v)),
        )  # fmt: skip
        self._line_row = self.row(
            "Line",
            self._number("Guide line", lambda j: j.guide.line_width,
                         lambda j, v: with_guide(j, line_width=v), step=0.1),
        )  # fmt: skip
        self._tick_row = self.row(
            "Tick length",
            self._number("Tick length", lambda j: j.guide.tick_length,
                         lambda j, v: with_guide(j, tick_length=v)),
        )  # fmt: skip
        self._kerb_row = self.row(
            "Width, hits",
            self._number("Kerb width", lambda j: j.guide.kerb_width,
                         lambda j, v: with_guide(j, kerb_width=v), step=0.5),
            self._number("Kerb hits", lambda j: j.guide.kerb_hits,
                         lambda j, v: with_guide(j, kerb_hits=v), unit="", digits=0),
        )  # fmt: skip
        self._gap_row = self.row(
            "Finger gap",
            self._number("Finger gap", lambda j: j.guide.finger_gap,
                         lambda j, v: with_guide(j, finger_gap=v)),
        )  # fmt: skip
        self.row(
            "Distance",
            self._number("Guide distance", lambda j: j.guide.distance,
                         lambda j, v: with_guide(j, distance=v), step=0.1),
        )  # fmt: skip
        self.row(
            "Numbers",
            ChoiceField(session, "Numbers", [(True, "and the jig's code"), (False, "none")],
                        lambda j: j.guide.numbers, lambda j, v: with_guide(j, numbers=v)),
        )  # fmt: skip
        inks = [(None, "by the board's colour"), ("Black", "black"), ("White", "white")]
        self._ink_row = self.row(
            "Ink",
            ChoiceField(session, "Guide ink", inks, lambda j: j.guide.ink,
                        lambda j, v: with_guide(j, ink=v)),
        )  # fmt: skip
        self._guide_words = self.words()

    def _cutting(self) -> None:
        self.head("Guide, cut from a sheet")
        self.row(
            "Clearance, kerf",
            self._number("Clearance", lambda j: j.cutting.clearance,
                         lambda j, v: _with_cutting(j, clearance=v), step=0.1),
            self._number("Kerf", lambda j: j.cutting.kerf,
                         lambda j, v: _with_cutting(j, kerf=v), step=0.05),
        )  # fmt: skip
        self.row(
            "Finger notch",
            self._number("Finger notch", lambda j: j.cutting.notch,
                         lambda j, v: _with_cutting(j, notch=v)),
        )  # fmt: skip
        self._button("Write the cutting file…", self._write_cutting)

    def _write_cutting(self) -> None:
        job = self._session.job
        name, _ = QFileDialog.getSaveFileName(
            self, "Cutting file", "jig.svg", "Cutting files (*.svg *.pdf *.dxf)"
        )
        if job is not None and name:
            self._desk.workers.start(
                "cutting",
                lambda _: write_cutting_file(job, Path(name)),
                lambda _: self._session.said.emit(f"The cutting file is {name}."),
                title="Writing the cutting file",
            )

    def _choice_changed(self) -> None:
        for field in self._keep_out_fields:
            field.refresh()
        self.refresh()

    def refresh(self) -> None:
        """Show what follows from the job and from what is chosen."""
        job, canvas = self._session.job, self._canvas
        if job is None:
            return
        found = canvas.pockets
        on = sum(p.on for p in found)
        self._count.setText(f"{on} of {len(found)} on")
        if found:
            pocket = found[max(0, min(canvas.chosen, len(found)) - 1)]
            self._title.setText(f"Pocket {pocket.number}")
            self._place.setText(
                f"row {pocket.row + 1}, place {pocket.column + 1};"
                f" centre {number(pocket.x)}, {number(pocket.y)} mm"
            )
            self._switch.setText("Switch off" if pocket.on else "Switch on")
            if canvas.banded:
                self._title.setText(f"{len(canvas.banded)} pockets")
                self._place.setText("chosen with a rubber band")
                on_any = any(p.on for p in found if p.number in canvas.banded)
                self._switch.setText("Switch off" if on_any else "Switch on")
        self._refresh_fill()
        lies = artwork_box(job)
        size = f"{number(lies.width)} × {number(lies.height)} mm" if lies else "none yet"
        self._art_size.setText(size)
        self._size_row.setVisible(job.placing.fit is Fit.ACTUAL)
        keep_out = job.jig.keep_outs[canvas.keep_out] if canvas.keep_out is not None else None
        self._keep_out_head.setText(f"{len(job.jig.keep_outs)}")
        rows: tuple[tuple[QWidget, bool], ...] = (
            (self._keep_out_row, keep_out is not None),
            (self._box_row, keep_out is not None and keep_out.kind == "rectangle"),
            (self._round_row, keep_out is not None and keep_out.kind == "circle"),
            (self._line_row, job.guide.style is not GuideStyle.KERB),
            (self._tick_row, job.guide.style is GuideStyle.TICKS),
            (self._kerb_row, job.guide.style is GuideStyle.KERB),
            (self._gap_row, job.guide.style is GuideStyle.KERB),
            (self._ink_row, job.guide.style is not GuideStyle.KERB),
        )
        for row, shown in rows:
            row.setVisible(shown)
        self._code.setText(jig_code(job))
        self._guide_words.setText(f"Printed in {guide_ink(job).name.lower()}, in draft.")

    def _refresh_fill(self) -> None:
        findings = self._desk.results.findings
        ways = findings.fills if findings else ()
        if ways:
            self._fits.setText("; ".join(f"{way.count} {way.words}" for way in ways))
            self._fill.setText(f"Fill the board with {ways[0].count}")
        else:
            self._fits.setText("Not one piece fits on this board." if findings else "")
            self._fill.setText("Fill the board")


def bed_station(desk: Desk) -> StationView:
    """The station's picture, inspector and tray."""
    canvas = BedCanvas(desk)
    return StationView(canvas, scrolled(BedForm(desk, canvas)), Tray(desk))
