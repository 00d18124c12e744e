"""How much a finding matters."""

from __future__ import annotations

from farbe.said import Spoken


class Weight(Spoken):
    """A stop keeps the job from being printed; a caution is asked about; a note says how it is."""

    STOP = "stop"
    CAUTION = "caution"
    NOTE = "note"
