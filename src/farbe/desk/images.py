"""Arrays to Qt images."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QPaintDevice, QPainter

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


def plate_picture(cover: QImage) -> QImage:
    """A plate as a picture for other programs: black where there is ink, on white."""
    picture = QImage(cover.size(), QImage.Format.Format_RGB32)
    picture.fill(Qt.GlobalColor.white)
    painter = QPainter(picture)
    painter.drawImage(0, 0, cover.convertToFormat(QImage.Format.Format_ARGB32))
    painter.end()
    return picture


def paint_coverage(
    painter: QPainter, box: QRectF, cover: QImage, brush: QBrush | QColor, *, smooth: bool = True
) -> None:
    """Draw a brush into ``box`` where there is coverage, the brush's grain unscaled.

    Only what can be seen is drawn, however large the box is.
    """
    seen = box.intersected(QRectF(painter.viewport())).toAlignedRect()
    if seen.isEmpty():
        return
    inner, ratio = box.translated(-QPointF(seen.topLeft())), painter.device().devicePixelRatioF()
    picture = covered(seen.size(), inner, cover, brush, ratio=ratio, smooth=smooth)
    painter.drawImage(seen.topLeft(), picture)


def covered(
    size: QSize,
    box: QRectF,
    cover: QImage,
    brush: QBrush | QColor,
    *,
    ratio: float,
    smooth: bool = True,
) -> QImage:
    """A picture of a brush in ``box`` where there is coverage, on nothing.

    It is as large as ``size`` on a screen that has ``ratio`` pixels for each of the window's.
    """
    picture = QImage(size * ratio, QImage.Format.Format_ARGB32_Premultiplied)
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, smooth)
    paint_picture(painter, box, cover, smooth=smooth)
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceIn)
    painter.fillRect(QRectF(QPointF(), QSizeF(size)), brush)
    painter.end()
    return picture


def paint_picture(painter: QPainter, box: QRectF, image: QImage, *, smooth: bool = True) -> None:
    """Draw an image into a box; reduced well where the box is much smaller."""
    if smooth:
        image = fitting(image, on_screen(box, painter.device()))
    before = painter.testRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, smooth)
    painter.drawImage(box, image)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, before)


def on_screen(box: QRectF, screen: QPaintDevice) -> QSize:
    """How many of a screen's own pixels a box has."""
    return (box.size() * screen.devicePixelRatioF()).toSize()


def is_much_smaller(target: QSize, wide: int) -> bool:
    """Whether what an image is drawn into is less than half as wide as its pixels are many."""
    return target.width() * 2 < wide and not target.isEmpty()


def fitting(image: QImage, target: QSize) -> QImage:
    """An image made as small as what it is drawn into, where that is much smaller."""
    if not is_much_smaller(target, image.width()):
        return image
    return image.scaled(
        target,
        Qt.AspectRatioMode.IgnoreAspectRatio,
        Qt.TransformationMode.SmoothTransformation,
    )
