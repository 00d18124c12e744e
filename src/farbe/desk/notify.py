"""Telling somebody who works in another window."""

from __future__ import annotations

import shutil

from PySide6.QtCore import QProcess
from PySide6.QtWidgets import QApplication, QWidget

from farbe import APP_ID

#: Seconds of work whose end is worth telling.
LONG = 6.0


def tell(window: QWidget, words: str) -> bool:
    """Say by the desktop that something has come to its end, if the window is not in front.

    Parameters
    ----------
    window : in which it was done
    words : a sentence

    Returns
    -------
    Whether there was a need.
    """
    if window.isActiveWindow():
        return False
    QApplication.alert(window)
    if shutil.which("notify-send"):
        QProcess.startDetached("notify-send", ["-a", "Farbe", "-i", APP_ID, "Farbe", words])
    return True
