"""What holes spare: a drawn region, the artwork, one of its plates, or picked colours."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QVBoxLayout, QWidget

from farbe.desk.fields import ChoiceField
from farbe.desk.following import Following
from farbe.desk.form import Form
from farbe.desk.stations.base import Desk
from farbe.desk.stations.layers.pickrow import PickRow
from farbe.layout.faced import Faced
from farbe.model.base import Value
from farbe.model.source import ArtworkShape, PickedColours, PlateNamed, Region
from farbe.model.treatment import Holes
from farbe.said import say

#: Stands for a region that was not drawn yet.
NO_REGION = Region(rings=(((0.0, 0.0), (0.0, 0.0), (0.0, 0.0)),))
_NOTHING = say("nothing")


class SolidRow(Following, QWidget):
    """A choice, and below it what is picked for it on the picture.

    Parameters
    ----------
    get : the holes of a job, if they are there
    put : the job with other holes
    plates : of the artwork, by name
    """

    def __init__(
        self,
        desk: Desk,
        about: str,
        get: Callable[[Faced], Holes | None],
        put: Callable[[Faced, Holes], Faced],
        plates: tuple[str, ...] = (),
    ) -> None:
        super().__init__()
        self._desk, self._get, self._put = desk, get, put
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        form = Form()
        form.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        choices = [
            (_NOTHING, say("nothing")),
            (Region.__name__, say("a drawn region")),
            (ArtworkShape.__name__, say("the artwork")),
            (PickedColours.__name__, say("picked colours")),
            *((f"plate {name}", say("the plate {name}", name=name)) for name in plates),
        ]
        form.row(
            say("Stays solid"),
            ChoiceField(
                desk.session,
                say("{about}: stays solid", about=about),
                choices,
                self._kind,
                self._take,
            ),
        )
        column.addWidget(form)
        self._pick = PickRow(desk, lambda job: self._solid(job) or NO_REGION, self._picked)
        column.addWidget(self._pick)
        self.follow(desk.session)

    def refresh(self) -> None:
        """Offer to pick where there is anything to pick."""
        job = self._desk.session.job
        solid = self._solid(job) if job is not None else None
        self._pick.setVisible(solid is None or isinstance(solid, Region | PickedColours))

    def _solid(self, job: Faced) -> Value | None:
        holes = self._get(job)
        return None if holes is None else holes.solid

    def _kind(self, job: Faced) -> str:
        solid = self._solid(job)
        if isinstance(solid, PlateNamed):
            return f"plate {solid.name}"
        return _NOTHING if solid is None else type(solid).__name__

    def _take(self, job: Faced, kind: str) -> Faced:
        fresh: dict[str, Value | None] = {
            _NOTHING: None, Region.__name__: NO_REGION, ArtworkShape.__name__: ArtworkShape(),
            PickedColours.__name__: PickedColours(colours=("#ffffff",)),
        }  # fmt: skip
        solid = fresh[kind] if kind in fresh else PlateNamed(name=kind.removeprefix("plate "))
        return self._with(job, solid)

    def _picked(self, job: Faced, value: Value) -> Faced:
        return self._with(job, value)

    def _with(self, job: Faced, solid: Value | None) -> Faced:
        holes = self._get(job)
        return job if holes is None else self._put(job, holes.replace(solid=solid))
