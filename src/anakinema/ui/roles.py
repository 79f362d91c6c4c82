"""What painted widgets are to assistive technology: a row, a slider, a chart, a tab."""

from __future__ import annotations

from PySide6.QtCore import QObject
from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtWidgets import QAccessibleWidget, QWidget

ROLES = {
    "CamCanvas": QAccessible.Role.Chart,
    "ChainMapView": QAccessible.Role.Graphic,
    "FindingRow": QAccessible.Role.ListItem,
    "GaugeBar": QAccessible.Role.Slider,
    "Lanes": QAccessible.Role.Chart,
    "OutlineCanvas": QAccessible.Role.Canvas,
    "StackView": QAccessible.Role.Canvas,
    "Stage": QAccessible.Role.Canvas,
    "Station": QAccessible.Role.PageTab,
}
"""By the name of the class; every other widget says itself what it is."""
_kept: dict[int, QAccessibleInterface] = {}


def install() -> None:
    """Let assistive technology hear roles; call once an application exists."""
    QAccessible.installFactory(_face)


def _face(name: str, thing: QObject) -> QAccessibleInterface | None:
    role = ROLES.get(name)
    if role is None or not isinstance(thing, QWidget):
        return None
    face = QAccessibleWidget(thing, role, thing.accessibleName())
    key = id(face)
    # Kept as long as its widget lives: what is asked of it comes from outside.
    _kept[key] = face
    thing.destroyed.connect(lambda *_: _kept.pop(key, None))
    return face
