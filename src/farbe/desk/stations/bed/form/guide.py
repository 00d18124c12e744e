"""The guide: printed, and cut from a sheet."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from farbe.desk.fields import ToggleField
from farbe.desk.stations.part import Part
from farbe.edits.values import lens
from farbe.estimate.swaths import guide_passes
from farbe.layout.guide import guide_ink, jig_code
from farbe.model.jig import GuideStyle, Side
from farbe.model.printer import PROCESS, VARNISH, WHITE


class GuidePart(Part):
    """The guide as a print, and as a cutting file."""

    NAME = "Guide"

    def build(self) -> None:
        styles = [
            (GuideStyle.OUTLINE, "outlines"),
            (GuideStyle.TICKS, "corner ticks"),
            (GuideStyle.KERB, "raised kerb"),
        ]
        self.choice("Style", "Guide style", styles, "guide.style")
        self._line = self.numbers("Line", ("Guide line", "guide.line_width"), step=0.1)
        self._tick = self.numbers("Tick length", ("Tick length", "guide.tick_length"))
        self._kerb = self.form.row(
            "Width, hits",
            self.number("Kerb width", "guide.kerb_width", step=0.5),
            self.number("Kerb hits", "guide.kerb_hits", unit="", digits=0),
        )
        self._sides = self.form.row(
            "Along",
            ToggleField(
                self.session, "Kerb side", [(s, s.value) for s in Side], *lens("guide.kerb_sides")
            ),
        )
        self._told = self.form.words(
            "A kerb is a raised line of varnish at a pocket's edge: pieces stop against it."
        )
        self._gap = self.numbers("Finger gap", ("Finger gap", "guide.finger_gap"))
        self.numbers("Distance", ("Guide distance", "guide.distance"), step=0.1)
        numbers = [(True, "and the jig's code"), (False, "none")]
        self.choice("Numbers", "Numbers", numbers, "guide.numbers")
        inks: list[tuple[str | None, str]] = [(None, "by the board's colour")]
        inks += [(ink.name, ink.name.lower()) for ink in (*PROCESS[::-1], WHITE, VARNISH)]
        self._ink = self.choice("Ink", "Guide ink", inks, "guide.ink")
        self.choice("Quality", "Guide quality", [(True, "draft"), (False, "full")], "guide.draft")
        self._words = self.form.words()
        self.form.fold("Cut from a sheet")
        self.form.row(
            "Clearance, kerf",
            self.number("Clearance", "cutting.clearance", step=0.1),
            self.number("Kerf", "cutting.kerf", step=0.05),
        )
        self.numbers("Finger notch", ("Finger notch", "cutting.notch"))
        self.form.button("Write the cutting file…", self.desk.exports.ask_guide)

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        kerb = job.guide.style is GuideStyle.KERB
        rows: tuple[tuple[QWidget, bool], ...] = (
            (self._line, not kerb),
            (self._tick, job.guide.style is GuideStyle.TICKS),
            (self._kerb, kerb),
            (self._sides, kerb),
            (self._gap, kerb),
            (self._told, kerb),
            (self._ink, not kerb),
        )
        for row, shown in rows:
            row.setVisible(shown)
        self.thing.say(jig_code(job))
        passes = guide_passes(job)
        self._words.setText(
            f"Printed in {guide_ink(job).name.lower()}, {passes}"
            f" {'pass' if passes == 1 else 'passes'} instead of {job.printer.passes}."
            if job.guide.draft
            else f"Printed in {guide_ink(job).name.lower()}, {passes} passes."
        )
