"""Where artwork lies on its piece, in all pockets."""

from __future__ import annotations

from PySide6.QtWidgets import QInputDialog

from farbe.desk.stations.nineplaces import NinePlaces
from farbe.desk.stations.part import Part
from farbe.edits.values import with_artwork
from farbe.layout.faced import Faced
from farbe.layout.figures import sizes
from farbe.layout.laid import allotted, laid
from farbe.layout.placing import artwork_box
from farbe.layout.prints import one_print
from farbe.layout.tiling import tiled, tiles_of
from farbe.model.placing import Across, Along, Fit


def align(job: Faced, across: Across, along: Along) -> Faced:
    return job.replace(placing=job.placing.replace(across=across, along=along))


class ArtworkPart(Part):
    """Size, nine places, moves, turn, margin and bleed."""

    NAME = "Artwork"

    def build(self) -> None:
        fits = [(Fit.ACTUAL, "its own"), (Fit.FIT, "as large as fits"), (Fit.FILL, "fills it")]
        self.choice("Size", "Artwork fit", fits, "placing.fit")
        self._size = self.numbers(
            "Width, height",
            ("Artwork width", (lambda j: j.artwork.width if j.artwork else 0, self._wide)),
            ("Artwork height", (lambda j: j.artwork.height if j.artwork else 0, self._high)),
        )
        self.numbers("Scale", ("Artwork scale", "placing.scale"), unit="%", step=5)
        self.form.row(
            "Aligned",
            NinePlaces(
                self.session, "artwork", lambda j: (j.placing.across, j.placing.along), align
            ),
        )
        self.numbers("Moved by", ("Artwork right", "placing.offset_x"),
                     ("Artwork up", "placing.offset_y"), step=0.1)  # fmt: skip
        self.numbers("Turned by", ("Artwork turned", "placing.rotation"), unit="°", step=5)
        shown = [(False, "as it is"), (True, "mirrored")]
        self.choice("Shown", "Artwork mirrored", shown, "placing.mirror")
        self.numbers(
            "Margin, bleed", ("Printable margin", "placing.margin"), ("Bleed", "bleed"), step=0.5
        )

        self.form.button(
            "Lay out in parts…",
            self._ask_parts,
            "Artwork larger than its piece: each pocket prints another part of it",
        )

    def _ask_parts(self) -> None:
        overlap, well = QInputDialog.getDouble(
            self.form, "Lay out in parts", "Overlap of neighbours in mm", 5.0, 0.0, 500.0, 1
        )
        if well:
            self.lay_out(overlap)

    def lay_out(self, overlap: float, first: int = 1) -> None:
        """Lay the artwork's parts over the pockets; say if some find none."""
        job = self.session.job
        if job is None or not self.session.edit(
            "Lay out in parts", lambda j: tiled(j, overlap, first=first)
        ):
            return
        count, pockets = tiles_of(job, overlap).count, len(laid(job))
        rest = f"; parts {pockets + 1} to {count} need another run" if count > pockets else ""
        self.session.said.emit(f"The artwork has {count} parts{rest}.")

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
        self.thing.say(sizes(lies.width, lies.height) if lies else "none yet")
        # With several artworks each one's size is in the tray.
        self._size.setVisible(job.placing.fit is Fit.ACTUAL and len(job.artworks) == 1)
