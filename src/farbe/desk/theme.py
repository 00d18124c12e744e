"""Greys, accent, type and the style sheet made from them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache, partial
from importlib.resources import files
from pathlib import Path

from PySide6.QtCore import QMargins, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontInfo, QPainter, QPalette
from PySide6.QtWidgets import QApplication, QWidget

from farbe.said import Spoken

FAMILY = "Inter"


class Look(Spoken):
    """What the user wants the window to look like."""

    FOLLOW = "as the desktop"
    LIGHT = "light"
    DARK = "dark"
    CONTRAST = "high contrast"


class TextSize(Spoken):
    """How large the user wants text."""

    FOLLOW = "as the desktop"
    USUAL = "100 %"
    LARGER = "125 %"
    LARGE = "150 %"
    LARGEST = "200 %"


@dataclass(frozen=True)
class Theme:
    """Colours by what they are for; greys are neutral, since colour is judged here.

    ``line`` parts what lies side by side; ``edge`` is around what can be used.
    """

    bar: str
    rail: str
    panel: str
    field: str
    line: str
    edge: str
    text: str
    faint: str
    accent: str
    on_accent: str
    picture: str
    paper: str
    stop: str = "#d0453a"
    caution: str = "#e09a1a"
    note: str = "#7f9fd0"
    footer: str = "#2b2b2b"
    footer_text: str = "#f0f0f0"

    @property
    def chevron(self) -> str:
        """Path of the sign that a list opens, dark on light or light on dark."""
        name = "chevron-dark.svg" if luminance(self.field) > 0.2 else "chevron-light.svg"
        return (Path(__file__).parents[1] / "data" / name).as_posix()


LIGHT = Theme(
    bar="#f4f4f4",
    rail="#dedede",
    panel="#eeeeee",
    field="#ffffff",
    line="#bdbdbd",
    edge="#828282",
    text="#1b1b1b",
    faint="#5a5a5a",
    accent="#2b5c9e",
    on_accent="#ffffff",
    picture="#7b7b7b",
    paper="#e9e9e9",
)
DARK = Theme(
    bar="#333333",
    rail="#262626",
    panel="#303030",
    field="#3d3d3d",
    line="#595959",
    edge="#949494",
    text="#ededed",
    faint="#b2b2b2",
    accent="#8ab4ee",
    on_accent="#14202f",
    picture="#5c5c5c",
    paper="#383838",
    footer="#1c1c1c",
)
CONTRAST = Theme(
    bar="#000000",
    rail="#000000",
    panel="#000000",
    field="#000000",
    line="#ffffff",
    edge="#ffffff",
    text="#ffffff",
    faint="#ffffff",
    accent="#ffd84a",
    on_accent="#000000",
    picture="#5c5c5c",
    paper="#000000",
    stop="#ff7a70",
    caution="#ffc04a",
    note="#9cc2ff",
    footer="#000000",
    footer_text="#ffffff",
)
#: Least contrast of text, and of marks and borders, with what lies under them (WCAG 2.2, 1.4.3 and
#: 1.4.11).
TEXT_CONTRAST, MARK_CONTRAST = 4.5, 3.0
#: What Qt takes where the desktop has none.
PLAIN_ACCENT = "#308cc6"
#: Pixels of the text of most desktops as they are set up: 10 or 11 points.
USUAL_TEXT = 14.7
#: How much larger than the usual size text may be asked to be.
LARGEST_TEXT = 2.0
_current = LIGHT
_scale = 1.0
#: Property of windows that have the style sheet.
_DRESSED = "dressed"


def luminance(colour: str) -> float:
    """Relative luminance of ``#rrggbb``, 0 to 1 (WCAG 2.2)."""
    shares = (int(colour[at : at + 2], 16) / 255.0 for at in (1, 3, 5))
    red, green, blue = (v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in shares)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: str, other: str) -> float:
    """Contrast ratio of two colours, 1 to 21 (WCAG 2.2)."""
    low, high = sorted((luminance(one), luminance(other)))
    return (high + 0.05) / (low + 0.05)


def theme() -> Theme:
    """The theme in force."""
    return _current


def load_fonts() -> None:
    """Make the shipped family known to Qt."""
    folder = files("farbe") / "data" / "fonts"
    for entry in folder.iterdir():
        if entry.name.endswith(".otf"):
            QFontDatabase.addApplicationFontFromData(entry.read_bytes())


def text_scale() -> float:
    """How much larger than the usual size text is."""
    return _scale


def px(length: float) -> int:
    """A length that goes with the text, in pixels of the screen.

    Parameters
    ----------
    length : in pixels at the usual size of text
    """
    return round(length * _scale)


def fixed(widget: QWidget, *, wide: float | None = None, high: float | None = None) -> None:
    """Give a widget a size that goes with the text, also when that is made larger later.

    Parameters
    ----------
    widget : it is told its size
    wide, high : in pixels at the usual size of text; None leaves it to the layout
    """
    _keep(widget, wide=wide, high=high)


def bounded(
    widget: QWidget,
    *,
    least_wide: float | None = None,
    least_high: float | None = None,
    most_wide: float | None = None,
) -> None:
    """Give a widget bounds that go with the text, as :func:`fixed` does.

    Parameters
    ----------
    widget : it is told its bounds
    least_wide, least_high, most_wide : in pixels at the usual size of text; None for no bound
    """
    _keep(widget, least_wide=least_wide, least_high=least_high, most_wide=most_wide)


def inset(widget: QWidget, *, left: float | None = None, above: float | None = None) -> None:
    """Keep what a widget lays out off its edges by what goes with the text.

    Parameters
    ----------
    widget : has a layout
    left, above : in pixels at the usual size of text; None leaves the margin as it is
    """
    _keep(widget, left=left, above=above)


def _keep(widget: QWidget, **lengths: float | None) -> None:
    for name, length in lengths.items():
        if length is not None:
            widget.setProperty(name, float(length))
    _fit(widget)


def _fit(widget: QWidget) -> None:
    for name, put in _LENGTHS.items():
        length = widget.property(name)
        if length is not None:
            put(widget, px(length))


def _put_margin(put: Callable[[QMargins, int], object], widget: QWidget, length: int) -> None:
    layout = widget.layout()
    if layout is not None:
        margins = layout.contentsMargins()
        put(margins, length)
        layout.setContentsMargins(margins)


#: Lengths of a widget that go with the text, and what tells it each.
_LENGTHS: dict[str, Callable[[QWidget, int], object]] = {
    "wide": QWidget.setFixedWidth,
    "high": QWidget.setFixedHeight,
    "least_wide": QWidget.setMinimumWidth,
    "least_high": QWidget.setMinimumHeight,
    "most_wide": QWidget.setMaximumWidth,
    "left": partial(_put_margin, QMargins.setLeft),
    "above": partial(_put_margin, QMargins.setTop),
}


def drawn_at_scale(painter: QPainter) -> None:
    """Draw in pixels at the usual size of text from here on, with :func:`plain_font`.

    Parameters
    ----------
    painter : of a widget that is drawn as a whole
    """
    painter.scale(_scale, _scale)


def area_of(widget: QWidget) -> QRectF:
    """A widget's area in pixels at the usual size of text."""
    return QRectF(0, 0, widget.width() / _scale, widget.height() / _scale)


def plain_font(size: float = 13, *, bold: bool = False) -> QFont:
    """The application's type for what is drawn at the text's scale; see :func:`font`.

    Parameters
    ----------
    size : in pixels at the usual size of text
    bold : for headings
    """
    return QFont(_made_font(round(size), bold))


def font(size: float = 13, *, bold: bool = False) -> QFont:
    """The application's type, figures of one width.

    Parameters
    ----------
    size : in pixels at the usual size of text
    bold : for headings
    """
    # Each time another, which shares what is in it until it is changed.
    return QFont(_made_font(px(size), bold))


@lru_cache(maxsize=64)
def _made_font(pixels: int, bold: bool) -> QFont:
    made = QFont(FAMILY)
    made.setPixelSize(pixels)
    made.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    made.setFeature(QFont.Tag("tnum"), 1)
    return made


def dress(window: QWidget) -> None:
    """Give a window the style sheet, and with it whatever is put into it or opened over it.

    A sheet of the application would do, but Qt dresses a widget anew each time that it, or what
    holds it, is put into another; this way a station is put together bare and dressed once.

    Parameters
    ----------
    window : without a parent; :func:`use_theme` dresses it anew
    """
    window.setProperty(_DRESSED, True)
    window.setStyleSheet(_sheet(_current))


def use_theme(app: QApplication, wanted: Theme, scale: float = 1.0) -> None:
    """Set palette, type and style of the whole application.

    Parameters
    ----------
    app : it is dressed
    wanted : its colours
    scale : of its text and of what goes with it
    """
    global _current, _scale
    _current, _scale, t = wanted, scale, wanted
    if app.style().name() != "fusion":
        # Every widget there is takes its time over another style, though it is the same.
        app.setStyle("Fusion")
    app.setFont(font())
    palette = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, t.panel),
        (QPalette.ColorRole.WindowText, t.text),
        (QPalette.ColorRole.Base, t.field),
        (QPalette.ColorRole.AlternateBase, t.panel),
        (QPalette.ColorRole.Text, t.text),
        (QPalette.ColorRole.Button, t.panel),
        (QPalette.ColorRole.ButtonText, t.text),
        (QPalette.ColorRole.Highlight, t.accent),
        (QPalette.ColorRole.HighlightedText, t.on_accent),
        (QPalette.ColorRole.PlaceholderText, t.faint),
        (QPalette.ColorRole.ToolTipBase, t.footer),
        (QPalette.ColorRole.ToolTipText, t.footer_text),
        (QPalette.ColorRole.Accent, t.accent),
    ):
        palette.setColor(role, QColor(colour))
    app.setPalette(palette)
    for window in app.topLevelWidgets():
        if window.property(_DRESSED):
            dress(window)
    for widget in app.allWidgets():
        _fit(widget)


def theme_for(app: QApplication, look: Look, accent: QColor | None = None) -> Theme:
    """The theme that is meant, with the desktop's accent where it can be seen.

    Parameters
    ----------
    look : what the user wants
    accent : the desktop's own colour; None without one
    """
    if look is Look.CONTRAST:
        return CONTRAST
    follows_dark = app.styleHints().colorScheme() == Qt.ColorScheme.Dark
    base = DARK if look is Look.DARK or (look is Look.FOLLOW and follows_dark) else LIGHT
    return base if accent is None else with_accent(base, accent.name())


def desktop_accent(app: QApplication) -> QColor | None:
    """The desktop's own colour, as it is before Farbe sets one; None where there is none."""
    if app.platformName() not in ("wayland", "xcb"):
        return None
    accent = app.palette().color(QPalette.ColorRole.Accent)
    return None if accent.name() == PLAIN_ACCENT else accent


def desktop_text(app: QApplication) -> float:
    """How much larger than usual the desktop's text is, 1 to :data:`LARGEST_TEXT`.

    What is smaller than usual is taken as usual: small text is the business of small screens.
    """
    if app.platformName() not in ("wayland", "xcb"):
        return 1.0
    own = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont)
    return min(LARGEST_TEXT, max(1.0, QFontInfo(own).pixelSize() / USUAL_TEXT))


def text_for(app: QApplication, wanted: TextSize) -> float:
    """How much larger than usual text is meant to be.

    Parameters
    ----------
    app : asked for the desktop's
    wanted : by the user
    """
    if wanted is TextSize.FOLLOW:
        return desktop_text(app)
    return float(wanted.value.rstrip(" %")) / 100


def with_accent(base: Theme, accent: str) -> Theme:
    """A theme with another accent; as it is where that could not be told from its grounds.

    Parameters
    ----------
    base : light or dark
    accent : ``#rrggbb``
    """
    on_accent = max(("#ffffff", "#14202f"), key=lambda one: contrast(one, accent))
    seen = all(contrast(accent, ground) >= MARK_CONTRAST for ground in (base.panel, base.field))
    if not seen or contrast(on_accent, accent) < TEXT_CONTRAST:
        return base
    return replace(base, accent=accent, on_accent=on_accent)


def _sheet(t: Theme) -> str:
    return f"""
QMenuBar {{ background: {t.bar}; color: {t.text}; padding: 2px 6px; }}
QMenuBar::item {{ padding: 4px 9px; background: transparent; border-radius: 3px; }}
QMenuBar::item:selected {{ background: {t.rail}; }}
QMenu {{ background: {t.bar}; color: {t.text}; border: 1px solid {t.line}; padding: 4px; }}
QMenu::item {{ padding: 5px 24px 5px 12px; border-radius: 3px; }}
QMenu::item:selected {{ background: {t.accent}; color: {t.on_accent}; }}
QMenu::item:disabled {{ color: {t.faint}; }}
QMenu::separator {{ height: 1px; background: {t.line}; margin: 4px 6px; }}
QLineEdit, QComboBox {{ background: {t.field}; color: {t.text}; border: 1px solid {t.edge};
  border-radius: 3px; padding: 3px 6px; min-height: {px(20)}px;
  selection-background-color: {t.accent}; selection-color: {t.on_accent}; }}
QLineEdit:focus, QComboBox:focus {{ border: 2px solid {t.accent}; padding: 2px 5px; }}
QLineEdit[refused="true"] {{ border: 2px solid {t.stop}; padding: 2px 5px; }}
QPlainTextEdit[refused="true"] {{ border: 2px solid {t.stop}; }}
QComboBox::drop-down {{ border: none; width: {px(22)}px; }}
QComboBox::down-arrow {{ image: url({t.chevron}); width: 10px; height: 6px; }}
QComboBox QAbstractItemView {{ background: {t.field}; color: {t.text};
  selection-background-color: {t.accent}; selection-color: {t.on_accent}; }}
QPushButton {{ background: {t.field}; color: {t.text}; border: 1px solid {t.edge};
  border-radius: 3px; padding: 4px 12px; min-height: {px(20)}px; }}
QPushButton:hover {{ border-color: {t.faint}; }}
QPushButton:focus {{ border: 2px solid {t.accent}; padding: 3px 11px; }}
QPushButton:disabled {{ color: {t.faint}; background: {t.panel}; }}
QPushButton[primary="true"] {{ background: {t.accent}; color: {t.on_accent};
  border: 1px solid {t.accent}; font-weight: 600; }}
QPushButton[primary="true"]:focus {{ border: 2px solid {t.text}; }}
QPushButton[primary="true"]:disabled {{ background: {t.panel}; color: {t.faint};
  border-color: {t.line}; }}
QPushButton[role="choice"] {{ padding: 4px 4px; }}
QPushButton[role="small"] {{ padding: 2px 8px; }}
QPushButton[role="narrow"] {{ padding: 1px 0; }}
QPushButton[role="chip"] {{ padding: 2px; }}
QPushButton[role="place"] {{ min-height: 0; padding: 0; }}
QPushButton[role="colour"] {{ text-align: left; }}
QPushButton[role="footer"] {{ background: #454545; color: {t.footer_text};
  border: 1px solid #6e6e6e; padding: 2px 10px; }}
QPushButton[role="footer"]:focus {{ border: 2px solid #9cc0f2; padding: 1px 9px; }}
QPushButton[role="footer"]:disabled {{ color: #8a8a8a; background: #333333;
  border-color: #4c4c4c; }}
QCheckBox {{ spacing: 8px; min-height: {px(22)}px; }}
QLabel[role="title"] {{ font-size: {px(15)}px; font-weight: 600; }}
QLabel[role="head"] {{ font-weight: 600; }}
QLabel[role="faint"] {{ color: {t.faint}; }}
QFrame[role="rule"] {{ background: {t.line}; max-height: 1px; min-height: 1px; border: none; }}
QScrollArea {{ border: none; background: {t.panel}; }}
QScrollArea[role="clear"], QWidget[role="clear"] {{ background: transparent; }}
QScrollBar:vertical {{ width: 10px; background: transparent; }}
QScrollBar::handle:vertical {{ background: {t.line}; border-radius: 4px; min-height: 30px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QListWidget {{ background: {t.field}; color: {t.text}; border: 1px solid {t.edge};
  border-radius: 3px; outline: none; }}
QTableView {{ background: {t.field}; color: {t.text}; border: 1px solid {t.edge};
  border-radius: 3px; outline: none; selection-background-color: {t.accent};
  selection-color: {t.on_accent}; }}
QTableView::item {{ padding: 0 6px; border: none; }}
QHeaderView {{ background: {t.panel}; }}
QHeaderView::section {{ background: {t.panel}; color: {t.faint}; border: none;
  border-bottom: 1px solid {t.line}; padding: 3px 6px; }}
QListWidget::item {{ padding: 5px 8px; }}
QListWidget[role="things"] {{ background: {t.paper}; border: none;
  border-bottom: 1px solid {t.line}; border-radius: 0; padding: 6px 0 5px 0; }}
QListWidget[role="things"]::item {{ padding: 0; }}
QListWidget::item:selected {{ background: {t.accent}; color: {t.on_accent}; }}
QToolTip {{ background: {t.footer}; color: {t.footer_text}; border: none; padding: 5px; }}
"""
