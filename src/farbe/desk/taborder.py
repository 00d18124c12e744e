"""Tab in the order of the eye: from the left to the right, row by row, what belongs together
together."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractButton, QAbstractItemView, QAbstractScrollArea, QWidget


def in_eye_order(holder: QWidget) -> Iterator[QWidget]:
    """What takes the keys within a widget, in the order in which it is read.

    It is looked for as it is asked for: all of a station take as long as some frames.

    Parameters
    ----------
    holder : that is shown

    Yields
    ------
    Widgets, none of them twice.
    """
    children = [
        child for child in holder.children()
        if isinstance(child, QWidget) and child.isVisible() and not child.isWindow()
    ]  # fmt: skip
    parts = (part for row in _rows(children) for child in row for part in in_eye_order(child))
    if not _takes_keys(holder):
        yield from parts
        return
    first = next(parts, None)
    covered = first is not None and any(child.size() == holder.size() for child in children)
    if not covered:
        yield holder
    # A list's own parts are its own affair.
    if first is not None and (covered or not isinstance(holder, QAbstractItemView)):
        yield first
        yield from parts


def _rows(widgets: list[QWidget]) -> list[list[QWidget]]:
    """Widgets side by side are a row; within it from the left to the right."""
    rows: list[list[QWidget]] = []
    for one in sorted(widgets, key=lambda widget: (widget.y(), widget.x())):
        middle = one.geometry().center().y()
        row = rows[-1] if rows else []
        if row and any(w.y() <= middle <= w.y() + w.height() for w in row):
            row.append(one)
        else:
            rows.append([one])
    return [sorted(row, key=lambda widget: (widget.x(), widget.y())) for row in rows]


def _takes_keys(widget: QWidget) -> bool:
    if not widget.isEnabled() or widget.focusPolicy() == Qt.FocusPolicy.NoFocus:
        return False
    if isinstance(widget, QAbstractButton) and widget.group() is not None:
        # Of buttons of which one is on, arrows reach the others.
        return widget.isChecked() or not widget.group().exclusive()
    if not widget.focusPolicy() & Qt.FocusPolicy.TabFocus:
        return False
    if isinstance(widget, QAbstractScrollArea) and not isinstance(widget, QAbstractItemView):
        # An area scrolls by itself to what has the keys; a text is a field.
        return not hasattr(widget, "widget")
    return True
