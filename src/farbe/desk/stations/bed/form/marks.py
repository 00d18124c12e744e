"""Trim marks, frame line and label."""

from __future__ import annotations

from farbe.desk.fields import TextField
from farbe.desk.stations.part import Part
from farbe.edits.values import lens
from farbe.said import say


class MarksPart(Part):
    """What is printed beside the artwork, in black alone."""

    NAME = say("Marks and label")

    def build(self) -> None:
        yes = [(False, say("none")), (True, say("printed"))]
        self.choice(say("Trim marks"), say("Trim marks"), yes, "marks.trim")
        self._trim = self.form.row(
            say("Long, off by"),
            self.number(say("Trim mark length"), "marks.length", step=0.5),
            self.number(say("Trim mark distance"), "marks.distance", step=0.5),
        )
        self.choice(say("Frame line"), say("Frame line"), yes, "marks.frame")
        self._line = self.numbers(say("Line"), (say("Mark line"), "marks.line"), step=0.05)
        label = TextField(self.session, say("Job label"), *lens("marks.label"))
        label.setToolTip(
            say("{job}, {date} and {code} stand for the job, the day and the jig's code")
        )
        label.setPlaceholderText("{job} {date} {code}")
        self.form.row(say("Label"), label)
        self._high = self.numbers(
            say("Capitals"), (say("Label height"), "marks.label_height"), step=0.2
        )
        self._qr = self.choice(say("QR code"), say("QR code"), yes, "marks.qr")
        self.choice(say("Control strip"), say("Control strip"), yes, "marks.strip")
        self._saving = self.form.button(
            say("Save what is sent to the strip…"), self.desk.exports.ask_strip,
            say("Later readings of the strip are compared with this file"),
        )  # fmt: skip
        self.form.words(say("Marks and label are black alone: never any white under them."))

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        marks = job.marks
        named = [
            (marks.trim, say("trim")),
            (marks.frame, say("frame")),
            (bool(marks.label), say("label")),
            (marks.strip, say("strip")),
        ]
        self.thing.say(", ".join(word for there, word in named if there) or say("none"))
        self._trim.setVisible(marks.trim)
        self._line.setVisible(marks.trim or marks.frame)
        self._saving.setVisible(marks.strip)
        for row in (self._high, self._qr):
            row.setVisible(bool(marks.label))
