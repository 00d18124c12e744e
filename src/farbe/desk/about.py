"""The operator's guide and what Farbe is."""

from __future__ import annotations

from PySide6.QtWidgets import QMessageBox, QWidget

from farbe import __version__
from farbe.desk.guidewindow import GuideWindow, guide_file
from farbe.said import say


def open_guide(parent: QWidget) -> GuideWindow | None:
    """Open the operator's guide, or bring it to the front; None if it is nowhere."""
    there = parent.findChild(GuideWindow)
    if there is None:
        path = guide_file()
        if path is None:
            return None
        there = GuideWindow(path, parent)
    there.show()
    there.raise_()
    there.activateWindow()
    return there


def show_about(parent: QWidget) -> None:
    QMessageBox.about(
        parent,
        say("About Farbe"),
        say(
            "Farbe {version} prepares layers and jigs for specialty printing.\n\nFree "
            "software under the GNU General Public License, version 3 or later.",
            version=__version__,
        ),
    )
