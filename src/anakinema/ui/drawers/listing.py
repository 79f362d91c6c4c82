"""A list in the Drive drawer of what the document keeps, each with its form, and a maker below."""

from __future__ import annotations

from collections.abc import Hashable
from typing import Generic, Protocol, TypeVar

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from anakinema.document import model
from anakinema.ui.fields import label
from anakinema.ui.guarded import guarded
from anakinema.ui.inspector.form import Form
from anakinema.ui.workbench import Workbench


class _Kept(Protocol):
    @property
    def id(self) -> str: ...
    @property
    def title(self) -> str: ...


K = TypeVar("K", bound=_Kept)


class Maker(QWidget):
    """A form that adds to a list."""

    def offer(self) -> None:
        """The scene has changed: list what there is to choose, and look again at the choice."""
        raise NotImplementedError


@guarded
class Listing(QWidget, Generic[K]):
    """Each thing with its form; they are built anew only when `shape` of one changes."""

    name: str
    title: str
    above = 10

    def __init__(self, workbench: Workbench, maker: Maker) -> None:
        super().__init__()
        self.setObjectName(self.name)
        self.workbench = workbench
        self._shown: object = None
        self._form: Form | None = None
        self._built: frozenset[str] = frozenset()
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

    def shape(self, item: K) -> Hashable:
        """What the form of an item is built from."""
        raise NotImplementedError

    def add(self, form: Form, item: K) -> None:
        """Put an item into the form."""
        raise NotImplementedError

    def _refresh(self) -> None:
        ids = {item.id for item in self.kept(self.workbench.session.document)}
        if self._form is not None and ids >= self._built:
            self._form.refresh()

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
        shape = (tuple(self.shape(item) for item in self._listed()), self._inside_units())
        if shape != self._shown:
            self._shown = shape
            self._build()
        self._refresh()

    def _build(self) -> None:
        rows = QWidget()
        layout = QVBoxLayout(rows)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        self._form = Form(self.workbench, layout)
        listed = self._listed()
        self._built = frozenset(item.id for item in listed)
        for item in listed:
            self.add(self._form, item)
        inside = self._inside_units()
        if inside:
            words = f"Inside units: {', '.join(inside)}. Take a unit apart to change what is in it."
            layout.addWidget(label(words, "quiet", wrap=True))
        self._layout.replaceWidget(self._rows, rows)
        self._rows.hide()
        self._rows.deleteLater()
        self._rows = rows
