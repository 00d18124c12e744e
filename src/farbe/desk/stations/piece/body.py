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
            session, "Far diameter", lambda j: getattr(body_of(j), "far_diameter", 0.0),
            lambda j, v: with_body(j, end_diameter=v),
        )  # fmt: skip
        ways = [(way, way.value) for way in Unrolled]
        lays = [(True, "around with the rim"), (False, "flat, like a label")]
        self._follow = form.row(
            "Lines run",
            ChoiceField(
                session, "Lines of the artwork run", lays,
                lambda j: getattr(body_of(j), "follows", True),
                lambda j, v: with_body(j, follows=v),
            ),
        )  # fmt: skip
        self._rows: list[QWidget] = [
            form.row("Near, far end", figure("Near diameter", "diameter"), far),
            form.row("Printed zone", figure("Printed zone", "zone")),
            form.row("Seam, handle", figure("Seam", "seam", step=0.1), figure("Handle", "free")),
            form.row(
                "Printed",
                ChoiceField(
                    session, "Printed how", ways,
                    lambda j: getattr(body_of(j), "unrolled", Unrolled.ROLLERS),
                    lambda j, v: with_body(j, unrolled=v),
                ),
            ),
            self._follow,
        ]  # fmt: skip
        self._words: QLabel = form.words()

    def refresh(self) -> None:
        job = self._session.job
        body = body_of(job) if job is not None else None
        for row in (*self._rows, self._words):
            row.setVisible(body is not None)
        if body is None:
            return
        self._follow.setVisible(body.slope != 0.0)
        over = "its ends overlap" if body.seam < 0 else f"a seam of {measure(body.seam)}"
        self._words.setText(
            f"Circumference {measure(body.circumference)} half way up; the print is"
            f" {measure(body.wrap)} wide and goes {math.degrees(body.wrap_angle):.0f}° around,"
            f" {over}."
        )
