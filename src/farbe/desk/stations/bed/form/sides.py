"""One side or both, and how the pieces are turned."""

from __future__ import annotations

from farbe.desk.stations.part import Part
from farbe.edits.bed import both_sides, with_turning
from farbe.layout.faced import Faced
from farbe.layout.sides import needs_own_guide
from farbe.model.face import Turn
from farbe.said import say


class SidesPart(Part):
    """Whether there is another side, how it comes up, and which one is worked on."""

    NAME = say("Sides")

    def build(self) -> None:
        sides = [(False, say("one side")), (True, say("both sides"))]
        self.choice(
            say("Printed on"), say("Printed on"), sides, (lambda j: j.two_sided, both_sides)
        )
        what = [(False, say("each in its pocket")), (True, say("the whole board"))]
        self._what = self.choice(
            say("Turned over"), say("Turned over"), what, self._turning("board")
        )
        ways = [(t, t.words) for t in Turn]
        self._way = self.choice(
            say("Which way"), say("Turned which way"), ways, self._turning("turn")
        )
        self._look = self.form.button(
            say("Work on the other side"),
            self.switch,
            say("Look at and edit the other side (Ctrl+B)"),
        )
        self._words = self.form.words()

    @staticmethod
    def _turning(field: str) -> tuple:  # type: ignore[type-arg]
        def get(job: Faced) -> object:
            return getattr(job.turning, field, None)

        def put(job: Faced, value: object) -> Faced:
            return with_turning(job, **{field: value})

        return get, put

    def switch(self) -> None:
        """Work on the side that is not shown."""
        self.session.look_at(other_side=not self.session.other_side)

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        turning = job.turning
        both = turning is not None
        self.thing.say(say("both") if both else say("one"))
        for widget in (self._what, self._way, self._look, self._words):
            widget.setVisible(both)
        self._look.setText(
            say("Work on the first side")
            if self.session.other_side
            else say("Work on the other side")
        )
        if turning is not None:
            own = needs_own_guide(job)
            guide = (
                say("It gets a guide of its own: its outline is the mirror image.")
                if own
                else (
                    say("The pieces stay in the board.")
                    if turning.board
                    else say("It is its own mirror image, so the same guide holds it.")
                )
            )
            self._words.setText(guide)
