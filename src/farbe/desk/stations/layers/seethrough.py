"""Holes through all layers, to see through."""

from __future__ import annotations

from farbe.desk.fields import ChoiceField
from farbe.desk.form import Form
from farbe.desk.stations.base import Desk
from farbe.desk.stations.layers.solidrow import SolidRow
from farbe.desk.stations.layers.words import TREATMENT_ROWS
from farbe.desk.stations.valuerows import add_rows
from farbe.layout.faced import Faced
from farbe.layout.holes import open_share
from farbe.model.piece import Material
from farbe.model.treatment import Holes
from farbe.said import say


def with_holes(job: Faced, wanted: bool) -> Faced:
    """The job with holes to see through, or without; those it has stay."""
    fresh = job.see_through or Holes(spacing=2.4, size=1.5)
    return job.replace(see_through=fresh if wanted else None)


class SeeThroughForm(Form):
    """Only pieces that let light through show it."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        session = desk.session
        self._share = self.head(say("Holes to see through"))
        ways = [(False, say("none")), (True, say("through all layers"))]
        self.row(
            say("Holes"),
            ChoiceField(
                session,
                say("See-through holes"),
                ways,
                lambda j: j.see_through is not None,
                with_holes,
            ),
        )
        listed = [row for row in TREATMENT_ROWS[Holes] if row.field != "spare"]
        self._rows = add_rows(
            self, session, say("See through"), listed, lambda j: j.see_through,
            lambda j, v: j.replace(see_through=v),
        )  # fmt: skip
        self._solid = SolidRow(
            desk, say("See through"), lambda j: j.see_through, lambda j, v: j.replace(see_through=v)
        )
        self._rows.append(self.wide(self._solid))
        self._rows.append(
            self.words(say("White and blackout stand back from the holes by their choke."))
        )
        self.refresh()

    @staticmethod
    def is_offered(job: Faced) -> bool:
        """Whether such holes make sense in a job, or are there."""
        clear = job.piece.surface.material in (Material.CLEAR, Material.TRANSLUCENT)
        return clear or job.see_through is not None

    def refresh(self) -> None:
        job = self._desk.session.job
        if job is None:
            return
        for row in self._rows:
            row.setVisible(job.see_through is not None)
        self._share.setText(
            say("{open_share} % open", open_share=f"{open_share(job) * 100:.0f}")
            if job.see_through
            else ""
        )
