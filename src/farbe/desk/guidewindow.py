"""The operator's guide in a window of its own: contents, text with pictures, a search."""

from __future__ import annotations

from importlib.resources import files
from pathlib import Path

from PySide6.QtCore import QSize, Qt, QUrl
from PySide6.QtGui import QImage, QKeySequence, QShortcut, QTextCursor, QTextDocument
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.theme import fixed
from farbe.said import language, say

GUIDE = "operators-guide.md"
#: In another language, if there is one.
GUIDE_IN = "operators-guide.{language}.md"
#: Pixels that pictures are wide at the most.
PICTURE = 640


def guide_file() -> Path | None:
    """Where the guide lies: with an installed Farbe, else with its sources."""
    shipped = Path(str(files("farbe") / "data" / "guide"))
    own = Path(__file__).parents[3] / "docs"
    spoken_here = GUIDE_IN.format(language=language().split("_")[0])
    paths = (folder / name for name in (spoken_here, GUIDE) for folder in (shipped, own))
    return next((path for path in paths if path.is_file()), None)


class _Text(QTextBrowser):
    """Text whose pictures fit its width."""

    def __init__(self, folder: Path) -> None:
        super().__init__()
        self._folder = folder
        self.setOpenExternalLinks(True)
        self.setAccessibleName(say("Text of the guide"))

    def loadResource(self, kind: int, name: QUrl | str) -> object:
        if kind == QTextDocument.ResourceType.ImageResource.value:
            picture = QImage(str(self._folder / QUrl(name).path()))
            wide = min(PICTURE, picture.width())
            return picture.scaledToWidth(wide, Qt.TransformationMode.SmoothTransformation)
        return super().loadResource(kind, name)


class GuideWindow(QWidget):
    """Stays open beside the work."""

    def __init__(self, path: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.setWindowTitle(say("Operator's guide · Farbe"))
        self.resize(980, 720)
        self.text = _Text(path.parent)
        self.text.document().setMarkdown(path.read_text(encoding="utf-8"))
        self._give_room()
        self.contents = QListWidget()
        self.contents.setAccessibleName(say("Contents"))
        fixed(self.contents, wide=210)
        self._list_headings()
        self.contents.currentItemChanged.connect(self._go)
        self.search = QLineEdit(placeholderText=say("Find in the guide"))
        self.search.setAccessibleName(say("Find in the guide"))
        self.search.returnPressed.connect(self.find_next)
        self.found = QLabel()
        left = QVBoxLayout()
        for part in (self.search, self.found, self.contents):
            left.addWidget(part)
        row = QHBoxLayout(self)
        row.addLayout(left)
        row.addWidget(self.text, 1)
        QShortcut(QKeySequence("Ctrl+F"), self, self.search.setFocus)
        QShortcut(QKeySequence("Esc"), self, self.close)

    def _give_room(self) -> None:
        """Part paragraphs and headings, but for those in tables."""
        block = self.text.document().begin()
        while block.isValid():
            cursor = QTextCursor(block)
            if cursor.currentTable() is None:
                look = block.blockFormat()
                heading = look.headingLevel() > 0
                look.setTopMargin(14 if heading else 0)
                look.setBottomMargin(6 if heading or block.textList() else 9)
                cursor.setBlockFormat(look)
            block = block.next()

    def _list_headings(self) -> None:
        block = self.text.document().begin()
        while block.isValid():
            level = block.blockFormat().headingLevel()
            if level:
                item = QListWidgetItem("   " * (level - 1) + block.text())
                item.setData(Qt.ItemDataRole.UserRole, block.position())
                item.setSizeHint(QSize(0, 30))
                self.contents.addItem(item)
            block = block.next()

    def _go(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            cursor = self.text.textCursor()
            # From the end, so that the heading comes to the top.
            cursor.movePosition(QTextCursor.MoveOperation.End)
            self.text.setTextCursor(cursor)
            cursor.setPosition(int(item.data(Qt.ItemDataRole.UserRole)))
            self.text.setTextCursor(cursor)

    def find_next(self) -> None:
        """Go to the next place of the words, from the top again after the last."""
        words = self.search.text().strip()
        if not words:
            return
        there = self.text.find(words)
        if not there:
            self.text.moveCursor(QTextCursor.MoveOperation.Start)
            there = self.text.find(words)
        self.found.setText("" if there else say("Not in the guide"))
