"""The Proof's inspector: how it is looked at, what it is wiped to, what lies under the pointer."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QColorDialog,
    QComboBox,
    QGridLayout,
    QPushButton,
    QSizePolicy,
    QSlider,
    QWidget,
)  # fmt: skip

from farbe.desk.fields import fill
from farbe.desk.following import CatchesUp
from farbe.desk.form import ElidedButton, Form
from farbe.desk.inspector import Inspector, Thing
from farbe.desk.stations.base import Desk
from farbe.desk.stations.layers.platestrip import PlateStrip, list_plates
from farbe.desk.stations.part import Part
from farbe.desk.stations.proof.canvas import ProofCanvas
from farbe.desk.stations.proof.loupe import NOWHERE, values_at
from farbe.desk.stations.proof.shake import ShakePart
from farbe.desk.stations.recipemenu import all_recipes
from farbe.edits.values import with_surface
from farbe.follows.looking import Scene, Shown
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal
from farbe.model.piece import Material, Reader, RoundBody, Surface
from farbe.model.printer import LayerKind
from farbe.optics.inks import InkSet, hits_for, white_contrast
from farbe.optics.view import Behind
from farbe.plan.alternatives import ARTWORK, Alternative, alternatives, kept
from farbe.plan.recipes import Recipe
from farbe.plan.surfaces import surfaces_to_try
from farbe.said import begun, say, say_count, spoken

_OTHER = say("another colour…")


class Choices(QComboBox):
    """One of a few things, as pairs of value and words, filled anew when they change."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._values: list[Any] = []
        self._words: tuple[str, ...] = ()
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumContentsLength(6)

    def offer(self, choices: list[tuple[Any, str]], chosen: Any) -> None:
        """Show these, with one chosen."""
        self._values = [value for value, _ in choices]
        words = tuple(text for _, text in choices)
        if words != self._words:
            self._words = words
            self.clear()
            self.addItems(list(words))
        self.setCurrentIndex(self._values.index(chosen) if chosen in self._values else 0)
        self.setToolTip(f"{self.accessibleName()}: {self.currentText()}")

    def value(self, index: int) -> Any:
        return self._values[index]


#: What each of the pictures shows.
_SHOWS = {
    Shown.LOOK: say("How the print will look on its surface"),
    Shown.ARTWORK: say("The artwork as it came, on nothing"),
    Shown.WHITE: say("Where the artwork is white: on ink, or on the bare surface"),
    Shown.HIDING: say("How far white and blackout hide what is behind: light grey hides"),
    Shown.OUTLINES: say("The edges of all plates over each other"),
    Shown.PLATE: say("One ink's plate alone"),
    Shown.BODY: say("How the print will look on the round body"),
    Shown.REACH: say("Colours of the artwork that the inks do not reach"),
}


class LookForm(CatchesUp, Form):
    """What is shown, the inks under the pointer, and how far the white hides the surface."""

    def __init__(self, desk: Desk, canvas: ProofCanvas, strip: PlateStrip) -> None:
        super().__init__()
        self._desk, self._canvas, self._strip, self._looks = desk, canvas, strip, canvas.looks
        self._followed = desk.session
        self._kept: Alternative | None = None
        self._recipes: tuple[Recipe, ...] = ()
        self._buttons: dict[Shown, QPushButton] = {}
        self.wide(self._switch())
        self._view_rows()
        self._wipe_rows()
        self.head(say("Under the pointer"))
        self._values = self.words(NOWHERE)
        self.head(say("In figures"))
        self._opacity = self.words()
        strip.picked.connect(lambda name, index: self.choose(Shown.PLATE, (name, index)))
        canvas.pointed.connect(self._point)
        #: Its line in the inspector's list.
        self.thing: Thing | None = None
        self._looks.changed.connect(self._changed)

    def showEvent(self, event: QShowEvent) -> None:
        """Recipes may have been kept since."""
        self._desk.workers.start("recipes to try", lambda _: all_recipes(), self._offer_recipes)
        super().showEvent(event)

    def _changed(self) -> None:
        self._stale = True
        self.follow_later()

    def follow_later(self) -> None:
        """Show what was worked out since the proof was last seen, after the picture."""
        self._desk.workers.once_drawn("look form", self._follow)

    def _follow(self) -> None:
        if self._canvas.isVisible():
            self.catch_up()

    def _offer_recipes(self, known: tuple[Recipe, ...]) -> None:
        # Mostly they are as they were.
        if known != self._recipes:
            self._recipes = known
            self._changed()

    # how it is looked at

    def _switch(self) -> QWidget:
        switch = QWidget()
        row = QGridLayout(switch)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(3)
        for place, shown in enumerate(Shown):
            button = QPushButton(begun(shown.words))
            button.setCheckable(True)
            button.setAccessibleName(say("Show: {shown}", shown=shown.words))
            button.setToolTip(_SHOWS[shown])
            button.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            button.clicked.connect(lambda _=False, s=shown: self.choose(s))
            self._buttons[shown] = button
            if shown is Shown.REACH:
                # Below all others, one of which is not always there.
                row.addWidget(button, len(Shown) // 2, 0, 1, 2)
            else:
                row.addWidget(button, place // 2, place % 2)
        return switch

    def _view_rows(self) -> None:
        self.light = QSlider(Qt.Orientation.Horizontal)
        self.light.setRange(0, 100)
        self.light.setAccessibleName(say("Light, from day to lit from behind"))
        self.light.setToolTip(say("Left by daylight, right lit from behind"))
        self.light.valueChanged.connect(lambda value: self._looks.view(lit=value / 100))
        self.row(say("Light"), self.light)
        self.exposure = QSlider(Qt.Orientation.Horizontal)
        self.exposure.setRange(-30, 30)
        self.exposure.setAccessibleName(say("Exposure of light from behind"))
        self.exposure.setToolTip(
            say("In the middle one hit of white looks white; right brighter, left darker")
        )
        self.exposure.valueChanged.connect(lambda value: self._looks.view(exposure=value / 10))
        self._exposure_row = self.row(say("Exposure"), self.exposure)
        self.turn = QSlider(Qt.Orientation.Horizontal)
        self.turn.setRange(-180, 180)
        self.turn.setAccessibleName(say("The body is turned by"))
        self.turn.valueChanged.connect(lambda value: self._canvas.set_turn(float(value)))
        self._turn_row = self.row(say("Turned"), self.turn)
        self.side = Choices(say("Side that is looked at"))
        self.side.activated.connect(lambda i: self._looks.view(other_side=self.side.value(i)))
        self.row(say("Seen from"), self.side)
        self.surface = Choices(say("Surface to try"))
        self.surface.activated.connect(lambda i: self.try_surface(self.surface.value(i)))
        self.row(say("Surface"), self.surface)
        self._take = ElidedButton(say("Use this surface for the job"))
        self._take.clicked.connect(self._take_surface)
        self.wide(self._take)
        self.behind = Choices(say("What is behind the piece"))
        self.behind.activated.connect(lambda i: self._looks.view(behind=self.behind.value(i)))
        self._behind_row = self.row(say("Behind it"), self.behind)

    def try_surface(self, surface: Surface | str | None) -> None:
        """Look at it on another surface; the job stays as it is."""
        job = self._desk.session.job
        if isinstance(surface, str) and job is not None:
            colour = QColorDialog.getColor(job.piece.surface.colour, self, say("Surface to try"))
            own = job.piece.surface
            material = Material.OPAQUE if own.material is Material.CLEAR else own.material
            surface = Surface(material=material, colour=colour.name()) if colour.isValid() else None
        self._looks.view(surface=surface)

    def _take_surface(self) -> None:
        tried = self._looks.wanted.view.surface
        if tried is not None:
            self._desk.session.edit(say("Surface"), lambda j: with_surface(j, **dict(tried)))
            self._looks.view(surface=None)

    # comparing

    def _wipe_rows(self) -> None:
        self.wipe_to = Choices(say("Wipe to"))
        self.wipe_to.setToolTip(say("What is seen to the right of a line that is dragged (W)"))
        self.wipe_to.activated.connect(lambda i: self.wipe(self.wipe_to.value(i)))
        self.row(say("Wipe to"), self.wipe_to)
        self.button(
            say("Keep this look to compare"), self.keep,
            say("Change the job and wipe between what it was and what it is"),
        )  # fmt: skip

    def wipe(self, against: Alternative | None) -> None:
        """Compare with something else to the right of a line, or with nothing."""
        self._canvas.set_wipe(1.0 if against is None else 0.5)
        self._looks.want(against=against, shown=Shown.LOOK)

    def keep(self) -> None:
        """Remember the job as it is now."""
        scene = self._looks.whole
        if scene is not None:
            self._kept = kept(scene.part.job)
            self._desk.session.said.emit(
                say("This look is kept; change the job and choose it under Wipe to.")
            )
            self.refresh()

    def _comparable(self, job: Faced) -> list[tuple[Alternative | None, str]]:
        """What the job can be wiped to; the one in force stays the same object."""
        now = self._looks.wanted.against
        found: list[Alternative] = [ARTWORK]
        if self._kept is not None:
            found.append(self._kept)
        found += alternatives(job, self._recipes)
        if now is not None:
            found = [now if other.words == now.words else other for other in found]
        return [(None, say("nothing")), *((other, other.words) for other in found)]

    # what follows

    def choose(self, shown: Shown, plate: tuple[str, int] | None = None) -> None:
        """Show the prediction, the artwork, its white, outlines, or a plate."""
        self._canvas.plate = plate or self._canvas.plate
        self._looks.want(shown=shown)
        self._mark()
        for key, button in self._buttons.items():
            fill(button, key is shown)
        if self.thing is not None:
            self.thing.say(shown.words)

    def _mark(self) -> None:
        if self._canvas.shown is Shown.PLATE:
            self._strip.mark(*self._canvas.plate)
        else:
            self._strip.mark("")

    def _point(self, place: QPointF) -> None:
        """Tell what is under the pointer, at output pixels where they are shown."""
        detail = self._looks.detail
        near = detail is not None and detail.part.pixel_at(place.x(), place.y()) is not None
        self._values.setText(values_at(detail if near else self._looks.whole, place))

    def refresh(self) -> None:
        """Show what follows from the scene."""
        scene, job = self._looks.whole, self._desk.session.job
        if scene is None or job is None:
            return
        plates = list_plates(scene.part)
        if plates and self._canvas.plate not in {(la.name, i) for la, i, *_ in plates}:
            self._canvas.plate = (plates[0][0].name, plates[0][1])
        self._mark()
        for key, button in self._buttons.items():
            fill(button, key is self._canvas.shown)
        self._offer(job)
        body = isinstance(job.piece.shape, RoundBody)
        self._buttons[Shown.BODY].setVisible(body)
        self._turn_row.setVisible(body and self._canvas.shown is Shown.BODY)
        if self._canvas.shown is Shown.BODY and not body:
            self.choose(Shown.LOOK)
        self._opacity.setText(_words(scene))

    def _offer(self, job: Faced) -> None:
        view = self._looks.wanted.view
        own, other = (
            (say("the face"), say("behind"))
            if job.reader is not Reader.THROUGH
            else (say("its reader"), say("the face"))
        )
        self.side.offer([(False, own), (True, other)], view.other_side)
        tried = [(s, spoken(s.name) or s.colour) for s in surfaces_to_try(job.piece.surface)]
        if view.surface is not None and view.surface not in [s for s, _ in tried]:
            tried.append((view.surface, spoken(view.surface.name) or view.surface.colour))
        self.surface.offer([(None, say("the job's own")), *tried, (_OTHER, _OTHER)], view.surface)
        self._take.setVisible(view.surface is not None)
        clear = (view.surface or job.piece.surface).material
        self.behind.offer([(b, b.words) for b in Behind], view.behind)
        self.light.blockSignals(True)
        self.light.setValue(round(view.lit * 100))
        self.light.blockSignals(False)
        self.exposure.blockSignals(True)
        self.exposure.setValue(round(view.exposure * 10))
        self.exposure.blockSignals(False)
        self._exposure_row.setVisible(view.lit > 0)
        self._behind_row.setVisible(clear in (Material.CLEAR, Material.TRANSLUCENT))
        wiped = self._looks.wanted.against if self._canvas.wiping else None
        self.wipe_to.offer(self._comparable(job), wiped)


class SheetPart(Part):
    """What the customer is given to sign."""

    NAME = say("For the customer")

    def build(self) -> None:
        self.form.button(
            say("Write the proof sheet…"),
            self.desk.exports.ask_proof_sheet,
            say("A PDF with a place to sign"),
        )
        self.form.words(
            say("The predicted look, the stack, and what was found, on paper or by mail.")
        )
        self.thing.say(say("proof sheet"))


class ProofInspector(Inspector):
    """How the proof is looked at, what shake does to it, what the customer gets of it."""

    def __init__(self, desk: Desk, canvas: ProofCanvas, strip: PlateStrip) -> None:
        super().__init__(say("Proof"))
        self.look = LookForm(desk, canvas, strip)
        self.look.thing = self.add(say("Look"), self.look)
        self.shake = ShakePart(self, desk)
        self.sheet = SheetPart(self, desk)
        self.look.choose(Shown.LOOK)
        self.shown.connect(self.look.follow_later)


def _words(scene: Scene) -> str:
    """What the picture says, in figures."""
    reach = scene.reach
    if reach is None:
        return _white_words(scene)
    if reach.share < 0.0005:
        return say("The inks reach all colours of the artwork within ΔE00 3.")
    return say(
        "{share} % of the artwork ({area} cm²) is out of reach; the farthest stays off by ΔE00 "
        "{worst}.",
        share=decimal(100 * reach.share, 1),
        area=decimal(reach.area / 100, 1),
        worst=decimal(reach.worst, 1),
    )


def _white_words(scene: Scene) -> str:
    """How far solid white hides, and how much of the artwork's white is bare."""
    layers = scene.part.layers
    hits = sum(la.hits for la in layers if la.kind is LayerKind.WHITE and scene.part.job.is_own(la))
    words = say("No white layer prints.")
    if hits:
        inks = InkSet.of(scene.part.job.printer, scene.part.job.condition)
        hidden, wanted = white_contrast(hits, inks) * 100, hits_for(0.9, inks)
        count = say_count(hits, "{count} hit", "{count} hits")
        words = say(
            "Solid white in {count} hides {hidden} % of what is behind it; {wanted} hits "
            "hide 90 %.",
            count=count,
            hidden=f"{hidden:.0f}",
            wanted=wanted,
        )
    if scene.white is None:
        return words
    inked, bare = scene.white.inked_area / 100, scene.white.bare_area / 100
    if inked + bare < 0.005:
        return say("{words} The artwork has no white.", words=words)
    return say(
        "{words} Of the artwork's white, {inked} cm² lie on white ink; on {bare} cm², "
        "the rim under the choke among them, nothing prints and the surface shows.",
        words=words,
        inked=decimal(inked, 1),
        bare=decimal(bare, 1),
    )
