"""What leaves the window: on the clipboard, or dragged onto the desktop or into a program."""

from __future__ import annotations

import re
import shutil
import tempfile
import time
from contextlib import suppress
from pathlib import Path
from threading import Thread

from PySide6.QtCore import QMetaType, QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDrag, QGuiApplication, QImage, QPixmap
from PySide6.QtWidgets import QApplication, QWidget

from farbe.folders import cache_folder
from farbe.names import safe_name

#: What pockets have set apart, as JSON.
POCKET_MIME = "application/x-farbe-pocket"
#: Seconds for which what was dragged out is kept.
KEPT_SECONDS = 86_400.0
#: Pixels that the picture under the pointer is wide.
UNDER_POINTER = 160


def is_drag(start: QPointF | None, now: QPointF) -> bool:
    """Whether the pointer went far enough from where it was pressed to drag something."""
    far = QApplication.startDragDistance()
    return start is not None and (now - start).manhattanLength() >= far


class _PictureData(QMimeData):
    """A picture, and its file, which is written while the pointer still moves."""

    def __init__(self, picture: QImage, path: Path) -> None:
        super().__init__()
        self.setImageData(picture)
        self.setUrls([QUrl.fromLocalFile(str(path))])
        self._writing = Thread(target=picture.save, args=(str(path),))
        self._writing.start()

    def retrieveData(self, kind: str, wanted: QMetaType | QMetaType.Type) -> object:
        # Whoever takes it finds it whole.
        self._writing.join()
        return super().retrieveData(kind, wanted)


def picture_data(picture: QImage, name: str) -> QMimeData:
    """A picture for a program, and as a PNG file for a folder.

    Parameters
    ----------
    picture : not empty
    name : of the file, without a suffix
    """
    folder = cache_folder() / "handed-out"
    folder.mkdir(parents=True, exist_ok=True)
    # Each in a folder of its own, so that the names stay as they are.
    plain = safe_name(re.sub(r"[^\w .-]", " ", name))
    return _PictureData(picture, Path(tempfile.mkdtemp(dir=folder)) / f"{plain}.png")


def clear_handed_out(older: float = KEPT_SECONDS) -> None:
    """Remove pictures that were dragged out long ago; whoever took one has it by now.

    Parameters
    ----------
    older : seconds since they were handed out
    """
    with suppress(FileNotFoundError):
        for folder in (cache_folder() / "handed-out").iterdir():
            if time.time() - folder.stat().st_mtime > older:
                shutil.rmtree(folder, ignore_errors=True)


def drag_picture(source: QWidget, picture: QImage, name: str) -> None:
    """Let the user drop a picture somewhere; returns when it is dropped."""
    drag = QDrag(source)
    drag.setMimeData(picture_data(picture, name))
    small = picture.scaledToWidth(UNDER_POINTER, Qt.TransformationMode.SmoothTransformation)
    drag.setPixmap(QPixmap.fromImage(small))
    drag.exec(Qt.DropAction.CopyAction)


def copy_picture(picture: QImage) -> None:
    """Put a picture on the clipboard."""
    QGuiApplication.clipboard().setImage(picture)
