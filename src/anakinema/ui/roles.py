"""What painted widgets are to assistive technology, and what stands in them: bodies, joints, lanes.

A widget whose things can be told has ``spoken``: a list of `Spoken`, in the order they are read.
"""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QObject, QRect
from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtWidgets import QAccessibleWidget, QWidget
from shiboken6 import isValid

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


class Spoken(NamedTuple):
    """A painted thing: what it is called, its box in the widget, and whether it is selected."""

    name: str
    box: QRect
    is_selected: bool = False


class _Thing(QAccessibleInterface):
    """The n-th thing of a widget, whatever that is by now."""

    def __init__(self, widget: QWidget, index: int) -> None:
        super().__init__()
        self._widget, self._index = widget, index

    def _spoken(self) -> Spoken:
        found = things(self._widget)
        return found[self._index] if self._index < len(found) else Spoken("", QRect())

    def isValid(self) -> bool:
        return isValid(self._widget) and self._index < len(things(self._widget))

    def object(self) -> QObject | None:  # type: ignore[override]
        return None

    def parent(self) -> QAccessibleInterface:
        return QAccessible.queryAccessibleInterface(self._widget)

    def child(self, index: int) -> QAccessibleInterface | None:  # type: ignore[override]
        return None

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:  # type: ignore[override]
        return None

    def childCount(self) -> int:
        return 0

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return -1

    def rect(self) -> QRect:
        box = self._spoken().box
        return QRect(self._widget.mapToGlobal(box.topLeft()), box.size())

    def role(self) -> QAccessible.Role:
        return QAccessible.Role.Graphic

    def state(self) -> QAccessible.State:
        state = QAccessible.State()
        state.selectable, state.selected = 1, int(self._spoken().is_selected)
        return state

    def text(self, kind: QAccessible.Text) -> str:
        return self._spoken().name if kind == QAccessible.Text.Name else ""

    def setText(self, kind: QAccessible.Text, text: str) -> None:
        """Nothing painted is typed."""


class _Face(QAccessibleWidget):
    """A painted widget with the things that stand in it."""

    def __init__(self, widget: QWidget, role: QAccessible.Role) -> None:
        super().__init__(widget, role, widget.accessibleName())
        self._widget = widget
        self._things: list[_Thing] = []

    def _own(self) -> list[_Thing]:
        for index in range(len(self._things), len(things(self._widget))):
            self._things.append(_Thing(self._widget, index))
        return self._things[: len(things(self._widget))]

    def childCount(self) -> int:
        return len(self._own()) if tells(self._widget) else super().childCount()

    def child(self, index: int) -> QAccessibleInterface | None:  # type: ignore[override]
        if not tells(self._widget):
            return super().child(index)
        own = self._own()
        return own[index] if 0 <= index < len(own) else None

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        own: list[QAccessibleInterface] = [*self._own()]
        return own.index(child) if child in own else super().indexOfChild(child)

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:  # type: ignore[override]
        # What is painted last lies on top.
        for thing in reversed(self._own()):
            if thing.rect().contains(x, y):
                return thing
        return None


def tells(widget: QWidget) -> bool:
    """Whether a widget can tell what stands in it."""
    return hasattr(widget, "spoken")


def things(widget: QWidget) -> list[Spoken]:
    """What stands in a widget, nothing in one that cannot tell."""
    found: list[Spoken] = widget.spoken() if hasattr(widget, "spoken") else []
    return found


_kept: dict[int, QAccessibleInterface] = {}


def install() -> None:
    """Let assistive technology hear roles; call once an application exists."""
    QAccessible.installFactory(_face)


def _face(name: str, thing: QObject) -> QAccessibleInterface | None:
    role = ROLES.get(name)
    if role is None or not isinstance(thing, QWidget):
        return None
    face = _Face(thing, role)
    key = id(face)
    # Kept as long as its widget lives: what is asked of it comes from outside.
    _kept[key] = face
    thing.destroyed.connect(lambda *_: _kept.pop(key, None))
    return face
