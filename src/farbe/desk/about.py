"""The operator's guide and what Farbe is."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QMessageBox, QWidget


def open_guide() -> bool:
    """Open the operator's guide in what the desktop shows such files with; whether it could be."""
    guide = Path(__file__).parents[3] / "docs" / "operators-guide.md"
    return guide.exists() and QDesktopServices.openUrl(QUrl.fromLocalFile(str(guide)))


def show_about(parent: QWidget) -> None:
    QMessageBox.about(
        parent,
        "About Farbe",
        "Farbe prepares layers and jigs for specialty printing.\n\n"
        "Free software under the GNU General Public License, version 3 or later.",
    )
