"""Receivers as JSON files."""

from pathlib import Path
from typing import Literal

from farbe.files.document import read_document
from farbe.model.base import Value
from farbe.model.receiver import Receiver
from farbe.said import shipped

SUFFIX = ".receiver.json"


class ReceiverFile(Value):
    """A receiver as a file."""

    format: Literal["farbe-receiver"] = "farbe-receiver"
    version: Literal[1] = 1
    receiver: Receiver


def read_receiver(path: Path) -> Receiver:
    """Read a receiver; BadInput if the file is missing or holds none.

    Parameters
    ----------
    path : of the file

    Returns
    -------
    The receiver that the file describes.

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    return read_document(path, ReceiverFile, shipped("receiver")).receiver
