"""Shake: the machine's misregister, and the choke and bleed that forgive it."""

from __future__ import annotations

import math

from farbe.desk.fields import NumberField
from farbe.desk.form import ElidedButton
from farbe.desk.stations.layers.edgepicture import ShakenEdge
from farbe.desk.stations.part import Part
from farbe.edits import stack as stack_edits
from farbe.edits.values import lens
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.optics.shake import Shaken
from farbe.said import say
from farbe.survey.shakejob import choked_layer


class ShakePart(Part):
    """How far prints are off, and what choke and bleed forgive."""

    NAME = say("Shake")

    def build(self) -> None:
        form, session, desk = self.form, self.session, self.desk

        def figure(name: str, path: str, unit: str, step: float) -> NumberField:
            return NumberField(session, name, *lens(path), unit=unit, step=step, digits=3)

        form.words(say("The misregister is drawn many times; what shows at worst is seen below."))
        where = "printer.misregister"
        form.row(say("Off by"), figure(say("Misregister across"), f"{where}.x", "mm", 0.01),
                 figure(say("Misregister along"), f"{where}.y", "mm", 0.01))  # fmt: skip
        form.row(
            say("Turned, scaled"),
            figure(say("Misregister turned"), f"{where}.rotation", "°", 0.005),
            figure(say("Misregister scaled"), f"{where}.scale", "%", 0.005),
        )
        form.row(say("Play of a piece"), figure(say("Play of a piece"), "jig.play", "mm", 0.05))
        form.row(
            say("May show on"), figure(say("Prints that may show it"), "running.may_show", "%", 1)
        )
        form.wide(ShakenEdge(desk.results))
        self._words = form.words()
        self._take = ElidedButton(say("Take them over"))
        self._take.setToolTip(say("Set the choke and the bleed that are enough (F4)"))
        self._take.setShortcut("F4")
        self._take.clicked.connect(self.take_over)
        form.wide(self._take)
        desk.results.shake_changed.connect(self.refresh)

    def take_over(self) -> None:
        """Set choke and bleed to what is enough."""
        shake = self.desk.results.shake
        if shake is None:
            return

        def change(job: Faced) -> Faced:
            layer = choked_layer(job)
            if shake.white is not None and layer is not None:
                job = stack_edits.with_layer(
                    job, layer.name, lambda la: stack_edits.with_choke(la, enough(shake.white))
                )
            return job if shake.piece is None else job.replace(bleed=enough(shake.piece, 10))

        self.desk.session.edit(say("Take over choke and bleed"), change)

    def refresh(self) -> None:
        shake = self.desk.results.shake
        words = []
        if shake is not None and shake.white is not None:
            words.append(
                _said(say("The white moves"), say("a rim shows"), say("choke"), shake.white, 100)
            )
        if shake is not None and shake.piece is not None:
            words.append(
                _said(
                    say("The piece lies off"),
                    say("a bare edge shows"),
                    say("bleed"),
                    shake.piece,
                    10,
                )
            )
        self._words.setText("\n".join(words) or say("Nothing here depends on register."))
        self._take.setEnabled(bool(words))
        chance = max((s.chance for s in (shake.white, shake.piece) if s), default=0) if shake else 0
        self.thing.say(say("shows on {chance} %", chance=f"{chance * 100:.0f}") if words else "")


def enough(found: Shaken | None, parts: int = 100) -> float:
    """The least allowance, rounded up to so many parts of a mm."""
    return math.ceil((found.least if found else 0.0) * parts - 1e-9) / parts


def _said(what: str, shows: str, allowance: str, found: Shaken, parts: int) -> str:
    return say(
        "{what} {typical}, {worst} at worst; {shows} on {chance} of 100. Enough "
        "{allowance}: {enough}.",
        what=what,
        typical=measure(found.typical),
        worst=measure(found.worst),
        shows=shows,
        chance=f"{found.chance * 100:.0f}",
        allowance=allowance,
        enough=measure(enough(found, parts)),
    )
