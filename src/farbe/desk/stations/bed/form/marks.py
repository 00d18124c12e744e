"""Trim marks, frame line and label."""

from __future__ import annotations

from farbe.desk.fields import TextField
from farbe.desk.stations.part import Part
from farbe.edits.values import lens


class MarksPart(Part):
    """What is printed beside the artwork, in black alone."""

    NAME = "Marks and label"

    def build(self) -> None:
        yes = [(False, "none"), (True, "printed")]
        self.choice("Trim marks", "Trim marks", yes, "marks.trim")
        self._trim = self.form.row(
            "Long, off by",
            self.number("Trim mark length", "marks.length", step=0.5),
            self.number("Trim mark distance", "marks.distance", step=0.5),
        )
        self.choice("Frame line", "Frame line", yes, "marks.frame")
        self._line = self.numbers("Line", ("Mark line", "marks.line"), step=0.05)
        label = TextField(self.session, "Job label", *lens("marks.label"))
        label.setToolTip("{job}, {date} and {code} stand for the job, the day and the jig's code")
        label.setPlaceholderText("{job} {date} {code}")
        self.form.row("Label", label)
        self._high = self.numbers("Capitals", ("Label height", "marks.label_height"), step=0.2)
        self._qr = self.choice("QR code", "QR code", yes, "marks.qr")
        self.form.words("Printed in black alone: never any white under them.")

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        marks = job.marks
        named = [(marks.trim, "trim"), (marks.frame, "frame"), (bool(marks.label), "label")]
        self.thing.say(", ".join(word for there, word in named if there) or "none")
        self._trim.setVisible(marks.trim)
        self._line.setVisible(marks.trim or marks.frame)
        for row in (self._high, self._qr):
            row.setVisible(bool(marks.label))
