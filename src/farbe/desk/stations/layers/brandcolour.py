"""Inks for a brand's colour: typed as L*a*b*, or chosen from a list in a file."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu

from farbe.colour.lab import lab_of_xyz
from farbe.desk.form import ElidedButton
from farbe.desk.stations.base import Desk
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal
from farbe.measure.readings import read_readings
from farbe.model.base import BadInput, Value
from farbe.model.edit import Aim, Recolour
from farbe.optics.brand import Match, matched, with_match
from farbe.said import say

_KINDS = say("Colours (*.cxf *.xml *.csv *.txt);;All (*)")


class BrandButton(ElidedButton):
    """Fits the inks of a recolouring to a colour that is known by its L*a*b*."""

    def __init__(
        self,
        desk: Desk,
        get: Callable[[Faced], Value | None],
        put: Callable[[Faced, Value], Faced],
    ) -> None:
        super().__init__(say("Match a brand colour"))
        self._desk, self._get, self._put = desk, get, put
        self.setToolTip(say("Inks that come nearest to a colour on this surface and its white"))
        menu = QMenu(self)
        menu.addAction(say("Type its L*a*b*…"), self._ask_lab)
        menu.addAction(say("From a list of colours…"), self._ask_list)
        self.setMenu(menu)

    def _ask_lab(self) -> None:
        text, well = QInputDialog.getText(
            self, say("Match a brand colour"), say("L*, a* and b*, parted by spaces")
        )
        if well:
            self.type_lab(text)

    def type_lab(self, text: str) -> None:
        """Match a colour as it is typed; what is none is said."""
        try:
            self.match(Aim(lab=lab_in(text)))
        except BadInput as error:
            self._desk.session.said.emit(str(error))

    def _ask_list(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, say("List of colours"), "", _KINDS)
        if not name:
            return
        try:
            colours = brand_colours(Path(name))
        except BadInput as error:
            self._desk.session.said.emit(str(error))
            return
        chosen, well = QInputDialog.getItem(
            self, say("Match a brand colour"), say("Colour"), list(colours), editable=False
        )
        if well and chosen in colours:
            self.match(colours[chosen])

    def match(self, aim: Aim) -> None:
        """Find the inks for a colour in the background, and give them to the recolouring."""
        session = self._desk.session
        job = session.job
        if job is None:
            return
        profile = session.store.profile(job)

        def change(made: Match, then: Faced) -> Faced:
            edit = self._get(then)
            if not isinstance(edit, Recolour):
                return then
            return self._put(then, with_match(edit, made).replace(aim=aim))

        def done(made: Match) -> None:
            session.edit(say("Match a brand colour"), partial(change, made))
            session.said.emit(
                say("It comes out ΔE00 {far} from {name}.", far=decimal(made.far, 1),
                    name=aim.name or say("the colour"))
            )  # fmt: skip

        self._desk.workers.start(
            "brand colour",
            lambda _: matched(job, profile, aim.lab),
            session.for_this_job(done, of=self),
            waits=True,
        )


def lab_in(text: str) -> tuple[float, float, float]:
    """L*a*b* as people type it, with a point or a comma in the figures.

    Raises
    ------
    BadInput
        If it is none that can be.
    """
    words = [word for word in re.split(r"[\s;/]+", text.strip().replace("−", "-")) if word]
    try:
        light, a, b = (float(word.replace(",", ".")) for word in words)
    except ValueError:
        light, a, b = -1.0, 0.0, 0.0
    if not (0 <= light <= 100 and abs(a) <= 150 and abs(b) <= 150):
        raise BadInput(
            say("“{text}” is no colour; type L* from 0 to 100, a* and b*, as 53 12 -8.", text=text)
        )
    return light, a, b


def brand_colours(path: Path) -> dict[str, Aim]:
    """The colours of a list by their names: CxF, CGATS, or a table with commas.

    Raises
    ------
    BadInput
        If the file holds none.
    """
    found = read_readings(path)
    names = found.names or tuple(str(at) for at in range(1, len(found.xyz) + 1))
    colours = {}
    for name, lab in zip(names, lab_of_xyz(found.xyz).tolist(), strict=True):
        light, a, b = (round(figure, 2) for figure in lab)
        shown = " ".join(decimal(figure, 1) for figure in lab)
        colours[f"{name}  ({shown})"] = Aim(name=name[:80], lab=(min(100.0, light), a, b))
    return colours
