"""Lengths in inches: told, typed and drawn, while all is computed in millimetres."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest
from PySide6.QtWidgets import QLabel

from farbe.desk.amounts import parse_amount
from farbe.desk.app import settle
from farbe.desk.preferencesdialog import PreferencesDialog
from farbe.desk.stations.bed.rulers import ruler_step, ruler_words
from farbe.desk.window import MainWindow
from farbe.files.handoff import hand_off
from farbe.layout.figures import (
    Units,
    bare_length,
    measure,
    sizes,
    square,
    use_decimal_point,
    use_units,
)
from farbe.model.base import BadInput
from farbe.plan.stations import Station
from hands import field, job_line_text, now, type_into


@pytest.mark.parametrize(("typed", "inches"), [
    ("2 1/2", 2.5), ("2 1/2 in", 2.5), ("1/8", 0.125), ("3*2", 6), ("25.4 mm", 1), ("2.54cm", 1),
    ("1.234,5", 1234.5), ("1,234.5", 1234.5), ("0,5", 0.5), ("-1 1/4", -1.25),
])  # fmt: skip
def test_what_is_typed_is_in_the_users_units(typed: str, inches: float) -> None:
    use_units(Units.INCHES)
    assert parse_amount(typed) == pytest.approx(inches * 25.4)
    use_units(Units.MM)
    if "mm" not in typed and "in" not in typed and "cm" not in typed:
        assert parse_amount(typed) == pytest.approx(inches)


def test_what_is_no_figure_is_said() -> None:
    for typed in ("2 1/0", "1 2", "1/2/", "in", "2 in in"):
        with pytest.raises(BadInput, match="not a figure"):
            parse_amount(typed)


def test_lengths_are_told_as_exactly_as_in_millimetres() -> None:
    assert [measure(70.0), sizes(70, 35.5), square(250.0)] == ["70 mm", "70 × 35.5 mm", "2.5 cm²"]
    use_units(Units.INCHES)
    assert measure(70.0) == "2.756 in" and sizes(25.4, 12.7) == "1 × 0.5 in"
    assert square(25.4**2) == "1 in²" and bare_length(-25.4, signed=True) == "-1.000"
    for mm in (0.05, 0.12, 1.5, 70.0, 1200.0):
        # What is told comes back to a hundredth of a millimetre.
        assert float(measure(mm).removesuffix(" in")) * 25.4 == pytest.approx(mm, abs=0.0135)
    step = ruler_step(1.0, 44)
    assert step == pytest.approx(50.8) and ruler_words(step) == "2"


def test_the_window_tells_inches_everywhere(window: MainWindow, tmp_path: Path) -> None:
    before = now(window).job
    dialog = PreferencesDialog(window.preferences, window)
    dialog.taken.connect(window._preferred)
    dialog.units.setCurrentIndex(1)
    dialog._take(), settle(window)
    assert window.preferences.units is Units.INCHES
    assert " in" in job_line_text(window) and "mm" not in job_line_text(window)
    assert now(window).job == before
    gap = field(window, Station.BED, "Gap across")
    assert gap.accessibleName() == "Gap across, in"
    type_into(gap, "1/4")
    assert now(window).jig.gap_x == pytest.approx(6.35) and gap.text() == "0.25"
    type_into(gap, "10 mm")
    assert now(window).jig.gap_x == pytest.approx(10.0) and gap.text() == "0.3937"
    type_into(field(window, Station.BED, "First pocket x"), "100 mm"), settle(window)
    assert "mm" not in window.check_bar.shown_text
    inspectors = [window.bench.views[station].inspector for station in Station]  # type: ignore[union-attr]
    said = [
        label.text() for one in inspectors for label in one.findChildren(QLabel)
        if not label.text().startswith(("guide", "artwork"))
    ]  # fmt: skip
    said += [thing.state for one in inspectors for thing in one.things]
    assert [words for words in said if " mm" in words] == []
    window.desk.exports.run_sheet(tmp_path / "sheet.pdf"), settle(window)
    text = subprocess.run(
        ["gs", "-q", "-sDEVICE=txtwrite", "-o", "-", tmp_path / "sheet.pdf"],
        capture_output=True, text=True, check=True,
    ).stdout  # fmt: skip
    assert " in" in text and " mm" not in text


def test_files_do_not_depend_on_units(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Plates and tickets are the same to the last byte, written at the same moment."""
    job, store = now(window), window.session.store
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "1790000000")
    told = []
    for units, point in ((Units.MM, "."), (Units.INCHES, ",")):
        use_units(units), use_decimal_point(point)
        folder = tmp_path / str(len(told))
        hand_off(job.job, store, folder)
        told.append({path.name: path.read_bytes() for path in folder.glob("*.*")})
    assert told[0].keys() == told[1].keys() and "ticket.json" in told[0]
    assert [name for name in told[0] if told[0][name] != told[1][name]] == []


@pytest.mark.long
def test_figures_have_the_users_comma(window: MainWindow) -> None:
    """In fields, in the job line and in findings; what is typed is read either way."""
    use_decimal_point(",")
    type_into(field(window, Station.BED, "Gap across"), "2.5"), settle(window)
    assert field(window, Station.BED, "Gap across").text() == "2,5"
    assert now(window).jig.gap_x == 2.5
    type_into(field(window, Station.BED, "Gap across"), "1.000,5 - 998"), settle(window)
    assert now(window).jig.gap_x == 2.5
    each = next(link.text() for link in window.job_line._links if "each" in link.text())
    assert "," in each.split(" min, ")[1] and "." not in each
