"""Arrays to Qt images."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QPainter

from farbe.art.artwork import Pixels
from farbe.separate.choke import Plate


def rgb_image(pixels: Pixels) -> QImage:
    """An image of uint8 (h, w, 3) or (h, w, 4, straight alpha)."""
    pixels = np.ascontiguousarray(pixels)
    height, width, channels = pixels.shape
    form = QImage.Format.Format_RGB888 if channels == 3 else QImage.Format.Format_RGBA8888
    # A copy, so that the array may go.
    return QImage(pixels.data, width, height, width * channels, form).copy()


def alpha_image(plate: Plate) -> QImage:
    """Coverage as an alpha channel."""
    plate = np.ascontiguousarray(plate)
    height, width = plate.shape
    return QImage(plate.data, width, height, width, QImage.Format.Format_Alpha8).copy()


def painted_coverage(box: QRectF, cover: QImage, brush: QBrush | QColor) -> QImage:
    """A picture of ``box``'s size: the brush where there is coverage, its grain unscaled."""
    width, height = max(1, round(box.width())), max(1, round(box.height()))
    picture = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawImage(picture.rect(), cover)
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceIn)
    painter.fillRect(picture.rect(), brush)
    painter.end()
    return picture


def paint_picture(painter: QPainter, box: QRectF, image: QImage, *, smooth: bool = True) -> None:
    """Draw an image into a box; reduced well where the box is much smaller."""
    target = box.size().toSize()
    small = target.width() * 2 < image.width() and target.width() > 0 and target.height() > 0
    if small and smooth:
        image = image.scaled(
            target,
            Qt.AspectRatioMode.IgnoreAspectRatio,
            Qt.TransformationMode.SmoothTransformation,
        )
    painter.drawImage(box, image)
