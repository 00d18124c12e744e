"""Invented receivers, one for each kind of front end that a shop may have."""

from __future__ import annotations

from farbe.model.receiver import Compression, FileFormat, Receiver, Split
from farbe.said import say, shipped, spoken

OPEN_PLATES = Receiver(name=shipped("Open plates"))
RECEIVERS = (
    OPEN_PLATES,
    Receiver(
        name=shipped("Spots in a PDF"),
        formats=(FileFormat.PDF,),
        channel_names=(("White", "Underbase"), ("Varnish", "Clear coat")),
    ),
    Receiver(
        name=shipped("One TIFF a layer"),
        formats=(FileFormat.TIFF,),
        compression=Compression.NONE,
        split=Split.LAYER,
        channel_names=(("White", "WHT"), ("Varnish", "VRN")),
    ),
    Receiver(
        name=shipped("Turns transfers itself"),
        formats=(FileFormat.TIFF,),
        compression=Compression.DEFLATE,
        mirrors=True,
    ),
    Receiver(
        name=shipped("Light is ink"),
        formats=(FileFormat.TIFF,),
        inverted=True,
        channel_names=(
            ("Cyan", "plate 1"), ("Magenta", "plate 2"), ("Yellow", "plate 3"),
            ("Black", "plate 4"), ("White", "plate 5"), ("Varnish", "plate 6"),
        ),
    ),
)  # fmt: skip


def no_files(receiver: Receiver) -> str:
    """What is said of a receiver that takes no files; nothing of any other.

    Parameters
    ----------
    receiver : of a hand-off or a test print
    """
    if receiver.formats:
        return ""
    return say(
        "The receiver {receiver} takes no files; choose TIFF or PDF for it.",
        receiver=spoken(receiver.name),
    )
