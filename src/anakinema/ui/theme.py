"""Colours, fonts, icons and the style sheet of the interface, light and dark."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

from anakinema.resources import font_paths, icon_path

UI_FONT = "Iosevka Aile"


@dataclass(frozen=True, slots=True)
class Theme:
    """One set of colours; names say what they are for."""

    name: str
    stage: str
    panel: str
    deep: str
    card: str
    ink: str
    quiet: str
    line: str
    grid: str
    accent: str
    on_accent: str
    passed: str
    warn: str
    fail: str
    bodies: dict[str, str]
    shade: str
    """Ink that outlines bodies and shades the deeper ones."""


_LIGHT_BODIES = {
    "blue": "#8FABC0", "clay": "#D2A47A", "sage": "#9CB48F", "plum": "#9E85A6",
    "ochre": "#D6B45F", "steel": "#A9B0B5", "rose": "#CF938E", "teal": "#7FB3AC",
    "sand": "#E2DBC6",
}  # fmt: skip
_DARK_BODIES = {
    "blue": "#5E7F98", "clay": "#A67A50", "sage": "#6E8A62", "plum": "#7C6286",
    "ochre": "#A8873A", "steel": "#7A8389", "rose": "#A2645F", "teal": "#4F8A83",
    "sand": "#4B4A44",
}  # fmt: skip

LIGHT = Theme(
    "light", "#FBF9F2", "#F4F1E8", "#EEEADF", "#FDFBF6", "#24303A", "#566069", "#D3CDBC",
    "#EAE5D8", "#1B7F79", "#FFFFFF", "#2A7353", "#8F5D0E", "#AE3B2A", _LIGHT_BODIES, "#24303A",
)  # fmt: skip
DARK = Theme(
    "dark", "#1F2429", "#262C32", "#2C333A", "#303841", "#E9E4D6", "#A9B0B4", "#434C55",
    "#2B3238", "#57BDB4", "#10201F", "#6CC39B", "#E0AC54", "#EE8A77", _DARK_BODIES, "#10151A",
)  # fmt: skip
THEMES = {"light": LIGHT, "dark": DARK}


def load_fonts() -> None:
    """Load the fonts that ship with the program; call once a QApplication exists."""
    for path in font_paths():
        if QFontDatabase.addApplicationFont(str(path)) < 0:
            raise OSError(f"font {path.name} cannot be loaded")


_text = [100]


def set_text_size(percent: int) -> None:
    """All words at so many per cent of their usual size."""
    _text[0] = percent


def scaled(pixels: float) -> int:
    """A length that goes with the size of words."""
    return round(pixels * _text[0] / 100)


def font(size: int = 13, *, strong: bool = False) -> QFont:
    """The interface font at a pixel size, as large as words are wanted."""
    result = QFont(UI_FONT)
    result.setPixelSize(scaled(size))
    result.setWeight(QFont.Weight.DemiBold if strong else QFont.Weight.Normal)
    return result


@lru_cache(maxsize=256)
def icon_pixmap(name: str, colour: str, size: int, scale: float) -> QPixmap:
    """An icon drawn in a colour, sharp at a device pixel ratio."""
    source = icon_path(name).read_text("utf-8").replace("currentColor", colour)
    pixmap = QPixmap(round(size * scale), round(size * scale))
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    QSvgRenderer(QByteArray(source.encode())).render(
        painter, QRectF(0, 0, pixmap.width(), pixmap.height())
    )
    painter.end()
    pixmap.setDevicePixelRatio(scale)
    return pixmap


def icon(name: str, colour: str) -> QIcon:
    """An icon for buttons."""
    result = QIcon()
    for scale in (1.0, 2.0):
        result.addPixmap(icon_pixmap(name, colour, 18, scale))
    return result


@lru_cache(maxsize=256)
def blend(one: str, other: str, share: float) -> QColor:
    """A colour between two."""
    a, b = QColor(one), QColor(other)
    return QColor(
        round(a.red() + (b.red() - a.red()) * share),
        round(a.green() + (b.green() - a.green()) * share),
        round(a.blue() + (b.blue() - a.blue()) * share),
    )


def style_sheet(t: Theme) -> str:
    """The application's style sheet."""
    return f"""
    * {{ font-family: "{UI_FONT}"; font-size: {scaled(13)}px; color: {t.ink}; }}
    QMainWindow, QDialog {{ background: {t.panel}; }}
    QSplitter::handle {{ background: {t.panel}; image: none; }}
    QToolTip {{ background: {t.card}; color: {t.ink}; border: 1px solid {t.line}; padding: 4px; }}
    QMenu {{ background: {t.card}; border: 1px solid {t.line}; padding: 4px; }}
    QMenu::item {{ padding: 5px 22px 5px 12px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {t.deep}; }}
    QMenu::item:disabled {{ color: {t.quiet}; }}
    QMenu::separator {{ height: 1px; background: {t.line}; margin: 4px 6px; }}
    QTableView {{ background: {t.card}; border: 1px solid {t.line}; border-radius: 6px; }}
    QHeaderView::section {{ background: {t.deep}; border: none; padding: 4px 6px; }}
    #drawer, #inspector, #stripPanel, #route {{ background: {t.panel}; }}
    #drawer {{ border-right: 1px solid {t.line}; }}
    #inspector {{ border-left: 1px solid {t.line}; }}
    #route {{ border-bottom: 1px solid {t.line}; }}
    #stripPanel {{ border-top: 1px solid {t.line}; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {t.line}; border-radius: 4px; min-height: 28px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
    QLineEdit, QPlainTextEdit {{ background: {t.card}; border: 1px solid {t.line};
      border-radius: 5px; padding: 3px 6px; selection-background-color: {t.accent};
      selection-color: {t.on_accent}; }}
    QLineEdit:focus {{ border: 1px solid {t.accent}; }}
    QLineEdit[wrong="true"] {{ border: 1px solid {t.fail}; }}
    QLineEdit:read-only {{ color: {t.quiet}; }}
    QPushButton {{ background: {t.card}; border: 1px solid {t.line}; border-radius: 6px;
      padding: 5px 12px; }}
    QPushButton[tight="true"] {{ padding: 5px 8px; }}
    QPushButton[tightest="true"] {{ padding: 5px 2px; }}
    QPushButton:hover {{ border-color: {t.quiet}; }}
    QPushButton:focus {{ border: 1px solid {t.accent}; }}
    QPushButton:checked {{ background: {t.ink}; color: {t.panel}; }}
    QPushButton:disabled {{ color: {t.quiet}; }}
    QPushButton[flat="true"] {{ background: transparent; border: 1px solid transparent;
      padding: 3px; }}
    QPushButton[flat="true"]:hover {{ background: {t.deep}; }}
    QPushButton[flat="true"]:focus {{ border-color: {t.accent}; }}
    QPushButton[flat="true"]:checked {{ background: {t.deep}; border-color: {t.accent};
      color: {t.ink}; }}
    QPushButton[accent="true"] {{ background: {t.accent}; border: none; border-radius: 16px; }}
    QPushButton[accent="true"]:focus {{ border: 2px solid {t.ink}; }}
    #guide {{ background: {t.deep}; border-bottom: 1px solid {t.line}; }}
    #notice {{ background: {blend(t.panel, t.warn, 0.14).name()};
      border-bottom: 1px solid {t.line}; border-left: 4px solid {t.warn}; }}
    #station_bar {{ background: {t.panel}; border-bottom: 1px solid {t.line}; }}
    QLabel[refusal="true"] {{ background: {t.card}; color: {t.fail}; border: 1px solid {t.fail};
      border-radius: 5px; padding: 4px 8px; font-size: {scaled(12)}px; }}
    #review_card {{ background: {t.card}; border: 1px solid {t.line}; border-radius: 8px; }}
    #messages {{ background: {t.panel}; border-top: 1px solid {t.line}; }}
    QLabel[cap="true"] {{ background: {t.card}; border: 1px solid {t.line}; border-radius: 6px;
      padding: 4px 6px; font-size: {scaled(12)}px; }}
    QTextBrowser {{ background: {t.card}; border: 1px solid {t.line}; border-radius: 6px;
      padding: 8px 14px; }}
    QSpinBox {{ background: {t.card}; border: 1px solid {t.line}; border-radius: 5px;
      padding: 3px 6px; }}
    QSpinBox:focus {{ border: 1px solid {t.accent}; }}
    QComboBox {{ background: {t.card}; border: 1px solid {t.line}; border-radius: 5px;
      padding: 3px 6px; }}
    QComboBox:focus {{ border: 1px solid {t.accent}; }}
    QComboBox::drop-down {{ border: none; width: 18px; }}
    QComboBox QAbstractItemView {{ background: {t.card}; border: 1px solid {t.line};
      selection-background-color: {t.deep}; selection-color: {t.ink}; outline: none; }}
    QSlider::groove:horizontal {{ height: 4px; background: {t.line}; border-radius: 2px; }}
    QSlider::sub-page:horizontal {{ background: {t.accent}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ width: 14px; margin: -6px 0; border-radius: 7px;
      background: {t.card}; border: 1px solid {t.quiet}; }}
    QSlider:focus {{ border: 1px solid {t.accent}; border-radius: 5px; }}
    #depth_bar {{ background: {t.panel}; border-top: 1px solid {t.line}; }}
    QCheckBox {{ spacing: 8px; }}
    QCheckBox::indicator {{ width: 14px; height: 14px; border: 1px solid {t.quiet};
      border-radius: 3px; background: {t.card}; }}
    QCheckBox::indicator:checked {{ background: {t.accent}; border-color: {t.accent}; }}
    QCheckBox:focus {{ color: {t.accent}; }}
    QLabel[warn="true"] {{ color: {t.warn}; font-size: {scaled(12)}px; }}
    QLabel[quiet="true"] {{ color: {t.quiet}; font-size: {scaled(12)}px; }}
    QLabel[heading="true"] {{ font-size: {scaled(16)}px; font-weight: 600; }}
    QLabel[section="true"] {{ color: {t.quiet}; font-weight: 600; font-size: {scaled(12)}px; }}
    QLabel[strong="true"] {{ font-weight: 600; }}
    QLabel[trouble="true"] {{ color: {t.fail}; }}
    QListWidget {{ background: {t.card}; border: 1px solid {t.line}; border-radius: 6px;
      outline: none; }}
    QListWidget::item {{ padding: 5px 8px; border-radius: 4px; }}
    QListWidget::item:selected {{ background: {t.deep}; color: {t.ink}; }}
    """
