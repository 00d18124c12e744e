"""The guide: printed, and cut from a sheet."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from farbe.desk.fields import ToggleField
from farbe.desk.stations.part import Part
from farbe.edits.values import lens
from farbe.estimate.swaths import guide_passes
from farbe.layout.guide import guide_ink, jig_code
from farbe.model.jig import GuideStyle, NotchShape, Side
from farbe.model.printer import PROCESS, VARNISH, WHITE
from farbe.said import inside, say, say_count

#: Sides at which pockets have notches, and what they are called.
NOTCHES = [
    ((Side.LEFT, Side.RIGHT), say("left, right")),
    ((Side.NEAR, Side.FAR), say("near, far")),
    ((Side.NEAR,), say("near")),
    (tuple(Side), say("all sides")),
]


class GuidePart(Part):
    """The guide as a print, and as a cutting file."""

    NAME = say("Guide")

    def build(self) -> None:
        styles = [
            (GuideStyle.OUTLINE, say("outlines")),
            (GuideStyle.TICKS, say("corner ticks")),
            (GuideStyle.KERB, say("raised kerb")),
        ]
        self.choice(say("Style"), say("Guide style"), styles, "guide.style")
        self._line = self.numbers(say("Line"), (say("Guide line"), "guide.line_width"), step=0.1)
        self._tick = self.numbers(say("Tick length"), (say("Tick length"), "guide.tick_length"))
        self._kerb = self.form.row(
            say("Width, hits"),
            self.number(say("Kerb width"), "guide.kerb_width", step=0.5),
            self.number(say("Kerb hits"), "guide.kerb_hits", unit="", digits=0),
        )
        self._sides = self.form.row(
            say("Along"),
            ToggleField(
                self.session,
                say("Kerb side"),
                [(s, s.words) for s in Side],
                *lens("guide.kerb_sides"),
            ),
        )
        self._told = self.form.words(
            say("A kerb is a raised line of varnish at a pocket's edge: pieces stop against it.")
        )
        self._gap = self.numbers(say("Finger gap"), (say("Finger gap"), "guide.finger_gap"))
        self.numbers(say("Distance"), (say("Guide distance"), "guide.distance"), step=0.1)
        numbers = [(True, say("and the jig's code")), (False, say("none"))]
        self.choice(say("Numbers"), say("Numbers"), numbers, "guide.numbers")
        inks: list[tuple[str | None, str]] = [(None, say("by the board's colour"))]
        inks += [(ink.name, inside(ink.words)) for ink in (*PROCESS[::-1], WHITE, VARNISH)]
        self._ink = self.choice(say("Ink"), say("Guide ink"), inks, "guide.ink")
        self.choice(
            say("Quality"),
            say("Guide quality"),
            [(True, say("draft")), (False, say("full"))],
            "guide.draft",
        )
        self._words = self.form.words()
        self.form.fold(say("Cut from a sheet"))
        self.form.row(
            say("Clearance, kerf"),
            self.number(say("Clearance"), "cutting.clearance", step=0.1),
            self.number(say("Kerf"), "cutting.kerf", step=0.05),
        )
        self.numbers(
            say("Finger notch"),
            (say("Finger notch"), "cutting.notch"),
            (say("Notch depth, 0 for half its width"), "cutting.notch_depth"),
        )
        self.choice(say("Notches at"), say("Sides with a notch"), NOTCHES, "cutting.notch_sides")
        shapes = [(shape, shape.words) for shape in NotchShape]
        self.choice(say("Notch shape"), say("Notch shape"), shapes, "cutting.notch_shape")
        self.numbers(say("Round tool"), (say("Tool diameter, 0 for none"), "cutting.tool"))
        self.form.button(say("Write the cutting file…"), self.desk.exports.ask_guide)

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
            say_count(
                passes,
                "Printed in {ink}, {count} pass instead of {others}.",
                "Printed in {ink}, {count} passes instead of {others}.",
                ink=inside(guide_ink(job).words),
                others=job.printer.passes,
            )
            if job.guide.draft
            else say(
                "Printed in {ink}, {passes} passes.",
                ink=inside(guide_ink(job).words),
                passes=passes,
            )
        )
