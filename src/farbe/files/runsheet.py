"""The run sheet for the bench: the bed with its numbers, steps, checks, inks, times, as a PDF."""

from __future__ import annotations

import io
from collections.abc import Mapping
from pathlib import Path

import numpy as np
from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas

from farbe.art.artwork import Pixels
from farbe.atomic import whole_file
from farbe.estimate.estimate import Estimate
from farbe.estimate.report import ml_by_ink
from farbe.estimate.steps import steps
from farbe.files.pagepath import path_of
from farbe.files.paper import Paper
from farbe.files.picklist import PickRow, draw_code, draw_picture, draw_words, pick_rows
from farbe.layout.bedframe import keep_out_polygon, to_bed
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal, measure, number
from farbe.layout.frame import printer_frame
from farbe.layout.guide import jig_code
from farbe.layout.laid import places
from farbe.layout.outline import rings
from farbe.layout.shapewords import shape_words
from farbe.plan.sentence import duration, surface_words
from farbe.said import say, spoken
from farbe.separate.outline import PixelRing

MM = 72 / 25.4
#: Standard type of every PDF reader, so that the sheet carries no font.
PLAIN, BOLD = "Helvetica", "Helvetica-Bold"
LEFT = 16 * MM
BED_HIGH = 92 * MM
#: Of a row of the pick list.
PICK_HIGH = 12 * MM


def write_run_sheet(
    job: Faced,
    found: Estimate,
    findings: tuple[tuple[str, str], ...],
    path: Path,
    paper: Paper = Paper.A4,
    *,
    pictures: Mapping[int, Pixels] | None = None,
) -> None:
    """Write what the operator needs beside the printer.

    ``findings`` are what the checks found and is not mended, each its weight and its sentence. A
    job that prints for several orders has a list of whose piece lies where.

    Parameters
    ----------
    job : as one of its faces has it
    found : what the job takes of time, ink and money
    findings : of its checks
    path : of the new PDF
    paper : on which it is printed
    pictures : of what places print, by their own numbers

    Raises
    ------
    BadInput
        If the file cannot be written.
    """
    sheet = _Sheet(job, paper)
    sheet.bed()
    sheet.steps()
    sheet.facts(found)
    sheet.findings(findings)
    sheet.picks(pick_rows(job), pictures or {})
    with whole_file(path) as file:
        file.write(sheet.finished())


class _Sheet:
    """Pages that are filled from the top."""

    def __init__(self, job: Faced, paper: Paper) -> None:
        self._job, self._out = job, io.BytesIO()
        self._paper = paper.points
        self._wide = self._paper[0] - 2 * LEFT
        self._page = Canvas(self._out, pagesize=self._paper, invariant=True)
        self._page.setTitle(say("Run sheet: {job}", job=job.name))
        self._y = self._paper[1] - 20 * MM
        self._line(job.name, font=BOLD, size=16, down=7)
        self._line(
            say(
                "{piece}, {shape}, {surface}; {printer}; jig {jig}, code {jig_code}",
                piece=spoken(job.piece.name),
                shape=shape_words(job.piece),
                surface=surface_words(job.piece),
                printer=spoken(job.printer.name),
                jig=job.jig.name,
                jig_code=jig_code(job),
            ),
            down=7,
        )

    def finished(self) -> bytes:
        self._page.save()
        return self._out.getvalue()

    def _line(self, text: str, *, font: str = PLAIN, size: float = 9.5, down: float = 5) -> None:
        self._room(down)
        self._page.setFont(font, size)
        for part in simpleSplit(text, font, size, self._wide):
            self._page.drawString(LEFT, self._y, part)
            self._y -= down * MM

    def _room(self, mm: float) -> None:
        """Begin another page where this one is full."""
        if self._y < 18 * MM + mm * MM:
            self._page.showPage()
            self._y = self._paper[1] - 20 * MM

    def bed(self) -> None:
        """The bed in plan with the pockets' numbers, near side down."""
        job, page = self._job, self._page
        frame = printer_frame(job)
        scale = min(self._wide / frame.width, BED_HIGH / frame.height)
        high = frame.height * scale
        self._y -= high
        page.saveState()
        page.translate(LEFT, self._y)
        page.scale(scale, scale)
        page.setLineWidth(0.4 / scale)
        page.rect(0, 0, frame.width, frame.height)
        base = carrier_of(job).base(job)
        page.setDash(2 / scale, 2 / scale)
        page.rect(base.x, base.y, base.width, base.height)
        page.setDash()
        if carrier_of(job).has_guide:
            self._keep_outs()
        for piece in places(job):
            size = max(2.4, min(piece.size) * 0.28)
            self._pocket(rings(piece.outline), piece.x, piece.y, on=piece.on)
            if piece.on:
                page.setFont(BOLD, size)
                page.drawCentredString(piece.x, piece.y - size * 0.35, str(piece.shown))
        page.restoreState()
        self._y -= 6 * MM
        turned = say("; the board is loaded turned by half a turn") if job.bed_turned else ""
        what = carrier_of(job).thing
        self._line(
            say("The near side of the {what} is down{turned}.", what=what, turned=turned), down=7
        )

    def _keep_outs(self) -> None:
        job, page = self._job, self._page
        page.setFillGray(0.8)
        for one in job.jig.keep_outs:
            lines = tuple(
                np.array([to_bed(job.jig.datum, job.printer, x, y) for x, y in ring])
                for ring in rings(keep_out_polygon(one))
            )
            area = path_of(page, lines, 0, 0)
            page.drawPath(area, stroke=0, fill=1)
        page.setFillGray(0)

    def _pocket(self, piece: tuple[PixelRing, ...], x: float, y: float, *, on: bool) -> None:
        page = self._page
        page.setStrokeGray(0 if on else 0.75)
        page.drawPath(path_of(page, piece, x, y), stroke=1, fill=0)
        page.setStrokeGray(0)

    def steps(self) -> None:
        """What happens, in time order, each with a box to tick."""
        self._line(say("Steps"), font=BOLD, size=11, down=5.5)
        total = 0.0
        for place, step in enumerate(steps(self._job), start=1):
            self._room(6)
            total += step.seconds
            self._page.rect(LEFT, self._y - 0.6 * MM, 3.2 * MM, 3.2 * MM)
            self._page.setFont(PLAIN, 9.5)
            self._page.drawString(LEFT + 6 * MM, self._y, f"{place}. {step.text}: {step.detail}")
            self._page.drawRightString(LEFT + self._wide, self._y, duration(step.seconds))
            self._y -= 5.4 * MM
        self._page.setFont(BOLD, 9.5)
        self._page.drawRightString(
            LEFT + self._wide, self._y, say("together {total}", total=duration(total))
        )
        self._y -= 8 * MM

    def facts(self, found: Estimate) -> None:
        """How the printer is set, and what ink it takes."""
        job, printer = self._job, self._job.printer
        mode = say("mode {mode}, ", mode=printer.mode.name) if printer.mode else ""
        ways = say("both ways") if printer.both_ways else say("one way")
        self._line(say("Printer"), font=BOLD, size=11, down=5.5)
        self._line(
            say(
                "{mode}{dpi_x} x {dpi_y} dpi, {passes} passes, {ways}, {throw} throw; head "
                "over {height}; bed vacuum {vacuum}",
                mode=mode,
                dpi_x=number(printer.dpi_x),
                dpi_y=number(printer.dpi_y),
                passes=printer.passes,
                ways=ways,
                throw=printer.throw.words,
                height=measure(job.piece.height),
                vacuum=say("on") if job.running.vacuum else say("off"),
            )
        )
        inks = ", ".join(f"{ink} {decimal(ml, 2)} ml" for ink, ml in ml_by_ink(job, found).items())
        self._line(say("Ink: {inks}", inks=inks), down=5)
        self._y -= 3 * MM

    def findings(self, told: tuple[tuple[str, str], ...]) -> None:
        """What was found on the job and is not mended."""
        self._line(say("Checks"), font=BOLD, size=11, down=5.5)
        if not told:
            self._line(say("No stop and no caution."))
        for weight, text in told:
            self._line(f"{weight}: {text}")

    def picks(self, rows: tuple[PickRow, ...], pictures: Mapping[int, Pixels]) -> None:
        """Which place holds which order's piece, each with a box to tick."""
        if not rows:
            return
        page, side = self._page, PICK_HIGH - 1.5 * MM
        self._y -= 3 * MM
        self._line(say("Pick list"), font=BOLD, size=11, down=PICK_HIGH / MM)
        for row in rows:
            self._room(PICK_HIGH / MM)
            y = self._y
            page.rect(LEFT, y + side / 2 - 1.6 * MM, 3.2 * MM, 3.2 * MM)
            page.setFont(BOLD, 12)
            page.drawRightString(LEFT + 14 * MM, y + side / 2 - 4, str(row.number))
            if row.place in pictures:
                draw_picture(page, LEFT + 17 * MM, y, side, pictures[row.place])
            left = LEFT + 20 * MM + side
            draw_words(page, left, y + side / 2 - 4, row.order, 11, font=BOLD, wide=34 * MM)
            told = "; ".join(words for words in (row.words, row.note) if words)
            draw_words(page, left + 37 * MM, y + side / 2 - 4, told, 9.5,
                       wide=self._wide - (left - LEFT) - 37 * MM - side - 3 * MM)  # fmt: skip
            draw_code(page, LEFT + self._wide - side, y, side, row.order)
            self._y -= PICK_HIGH
