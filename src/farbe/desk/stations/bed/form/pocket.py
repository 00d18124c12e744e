"""The chosen pocket, or those in the rubber band: on or off, and what it prints otherwise."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtWidgets import QComboBox, QSizePolicy

from farbe.desk.fields import ChoiceField, NumberField
from farbe.desk.inspector import Inspector
from farbe.desk.stations.base import Desk
from farbe.desk.stations.bed.canvas import BedCanvas
from farbe.desk.stations.part import Part
from farbe.edits import bed as bed_edits
from farbe.edits.bed import change_of, with_change
from farbe.layout.correction import by_datum
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length, measure, number
from farbe.layout.laid import allotted
from farbe.model.artwork import ArtworkFile
from farbe.model.placing import Across, Along, Fit, PocketChange
from farbe.said import say


class PocketPart(Part):
    """Title of the inspector; below it, what is set apart for this pocket."""

    NAME = say("Pocket")

    def __init__(self, inspector: Inspector, desk: Desk, canvas: BedCanvas) -> None:
        self._canvas = canvas
        self._fields: list[NumberField | ChoiceField] = []
        super().__init__(inspector, desk)
        canvas.choice_changed.connect(self._chosen)

    def build(self) -> None:
        form = self.form
        self._title, self._place = form.title(say("Pocket 1"))
        self._switch = form.button(
            say("Switch off"),
            lambda: bed_edits.switch_pockets(self.session, self._canvas.selected),
            say("Switch the chosen pockets off or on (X); drag over the board to choose several"),
        )
        self._artwork, self._artworks = QComboBox(), tuple[ArtworkFile, ...]()
        self._offered = tuple[tuple[str, str], ...]()
        self._artwork.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._artwork.setMinimumContentsLength(6)
        self._artwork.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self._artwork.setAccessibleName(say("Artwork of this pocket"))
        self._artwork.activated.connect(self._take_artwork)
        self._artwork_row = form.row(say("Artwork"), self._artwork)
        form.row(say("Moved by"), self._field(say("right"), "offset_x", step=0.1),
                 self._field(say("up"), "offset_y", step=0.1))  # fmt: skip
        form.row(say("Size, turned"), self._field(say("size"), "scale", unit="%", step=5),
                 self._field(say("turn"), "rotation", unit="°", step=5))  # fmt: skip
        mirrored = ChoiceField(
            self.session, say("Pocket mirrored"), [(False, say("as all")), (True, say("mirrored"))],
            lambda j: change_of(j, self._canvas.chosen).mirror,
            lambda j, v: with_change(j, self._canvas.selected, mirror=v),
        )  # fmt: skip
        form.row(say("Shown"), mirrored)
        self._fields.append(mirrored)
        self._reset = form.button(say("Print as all do"), self._forget)
        form.fold(say("Size and alignment"))
        fits: list[tuple[Fit | None, str]] = [
            (None, say("as all")), (Fit.ACTUAL, say("its own")),
            (Fit.FIT, say("as large as fits")), (Fit.INSIDE, say("inside the outline")),
            (Fit.FILL, say("fills it")),
        ]  # fmt: skip
        self._choice_row(say("Size"), say("Pocket fit"), fits, "fit")
        across = [(None, say("as all")), *((one, one.words) for one in Across)]
        self._choice_row(say("Across"), say("Pocket aligned across"), across, "across")
        along = [(None, say("as all")), *((one, one.words) for one in Along)]
        self._choice_row(say("Along"), say("Pocket aligned along"), along, "along")
        margin = self.number(
            say("Pocket margin"),
            (
                lambda j: j.placing.margin if (own := self._change(j).margin) is None else own,
                lambda j, v: with_change(
                    j, self._canvas.selected, margin=None if v == j.placing.margin else v
                ),
            ),
            step=0.5,
        )
        self._fields.append(margin)
        form.row(say("Margin"), margin)

    def _field(self, words: str, field: str, **more: Any) -> NumberField:
        made = self.number(
            say("Pocket {words}", words=words),
            (
                lambda j: getattr(change_of(j, self._canvas.chosen), field),
                lambda j, v: with_change(j, self._canvas.selected, **{field: v}),
            ),
            **more,
        )
        self._fields.append(made)
        return made

    def _change(self, job: Faced) -> PocketChange:
        return change_of(job, self._canvas.chosen)

    def _choice_row(
        self, words: str, name: str, choices: Sequence[tuple[Any, str]], field: str
    ) -> None:
        made = ChoiceField(
            self.session, name, choices, lambda j: getattr(self._change(j), field),
            lambda j, v: with_change(j, self._canvas.selected, **{field: v}),
        )  # fmt: skip
        self.form.row(words, made)
        self._fields.append(made)

    def _take_artwork(self, index: int) -> None:
        digest = self._artwork.itemData(index)
        self.session.edit(
            say("Artwork of a pocket"),
            lambda job: with_change(job, self._canvas.selected, artwork=digest),
        )

    def _forget(self) -> None:
        gone = self._canvas.selected
        self.session.edit(
            say("Print as all do"),
            lambda j: j.replace(changes=tuple(c for c in j.changes if c.pocket not in gone)),
        )

    def _chosen(self) -> None:
        for field in self._fields:
            field.refresh()
        self.refresh()

    def refresh(self) -> None:
        job, canvas = self.session.job, self._canvas
        found = canvas.pockets
        if job is None or not found:
            return
        selected = canvas.selected
        chosen = [p for p in found if p.pocket.number in selected]
        pocket = next((p for p in chosen if p.number == canvas.chosen), found[0])
        on = any(p.on for p in chosen)
        self._switch.setText(say("Switch off") if on else say("Switch on"))
        if canvas.banded:
            self._title.setText(say("{banded} pockets", banded=len(canvas.banded)))
            self._place.setText(say("chosen with a rubber band"))
        else:
            what = allotted(job).prints.get(pocket.number)
            prints = what.artwork.file_name if what is not None and what.artwork else say("nothing")
            self._title.setText(say("Pocket {pocket}", pocket=pocket.shown))
            x, y = by_datum(job, pocket.x, pocket.y)
            self._place.setText(
                say(
                    "centre {x}, {y} by the datum, turned by {turn}°; prints {prints}",
                    x=bare_length(x),
                    y=measure(y),
                    turn=number(pocket.turn),
                    prints=prints if pocket.on else say("nothing"),
                )
                if job.jig.places
                else say(
                    "row {row}, place {column}; centre {x}, {y} by the datum; prints {prints}",
                    row=pocket.row + 1,
                    column=pocket.column + 1,
                    x=bare_length(x),
                    y=measure(y),
                    prints=prints if pocket.on else say("nothing"),
                )
            )
        change = change_of(job, canvas.chosen)
        apart = {c.pocket for c in job.changes} & selected
        self.thing.say(say("set apart") if apart else say("as all"))
        self._reset.setEnabled(bool(apart))
        self._artwork_row.setVisible(len(job.artworks) > 1)
        self._offer(job.artworks)
        self._artwork.setCurrentIndex(max(0, self._artwork.findData(change.artwork)))

    def _offer(self, artworks: tuple[ArtworkFile, ...]) -> None:
        """List the artworks; there may be hundreds, which are the same after most edits."""
        if artworks is self._artworks:
            return
        self._artworks = artworks
        offered = tuple((art.file_name, art.key) for art in artworks)
        if offered != self._offered:
            self._offered = offered
            self._artwork.clear()
            self._artwork.addItem(say("as it comes"), None)
            for name, key in offered:
                self._artwork.addItem(name, key)
