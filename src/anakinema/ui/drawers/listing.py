"""A list in the Drive drawer of what the document keeps, to be selected, and a maker below."""

from __future__ import annotations

from typing import Generic, Protocol, TypeVar

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from anakinema.document import model
from anakinema.ui.fields import label
from anakinema.ui.guarded import guarded
from anakinema.ui.workbench import Selection, Workbench


class _Kept(Protocol):
    @property
    def id(self) -> str: ...
    @property
    def title(self) -> str: ...


K = TypeVar("K", bound=_Kept)


WIDE = 206
"""Pixels that words have in a row of two lines."""


def two_lines(name: str, spoken: str, above: str, below: str, role: str = "quiet") -> QPushButton:
    """A row to click: a title, and in a ``role`` what is so of it."""
    button = QPushButton()
    button.setObjectName(name)
    button.setProperty("flat", True)
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    button.setAccessibleName(spoken)
    inner = QVBoxLayout(button)
    inner.setContentsMargins(2, 2, 2, 2)
    inner.setSpacing(0)
    high = 6
    for text, kind in ((above, "plain"), (below, role)):
        line = label(text, kind, wrap=True)
        line.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        inner.addWidget(line)
        high += line.heightForWidth(WIDE)
    button.setMinimumHeight(high)
    return button


class Maker(QWidget):
    """A form that adds to a list."""

    def offer(self) -> None:
        """The scene has changed: list what there is to choose, and look again at the choice."""
        raise NotImplementedError


@guarded
class Listing(QWidget, Generic[K]):
    """Names to click; they are built anew only when one comes, goes or is renamed."""

    name: str
    kind: str
    """Of a `Selection` of one of them."""
    title: str
    above = 10

    def __init__(self, workbench: Workbench, maker: Maker) -> None:
        super().__init__()
        self.setObjectName(self.name)
        self.workbench = workbench
        self._shown: object = None
        self._rows = QWidget()
        self._maker = maker
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(14, self.above, 8, 0)
        self._layout.setSpacing(2)
        self._layout.addWidget(label(self.title, "section"))
        self._layout.addWidget(self._rows)
        self._layout.addWidget(self._maker)
        workbench.scene_changed.connect(self._show)
        workbench.document_changed.connect(self._refresh)

    def kept(self, document: model.Document) -> tuple[K, ...]:
        """What of a document is listed."""
        raise NotImplementedError

    def _refresh(self) -> None:
        self._show()

    def _listed(self) -> tuple[K, ...]:
        """What both the scene and the present document have: the one may be ahead of the other."""
        scene = self.workbench.scene
        if scene is None:
            return ()
        present = {item.id for item in self.kept(self.workbench.session.document)}
        return tuple(item for item in self.kept(scene.resolved.source) if item.id in present)

    def _inside_units(self) -> tuple[str, ...]:
        """Titles of what comes with units."""
        scene = self.workbench.scene
        if scene is None:
            return ()
        own = {item.id for item in self.kept(scene.resolved.source)}
        return tuple(
            item.title for item in self.kept(scene.resolved.document) if item.id not in own
        )

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show()

    def _show(self) -> None:
        if not self.isVisible():
            return
        self._maker.offer()
        shape = (tuple((item.id, item.title) for item in self._listed()), self._inside_units())
        if shape != self._shown:
            self._shown = shape
            self._build()

    def _pick(self, name: str) -> None:
        """Select one: the inspector has its form."""
        self.workbench.select(Selection(self.kind, name))

    def _build(self) -> None:
        rows = QWidget()
        layout = QVBoxLayout(rows)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        for item in self._listed():
            button = QPushButton(item.title)
            button.setObjectName(f"pick_{self.kind}_{item.id}")
            button.setProperty("flat", True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setStyleSheet("text-align: left")
            button.clicked.connect(lambda _=False, name=item.id: self._pick(name))
            layout.addWidget(button)
        inside = self._inside_units()
        if inside:
            names = ", ".join(inside)
            words = f"Inside subassemblies: {names}. Take one apart to change what is in it."
            layout.addWidget(label(words, "quiet", wrap=True))
        self._layout.replaceWidget(self._rows, rows)
        self._rows.hide()
        self._rows.deleteLater()
        self._rows = rows
