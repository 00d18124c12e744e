"""The inspector: one thing at a time, and what leads to each."""

from __future__ import annotations

import re
import subprocess
import sys
from itertools import pairwise
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QListWidget, QMenu, QWidget

from conftest import some
from farbe.checks.check import RULES
from farbe.checks.explained import EXPLAINED
from farbe.checks.weight import Weight
from farbe.desk.app import settle
from farbe.desk.effects import effect_of
from farbe.desk.fields import ChoiceField, ColourField, NumberField, TextField
from farbe.desk.finder import values_of
from farbe.desk.inspector import Inspector
from farbe.desk.leads import LEADS
from farbe.desk.stations.bed.station import BedInspector
from farbe.desk.stations.layers.curvefield import CurveField
from farbe.desk.stations.layers.form import LayersInspector
from farbe.desk.stations.piece.canvas import PieceCanvas
from farbe.desk.stations.run.runlist import RunPicture
from farbe.desk.window import MainWindow
from farbe.layout.figures import Units, use_units
from farbe.model.treatment import Curve
from farbe.plan.stations import Station
from farbe.said import say
from farbe.samples.jobs import SAMPLES
from hands import field, type_into


def inspector(window: MainWindow, station: Station) -> Inspector:
    window.visit(station), settle(window)
    assert window.bench is not None
    return window.bench.views[station].inspector


def unsettled(window: MainWindow, station: Station) -> Inspector:
    """Without waiting for what the values come to."""
    window.visit(station), QApplication.processEvents()
    assert window.bench is not None
    return window.bench.views[station].inspector


def test_every_finding_leads_to_a_value() -> None:
    told = {code for rule in RULES for code in rule.codes}
    # What is said without a value to change it: how wide the layer's holes are, by the way.
    assert told - set(LEADS) == set() and set(LEADS) - told == {"cannot-be-read", "check-failed"}


def test_every_finding_is_explained() -> None:
    """In the line's tooltip and in the guide, which is as its script writes it."""
    told = {code for rule in RULES for code in rule.codes} | {"cannot-be-read", "check-failed"}
    assert set(EXPLAINED) == told
    script = Path(__file__).parents[1] / "scripts" / "make_checks.py"
    assert subprocess.run([sys.executable, script, "--check"]).returncode == 0


@pytest.mark.long
def test_names_of_values_are_those_of_fields(window: MainWindow) -> None:
    """Every name that a finding leads to is the name of a field of some kind of job."""
    wanted = {name for names in LEADS.values() for name in names}
    for sample in ("apron-gang", "shop-window", "name-tags"):
        window.session.take(SAMPLES[sample](window.session.store))
        if not window.session.first.texts:  # type: ignore[union-attr]
            unsettled(window, Station.BED).text.add()  # type: ignore[attr-defined]
        for station in Station:
            here = unsettled(window, station)
            for name in tuple(wanted):
                if here.first_of((name,)) is not None:
                    wanted.discard(name)
    # Asked for by few jobs: looked for among all fields, shown or not.
    names = {
        (w.accessibleName() or getattr(w, "text", str)()).split(",")[0]
        for station in Station
        for thing in unsettled(window, station).things
        for w in thing.page.findChildren(QWidget)
    }
    assert wanted - names <= {say("Named ink"), say("What it is for")}


@pytest.mark.long
def test_values_that_nobody_sees_follow_the_job_once_they_are_shown(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """An edit waits for those that are seen, and for no other."""
    inspector(window, Station.RUN)
    window.visit(Station.PIECE)
    settle(window)
    asked: list[NumberField] = []
    refresh = NumberField.refresh
    monkeypatch.setattr(NumberField, "refresh", lambda self: asked.append(self) or refresh(self))
    window.session.edit("Price", lambda j: j.replace(prices=j.prices.replace(work_hour=31.25)))
    settle(window)
    assert asked and all(one.isVisible() for one in asked)
    price = field(window, Station.RUN, "Price of an hour of work")
    assert not price.isVisible() and price.text() != "31.25"
    inspector(window, Station.RUN).reveal(price)
    assert price.text() == "31.25"


@pytest.mark.long
def test_values_are_found_in_the_units_of_now(window: MainWindow) -> None:
    """Also those that were not seen since the units changed."""
    bed = inspector(window, Station.BED)
    window.visit(Station.PIECE)
    use_units(Units.INCHES)
    try:
        window.session.tell()
        names = [one.name for one in values_of(bed, "Bed", lambda _: None)]
    finally:
        use_units(Units.MM)
    assert any(name.endswith(f", {Units.INCHES.value}") for name in names)
    assert not any(name.endswith(f", {Units.MM.value}") for name in names)


@pytest.mark.long
def test_tooltips_say_what_values_do(window: MainWindow) -> None:
    """Every field of every station tells more than its name."""
    silent = {
        field.accessibleName()
        for station in Station
        for kind in (NumberField, ChoiceField, TextField, ColourField)
        for field in unsettled(window, station).findChildren(kind)
        if not effect_of(field.accessibleName())
    }
    assert silent == set()


def test_no_menu_has_a_key_twice(window: MainWindow) -> None:
    bar = window.menuBar()
    for actions in [bar.actions(), *(menu.actions() for menu in bar.findChildren(QMenu))]:
        keys = [key.lower() for a in actions for key in re.findall(r"&(\w)", a.text())]
        assert len(keys) == len(set(keys)), [a.text() for a in actions]
    assert all("&" in action.text() for action in bar.actions())


@pytest.mark.long
def test_a_finding_marks_its_thing_and_leads_to_its_value(window: MainWindow) -> None:
    bed = inspector(window, Station.BED)
    type_into(field(window, Station.BED, "First pocket x"), "590")
    settle(window)
    (found,) = [c for c in window.results.findings.checks if c.code == "outside-bed"]  # type: ignore[union-attr]
    jig = bed.thing_named("Jig")
    assert jig is not None and found.weight is Weight.STOP
    shown = bed.findChild(QListWidget)
    assert shown is not None
    rows = [shown.item(row) for row in range(shown.count())]
    said = [str(row.data(Qt.ItemDataRole.AccessibleTextRole)) for row in rows]
    assert [words for words in said if "stop" in words] == [f"Jig, {jig.state}, stop"]
    window.visit(Station.PIECE)
    window.check_bar.visit.emit(found), settle(window)
    assert window.station is Station.BED and bed.current is jig
    focused = window.focusWidget()
    assert focused is not None and focused.accessibleName().startswith("First pocket x")


@pytest.mark.long
def test_phrases_of_the_job_line_lead_to_their_values(window: MainWindow) -> None:
    resolution = next(link for link in window.job_line._links if "dpi" in link.text())
    QTest.mouseClick(resolution, Qt.MouseButton.LeftButton), settle(window)
    run = inspector(window, Station.RUN)
    assert window.station is Station.RUN and run.current.name == "How it is run"
    each = next(link for link in window.job_line._links if "each" in link.text())
    QTest.mouseClick(each, Qt.MouseButton.LeftButton), settle(window)
    assert run.current.name == "Cost and price"


@pytest.mark.long
def test_films_are_chosen_in_the_list_and_in_the_section(window: MainWindow) -> None:
    layers = inspector(window, Station.LAYERS)
    assert window.bench is not None
    section = window.bench.section
    section.choose("Colour")
    assert layers.current.name == "Colour"
    listed = layers.findChild(QListWidget)
    assert listed is not None
    listed.setFocus()
    QTest.keyClick(listed, Qt.Key.Key_Down)
    assert section.choice == "White" == layers.current.name
    type_into(field(window, Station.LAYERS, "Choke"), "0.3")
    settle(window)
    assert "choke 0.3" in layers.current.state
    # A film that goes away leaves the list, and another one is chosen.
    window.session.edit("Less", lambda j: j.replace(stack=j.stack[1:])), settle(window)
    assert layers.thing_named("White") is None and layers.current.name == section.choice


@pytest.mark.long
def test_steps_of_the_run_list_are_chosen(window: MainWindow) -> None:
    run = inspector(window, Station.RUN)
    assert window.bench is not None
    picture = window.bench.views[Station.RUN].picture
    assert isinstance(picture, RunPicture)
    handwork = next(i for i, step in enumerate(picture.list.steps) if "pieces" in step.text)
    spot = picture.list.rect().topLeft()
    spot.setX(120), spot.setY(picture.list.TOP + handwork * picture.list.ROW + 10)
    QTest.mouseClick(picture.list, Qt.MouseButton.LeftButton, pos=spot)
    assert run.current.name == "Cost and price" and picture.list.done == 0


@pytest.mark.parametrize("station", some(Station, Station.LAYERS))
def test_values_of_each_thing_fit_the_usual_window(window: MainWindow, station: Station) -> None:
    """At 1280 × 800 nothing that is chosen is scrolled, but for the printer, set once."""
    window.resize(1280, 800)
    here = inspector(window, station)
    if isinstance(here, BedInspector):
        here.text.add(), settle(window)
    for thing in here.things:
        if not thing.is_there or thing.name == "Printer":
            continue
        here.choose(thing), settle(window)
        form = thing.page.widget()
        assert form.minimumHeight() <= thing.page.viewport().height(), thing.name


@pytest.mark.parametrize("station", some(Station, Station.BED))
def test_tab_follows_the_eye(window: MainWindow, station: Station) -> None:
    """Job line, stations, picture, what lies under it, inspector, checks; then from the start."""
    here = inspector(window, station)
    assert window.bench is not None
    view = window.bench.views[station]
    areas = [window.job_line, window.rail, view.picture, view.under or window.bench.section,
             here, window.check_bar]  # fmt: skip
    window.job_line._name.setFocus()
    met: list[QWidget] = []
    while (now := window.focusWidget()) is not None and now not in met:
        met.append(now)
        QTest.keyClick(now, Qt.Key.Key_Tab)
    assert window.focusWidget() is met[0]
    order = [next(i for i, area in enumerate(areas) if area.isAncestorOf(one) or area is one)
             for one in met]  # fmt: skip
    assert order == sorted(order) and set(order) >= {0, 1, 2, 3, 4}
    # In the inspector from the top down, and back by the same way.
    tops = [one.mapTo(window, one.rect().topLeft()).y() for one, at in zip(met, order, strict=True)
            if at == 4]  # fmt: skip
    assert all(later >= top - 12 for top, later in pairwise(tops))
    QTest.keyClick(met[0], Qt.Key.Key_Backtab)
    assert window.focusWidget() is met[-1]
    # What is hidden hands the keys to the first of all.
    met[-1].clearFocus()
    assert window.focusNextPrevChild(True) and window.focusWidget() is met[0]


@pytest.mark.long
def test_esc_takes_back_what_is_dragged(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The edge of a piece and a curve's point are as before, and nothing is left to undo."""
    window.visit(Station.PIECE), settle(window)
    assert window.bench is not None
    canvas = window.bench.views[Station.PIECE].picture
    assert isinstance(canvas, PieceCanvas)
    job = window.session.job
    assert job is not None
    edge = canvas.at(job.piece.shape.width / 2, 0).toPoint()
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=edge)
    QTest.mouseMove(canvas, edge + QPoint(30, 0)), QApplication.processEvents()
    assert window.session.job != job
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert window.session.job == job
    window.visit(Station.LAYERS)
    window.bench.section.choose("White"), settle(window)
    layers = window.bench.views[Station.LAYERS].inspector
    assert isinstance(layers, LayersInspector)
    layers.layer.treatments.add(Curve()), settle(window)
    before = window.session.job
    curve = layers.findChild(CurveField)
    assert curve is not None
    start = curve.at(0, 0).toPoint()
    QTest.mousePress(curve, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(curve, start - QPoint(0, 20)), QApplication.processEvents()
    assert window.session.job != before
    QTest.keyClick(curve, Qt.Key.Key_Escape)
    assert window.session.job == before
    # A point that is undone while it is held is held no longer.
    faults: list[BaseException] = []
    monkeypatch.setattr(sys, "excepthook", lambda _, error, __: faults.append(error))
    middle = curve.at(25, 80).toPoint()
    QTest.mousePress(curve, Qt.MouseButton.LeftButton, pos=middle)
    assert len(curve.points()) == 4
    window.session.undo()
    QTest.mouseMove(curve, middle + QPoint(9, 9)), QApplication.processEvents()
    QTest.mouseRelease(curve, Qt.MouseButton.LeftButton, pos=middle)
    assert window.session.job == before and not faults
    # By keys: to the second point, one more between, up.
    QTest.keyClick(curve, Qt.Key.Key_PageUp), QTest.keyClick(curve, Qt.Key.Key_Insert)
    QTest.keyClick(curve, Qt.Key.Key_Up)
    assert curve.points()[2] == (75, 76) and len(curve.points()) == 4
