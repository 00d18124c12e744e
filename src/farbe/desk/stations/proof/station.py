"""Proof: the predicted look, and all that it is made from."""

from __future__ import annotations

from farbe.desk.looks import Looks
from farbe.desk.stations.base import Desk, StationView
from farbe.desk.stations.layers.platestrip import PlateStrip, stacked
from farbe.desk.stations.proof.canvas import ProofCanvas
from farbe.desk.stations.proof.form import ProofInspector


def proof_station(desk: Desk) -> StationView:
    """The station's picture and inspector."""
    looks = Looks(desk.session, desk.results, desk.workers)
    canvas, strip = ProofCanvas(desk, looks), PlateStrip(desk)
    inspector = ProofInspector(desk, canvas, strip)
    looks.refresh()
    return StationView(stacked(desk, canvas, strip), inspector)
