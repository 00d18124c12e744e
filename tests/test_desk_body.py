"""Round bodies in the real window."""

from __future__ import annotations

import math

import numpy as np
import pytest

from farbe.desk.app import settle
from farbe.desk.stations.proof.canvas import ProofCanvas
from farbe.desk.stations.proof.form import ProofInspector
from farbe.desk.window import MainWindow
from farbe.follows.looking import Shown
from farbe.layout.faced import Faced
from farbe.model.piece import RoundBody, Unrolled
from farbe.plan.stations import Station
from farbe.samples.jobs import SAMPLES
from hands import choose, control, grabbed, now, type_into


def test_a_piece_becomes_a_bottle_and_a_beaker(window: MainWindow) -> None:
    window.visit(Station.PIECE), settle(window)
    form = window.bench.views[Station.PIECE].inspector
    choose(control(form, "Outline"), 4)
    settle(window)
    body = now(window).piece.shape
    assert (
        isinstance(body, RoundBody) and now(window).jig.turned == 90 and now(window).jig.rows == 1
    )
    type_into(control(form, "Near diameter"), "30")
    type_into(control(form, "Far diameter"), "30")
    type_into(control(form, "Printed zone"), "25")
    type_into(control(form, "Seam"), "1")
    settle(window)
    body = now(window).piece.shape
    assert isinstance(body, RoundBody) and body.end_diameter is None
    assert body.wrap == 30 * math.pi - 1 and now(window).piece.height == 30
    assert grabbed(window).max() > 0
    type_into(control(form, "Far diameter"), "36")
    choose(control(form, "Printed how"), 1)
    settle(window)
    body = now(window).piece.shape
    assert isinstance(body, RoundBody) and body.unrolled is Unrolled.WRAPPED
    assert now(window).piece.height == 0 and now(window).jig.turned == 0
    type_into(control(form, "Handle"), "500")
    settle(window)
    assert "leave nothing" in window.check_bar.shown_text


@pytest.mark.long
def test_the_proof_is_seen_on_the_body_and_turned(window: MainWindow) -> None:
    # Coarser than it prints, which the look on a body does not show.
    beaker = Faced(SAMPLES["tapered-beaker"](window.session.store))
    coarse = beaker.replace(printer=beaker.printer.replace(dpi_x=150, dpi_y=150))
    window.session.take(coarse.job), settle(window)
    window.visit(Station.PROOF), settle(window), settle(window)
    view = window.bench.views[Station.PROOF]
    inspector, canvas = view.inspector, view.picture.findChild(ProofCanvas)
    assert isinstance(inspector, ProofInspector) and isinstance(canvas, ProofCanvas)
    form = inspector.look
    form.choose(Shown.BODY)
    settle(window), settle(window)
    before = grabbed(canvas)
    form.turn.setValue(120)
    settle(window)
    after = grabbed(canvas)
    assert np.abs(before - after).mean() > 2
    form.turn.setValue(0)
    settle(window)
    assert np.abs(grabbed(canvas) - before).mean() < 0.5
    window.session.edit("Flat", lambda j: j.replace(
        piece=j.piece.replace(shape={"kind": "rectangle", "width": 90, "height": 50})
    ))  # fmt: skip
    settle(window), settle(window)
    assert canvas.shown is Shown.LOOK
