"""Where artwork lies on its piece, in all pockets."""

from __future__ import annotations

from PySide6.QtWidgets import QInputDialog

from farbe.desk.stations.bed.form.loadrow import load_row
from farbe.desk.stations.nineplaces import NinePlaces
from farbe.desk.stations.part import Part
from farbe.edits.values import with_artwork
from farbe.layout.faced import Faced
from farbe.layout.figures import sizes
from farbe.layout.laid import allotted
from farbe.layout.loads import count_loads, load_words
from farbe.layout.placing import artwork_box
from farbe.layout.prints import one_print
from farbe.layout.tiling import parts_of, tiled, whole_again
from farbe.model.placing import Across, Along, Fit
from farbe.said import say, say_count


def align(job: Faced, across: Across, along: Along) -> Faced:
    return job.replace(placing=job.placing.replace(across=across, along=along))


class ArtworkPart(Part):
    """Size, nine places, moves, turn, margin and bleed."""

    NAME = say("Artwork")

    def build(self) -> None:
        fits = [
            (Fit.ACTUAL, say("its own")),
            (Fit.FIT, say("as large as fits")),
            (Fit.INSIDE, say("inside the outline")),
            (Fit.FILL, say("fills it")),
        ]
        self.choice(say("Size"), say("Artwork fit"), fits, "placing.fit")
        self._size = self.numbers(
            say("Width, height"),
            (say("Artwork width"), (lambda j: j.artwork.width if j.artwork else 0, self._wide)),
            (say("Artwork height"), (lambda j: j.artwork.height if j.artwork else 0, self._high)),
        )
        self.numbers(say("Scale"), (say("Artwork scale"), "placing.scale"), unit="%", step=5)
        self._aligned = self.form.row(
            say("Aligned"),
            NinePlaces(
                self.session, say("artwork"), lambda j: (j.placing.across, j.placing.along), align
            ),
        )
        self._moved = self.numbers(say("Moved by"), (say("Artwork right"), "placing.offset_x"),
                     (say("Artwork up"), "placing.offset_y"), step=0.1)  # fmt: skip
        self.numbers(
            say("Turned by"), (say("Artwork turned"), "placing.rotation"), unit="°", step=5
        )
        shown = [(False, say("as it is")), (True, say("mirrored"))]
        self.choice(say("Shown"), say("Artwork mirrored"), shown, "placing.mirror")
        self.numbers(
            say("Margin, bleed"),
            (say("Printable margin"), "placing.margin"),
            (say("Bleed"), "bleed"),
            step=0.5,
        )

        self._in_parts = self.form.button(
            say("Lay out in parts…"),
            self._ask_parts,
            say("Artwork larger than its piece: each pocket prints another part of it"),
        )
        self._overlap = self.numbers(
            say("Overlap of parts"),
            (say("Overlap of parts"),
             (lambda j: j.parts.overlap if j.parts else 0.0, lambda j, v: tiled(j, v))),
        )  # fmt: skip
        self._load = load_row(self, say("Load of parts that is shown"))
        self._words = self.form.words()
        self._whole = self.form.button(
            say("Print it in one piece"),
            lambda: self.session.edit(say("Print it in one piece"), whole_again),
            say("Each pocket prints the whole artwork again"),
        )

    def _ask_parts(self) -> None:
        overlap, well = QInputDialog.getDouble(
            self.form,
            say("Lay out in parts"),
            say("Overlap of neighbours in mm"),
            5.0,
            0.0,
            500.0,
            1,
        )
        if well:
            self.lay_out(overlap)

    def lay_out(self, overlap: float) -> None:
        """Lay the artwork's parts over the pockets of as many loads as it takes."""
        self.session.edit(say("Lay out in parts"), lambda j: tiled(j, overlap))

    @staticmethod
    def _wide(job: Faced, width: float) -> Faced:
        art = job.artwork
        return with_artwork(
            job, 0, width=width, height=width * art.height / art.width if art else 0
        )

    @staticmethod
    def _high(job: Faced, height: float) -> Faced:
        art = job.artwork
        return with_artwork(
            job, 0, height=height, width=height * art.width / art.height if art else 0
        )

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        first = next(iter(allotted(job).prints.values()), None)
        lies = artwork_box(one_print(job, first)) if first is not None else None
        self.thing.say(sizes(lies.width, lies.height) if lies else say("none yet"))
        in_parts = job.parts is not None
        for row in (self._in_parts, self._aligned, self._moved):
            row.setVisible(not in_parts)
        several = in_parts and (count_loads(job) > 1 or job.job.load > 0)
        for row in (self._overlap, self._words, self._whole):
            row.setVisible(in_parts)
        self._load.setVisible(several)
        if in_parts:
            words = say_count(
                len(parts_of(job)), "The artwork is one part.", "The artwork has {count} parts."
            )
            self._words.setText(f"{words} {load_words(job)}" if several else words)
        # With several artworks each one's size is in the tray.
        self._size.setVisible(job.placing.fit is Fit.ACTUAL and len(job.artworks) == 1)
