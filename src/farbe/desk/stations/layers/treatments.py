"""Steps that are taken in order, each switched, moved and removed, with its own figures."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from functools import partial
from typing import Any

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QMenu, QPushButton, QSizePolicy, QWidget

from farbe.desk.following import Following
from farbe.desk.form import Block, ElidedButton, Form
from farbe.desk.session import Session
from farbe.desk.stations.base import Desk
from farbe.desk.stations.layers.brandcolour import BrandButton
from farbe.desk.stations.layers.curvefield import CurveField
from farbe.desk.stations.layers.pickrow import PickRow
from farbe.desk.stations.layers.solidrow import SolidRow
from farbe.desk.stations.valuerows import Listed, add_rows
from farbe.desk.theme import fixed
from farbe.layout.faced import Faced
from farbe.model.base import Value
from farbe.model.edit import CurvePoints, Recolour
from farbe.model.treatment import Curve, Holes
from farbe.said import begun, inside, say

Steps = tuple[Any, ...]


def small(words: str, name: str, run: Callable[[], object]) -> QPushButton:
    """A small button beside a heading."""
    made = QPushButton(words)
    made.setProperty("role", "narrow")
    fixed(made, wide=26)
    made.setAccessibleName(name)
    made.setToolTip(name)
    made.clicked.connect(lambda: run())
    return made


class StepSwitch(Following, QCheckBox):
    """Shows whether a step is on, which may be undone elsewhere, and whether it can be moved on.

    Parameters
    ----------
    words : the step's name
    session : whose job it is in
    get : the step in a job, and whether another follows it
    later : the button that moves it on
    """

    def __init__(
        self,
        words: str,
        session: Session,
        get: Callable[[Faced], tuple[Any, bool]],
        later: QPushButton,
    ) -> None:
        super().__init__(words)
        self._session, self._get, self._later = session, get, later
        self.follow(session)

    def refresh(self) -> None:
        """Show the step as it is now."""
        job = self._session.job
        value, more = self._get(job) if job is not None else (None, False)
        if value is not None:
            self.setChecked(value.on)
        self._later.setVisible(more)


class StepList:
    """Rows for the steps of one kind of list in a job.

    Parameters
    ----------
    desk : that edits go to
    what : a step of it is called
    steps : that there are, each with its name
    rows : figures of each kind of step
    get, put : the list in a job, and a job with another
    """

    def __init__(
        self,
        desk: Desk,
        what: str,
        steps: Sequence[tuple[str, Value]],
        rows: Mapping[type[Value], tuple[Listed, ...]],
        get: Callable[[Faced], Steps],
        put: Callable[[Faced, Steps], Faced],
    ) -> None:
        self._desk, self._what = desk, what
        self._words = {type(value): words for words, value in steps}
        self._rows, self._get, self._put = rows, get, put

    def blocks(
        self, owner: Hashable, there: Steps, fresh: Sequence[tuple[str, Value]]
    ) -> Iterator[Block]:
        """The parts of a form that show the steps that are there, and add one.

        Parameters
        ----------
        owner : whose steps they are
        there : the steps
        fresh : what can be added, each with its name
        """
        for index, kind in enumerate(map(type, there)):
            yield (owner, kind, index), partial(self._step, kind=kind, index=index)
        yield (owner, "add"), partial(self._adding, fresh=fresh)

    def _adding(self, form: Form, fresh: Sequence[tuple[str, Value]]) -> None:
        add = ElidedButton(say("Add a {what}", what=self._what))
        menu = QMenu(add)
        for words, value in fresh:
            menu.addAction(words, partial(self.add, value))
        add.setMenu(menu)
        form.wide(add)

    def _edit(self, words: str, change: Callable[[Steps], Steps]) -> None:
        self._desk.session.edit(words, lambda j: self._put(j, change(self._get(j))))

    def add(self, fresh: Value, *_: object) -> None:
        """Add a step after the others."""
        words = self._words[type(fresh)]
        self._edit(say("Add {words}", words=inside(words)), lambda there: (*there, fresh))

    def remove(self, index: int) -> None:
        self._edit(say("Remove a {what}", what=self._what), lambda t: (*t[:index], *t[index + 1 :]))

    def move(self, index: int, to: int) -> None:
        """Put a step elsewhere in the order."""

        def change(there: Steps) -> Steps:
            rest = [*there[:index], *there[index + 1 :]]
            return (*rest[:to], there[index], *rest[to:])

        self._edit(say("Move a {what}", what=self._what), change)

    def switch(self, index: int, on: bool) -> None:
        self._edit(
            say("Switch a {what}", what=self._what),
            lambda t: (*t[:index], t[index].replace(on=on), *t[index + 1 :]),
        )

    def _step(self, form: Form, kind: type[Value], index: int) -> None:
        """A switch with the step's name, buttons to move and remove it, its figures."""
        words = self._words.get(kind, kind.__name__)
        later = small("↓", say("{words} later", words=words), lambda: self.move(index, index + 1))
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 2, 0, 0)
        row.setSpacing(4)
        if index:
            row.addWidget(
                small("↑", say("{words} earlier", words=words), lambda: self.move(index, index - 1))
            )
        row.addWidget(later)
        row.addWidget(
            small("×", say("Remove {words}", words=inside(words)), lambda: self.remove(index))
        )
        get = partial(self._step_of, kind, index)
        switch = StepSwitch(words, self._desk.session, get, later)
        switch.setAccessibleName(f"{begun(self._what)} {words}")
        switch.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        switch.clicked.connect(lambda on: self.switch(index, on))
        row.insertWidget(0, switch)
        form.wide(holder)
        self._figures(form, kind, index, words)

    def _step_of(self, kind: type[Value], index: int, job: Faced) -> tuple[Any, bool]:
        """The step of this place, and whether another follows it."""
        return self._at(kind, index, job), index < len(self._get(job)) - 1

    def _at(self, kind: type[Value], index: int, job: Faced) -> Any:
        """The step of this place, if it is still of its kind."""
        steps = self._get(job)
        return steps[index] if index < len(steps) and isinstance(steps[index], kind) else None

    def _pick(
        self,
        field: str,
        words: str,
        get: Callable[[Faced], Any],
        put: Callable[[Faced, Value], Faced],
    ) -> QPushButton:
        """A button that takes the next click on the picture as the black or white point."""
        session, button = self._desk.session, ElidedButton(words)
        button.setAccessibleName(say("Pick {point} from the picture", point=words))
        button.setToolTip(say("Click what should be {point} in the picture", point=words))

        def take(colour: str) -> None:
            def change(job: Faced) -> Faced:
                value = get(job)
                return job if value is None else put(job, value.replace(**{field: colour}))

            session.edit(say("Pick {point}", point=words), change)

        button.clicked.connect(lambda: self._desk.picking.begin_colour(button, take))
        return button

    def _plates(self) -> tuple[str, ...]:
        job = self._desk.session.job
        uses = (use.name for art in job.artworks for use in art.plates) if job is not None else ()
        return tuple(dict.fromkeys(uses))

    def _figures(self, form: Form, kind: type[Value], index: int, words: str) -> None:
        get = partial(self._at, kind, index)

        def put(job: Faced, value: Value) -> Faced:
            steps = self._get(job)
            return self._put(job, (*steps[:index], value, *steps[index + 1 :]))

        add_rows(form, self._desk.session, words, self._rows.get(kind, ()), get, put)
        if kind is Curve:

            def points(job: Faced) -> Any:
                value = get(job)
                return Curve().points if value is None else value.points

            def bend(job: Faced, new: Any) -> Faced:
                value = get(job)
                return job if value is None else put(job, value.replace(points=new))

            form.wide(CurveField(self._desk.session, points, bend))
        elif kind is Holes:
            form.wide(SolidRow(self._desk, words, get, put, self._plates()))
        elif kind is Recolour:
            form.wide(BrandButton(self._desk, get, put))
        elif kind is CurvePoints:
            form.row(
                say("Pick"),
                self._pick("black", say("black"), get, put),
                self._pick("white", say("white"), get, put),
            )
        elif "colours" in kind.model_fields:
            form.wide(PickRow(self._desk, get, put))
