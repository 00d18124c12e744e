"""The figures of a round body."""

from __future__ import annotations

import math

from PySide6.QtWidgets import QLabel, QWidget

from farbe.desk.fields import ChoiceField, NumberField
from farbe.desk.form import Form
from farbe.desk.session import Session
from farbe.edits.body import body_of, with_body
from farbe.layout.figures import measure
from farbe.model.piece import Unrolled
from farbe.said import say


class BodyRows:
    """Rows that only round bodies show."""

    def __init__(self, form: Form, session: Session) -> None:
        self._session = session

        def figure(name: str, field: str, *, step: float = 1.0) -> NumberField:
            return NumberField(
                session, name, lambda j: getattr(body_of(j), field, 0.0) or 0.0,
                lambda j, v: with_body(j, **{field: v}), step=step,
            )  # fmt: skip

        far = NumberField(
            session, say("Far diameter"), lambda j: getattr(body_of(j), "far_diameter", 0.0),
            lambda j, v: with_body(j, end_diameter=v),
        )  # fmt: skip
        length = NumberField(
            session, say("Body length"), lambda j: getattr(body_of(j), "whole", 0.0),
            lambda j, v: with_body(j, length=v),
        )  # fmt: skip
        ways = [(way, way.words) for way in Unrolled]
        lays = [(True, say("around with the rim")), (False, say("flat, like a label"))]
        self._follow = form.row(
            say("Lines run"),
            ChoiceField(
                session, say("Lines of the artwork run"), lays,
                lambda j: getattr(body_of(j), "follows", True),
                lambda j, v: with_body(j, follows=v),
            ),
        )  # fmt: skip
        self._rows: list[QWidget] = [
            form.row(say("Near, far end"), figure(say("Near diameter"), "diameter"), far),
            form.row(
                say("Zone, base"),
                figure(say("Printed zone"), "zone"),
                figure(say("Base to print"), "base"),
            ),
            form.row(say("Whole length"), length),
            form.row(
                say("Seam, handle"),
                figure(say("Seam"), "seam", step=0.1),
                figure(say("Handle"), "free"),
            ),
            form.row(
                say("Printing"),
                ChoiceField(
                    session,
                    say("Printed how"),
                    ways,
                    lambda j: getattr(body_of(j), "unrolled", Unrolled.ROLLERS),
                    lambda j, v: with_body(j, unrolled=v),
                ),
            ),
            self._follow,
        ]
        self._lift = form.row(say("Rollers lift"), figure(say("Rollers lift"), "lift"))
        self._words: QLabel = form.words()

    def refresh(self) -> None:
        job = self._session.job
        body = body_of(job) if job is not None else None
        for row in (*self._rows, self._lift, self._words):
            row.setVisible(body is not None)
        if body is None:
            return
        self._follow.setVisible(body.slope != 0.0)
        self._lift.setVisible(body.unrolled is Unrolled.ROLLERS)
        over = (
            say("its ends overlap")
            if body.seam < 0
            else say("a seam of {seam}", seam=measure(body.seam))
        )
        head = (
            say(" The head passes {height} over the bed.", height=measure(body.head_height))
            if body.unrolled is Unrolled.ROLLERS
            else ""
        )
        self._words.setText(
            say(
                "Circumference {circumference} half way up; the print is {wrap} wide and goes "
                "{degrees}° around, {over}.",
                circumference=measure(body.circumference),
                wrap=measure(body.wrap),
                degrees=f"{math.degrees(body.wrap_angle):.0f}",
                over=over,
            )
            + head
        )
