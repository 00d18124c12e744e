"""The places of the window, where the parts of a job are stated."""

from __future__ import annotations

from farbe.said import Spoken


class Station(Spoken):
    """The five places of the window."""

    PIECE = "Piece"
    BED = "Bed"
    LAYERS = "Layers"
    PROOF = "Proof"
    RUN = "Run"
