"""The part shelf: ready-made definitions as small drawings, and the document's own parts."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator

from PySide6.QtCore import QMimeData, QPoint, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QDrag, QFontMetrics, QIcon, QMouseEvent, QPainter, QPen, QPixmap
from PySide6.QtWidgets import (
    QApplication,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from anakinema.authoring import part_outlines
from anakinema.document.model import Document, Part
from anakinema.geometry import Region
from anakinema.parts import GROUPS, OFFERED
from anakinema.ui.guarded import guarded
from anakinema.ui.stage.bodies import region_path
from anakinema.ui.stage.tools.place import ITEM
from anakinema.ui.theme import Theme, font
from anakinema.ui.workbench import Workbench
from anakinema.ui.worker import Worker

THUMB = QSize(54, 30)
BESIDE = 126
"""Pixels beside a drawing; longer titles take two lines."""


def thumbnail(regions: Iterable[Region], colour: str, theme: Theme) -> QIcon:
    """A small drawing of what would be placed."""
    ratio = 2.0
    pixmap = QPixmap(THUMB * ratio)
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    paths = [region_path(region) for region in regions]
    whole = QRectF()
    for path in paths:
        whole = whole.united(path.boundingRect())
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if not whole.isEmpty():
        scale = min((THUMB.width() - 6) / whole.width(), (THUMB.height() - 6) / whole.height())
        painter.translate(THUMB.width() / 2, THUMB.height() / 2)
        painter.scale(scale, -scale)
        painter.translate(-whole.center())
        pen = QPen(QColor(theme.shade), 1)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(QColor(theme.bodies[colour]))
        for path in paths:
            painter.drawPath(path)
    painter.end()
    icon = QIcon(pixmap)
    icon.addPixmap(pixmap, QIcon.Mode.Selected)
    return icon


@guarded
class ShelfList(QListWidget):
    """Rows that can be dragged on to the stage."""

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        item = self.currentItem()
        if item is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        data = QMimeData()
        data.setData(ITEM, str(item.data(Qt.ItemDataRole.UserRole)).encode())
        drag = QDrag(self)
        drag.setMimeData(data)
        drag.setPixmap(item.icon().pixmap(THUMB))
        drag.setHotSpot(QPoint(THUMB.width() // 2, THUMB.height() // 2))
        drag.exec(Qt.DropAction.CopyAction)


@guarded
class Shelf(QWidget):
    """Click (or Enter) takes an item in hand; dragging works as well."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._look: object = None
        self._own: object = None
        self._owned = 0
        self._worker = Worker("shelf", self)
        self._worker.answered.connect(self._outlined)
        self._worker.broke.connect(lambda _, error: workbench.broke.emit(error))
        self._filter = QLineEdit()
        self._filter.setObjectName("shelf_filter")
        self._filter.setPlaceholderText("Find a part")
        self._filter.setAccessibleName("find a part")
        self._list = ShelfList()
        self._list.setObjectName("shelf")
        self._list.setAccessibleName("part shelf")
        self._list.setIconSize(THUMB)
        self._list.setWordWrap(True)
        self._list.setTextElideMode(Qt.TextElideMode.ElideNone)
        self._list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self._list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._filter)
        layout.addWidget(self._list, 1)
        self._filter.textChanged.connect(lambda _: self._show_wanted())
        self._list.itemClicked.connect(self._take)
        self._list.itemActivated.connect(self._take)
        workbench.document_changed.connect(self._document_changed)
        workbench.scene_changed.connect(self._document_changed)
        workbench.theme_changed.connect(self._document_changed)

    @property
    def is_drawn(self) -> bool:
        """Whether all that is offered has its drawing."""
        return all(item.key in _known for item in OFFERED)

    def stop(self) -> None:
        """No more drawings; call before the application goes."""
        self._worker.stop()

    def begin(self) -> None:
        """Ready to type what is looked for."""
        self._filter.setFocus()
        self._filter.selectAll()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self._document_changed()

    def _document_changed(self) -> None:
        if not self.isVisible():
            return
        document, theme = self._workbench.session.document, self._workbench.theme
        look = (theme.name, self._workbench.settings.text)
        used = Counter(body.part for body in document.bodies)
        own = tuple((part, self._outlines(part), used[part.id]) for part in document.parts)
        if look != self._look:
            self._look, self._own = look, None
            self._fill()
        if own != self._own:
            self._own = own
            self._fill_own(own)

    def _outlines(self, part: Part) -> tuple[Region, ...]:
        """As last answered: a cam's outline takes too long to be made here at every key."""
        scene = self._workbench.scene
        solid = scene.resolved.parts.get(part.id) if scene is not None else None
        return () if solid is None else tuple(slab.region for slab in solid.slabs)

    def _fill(self) -> None:
        """What is offered to every document; its own parts come above."""
        self._list.clear()
        self._owned = 0
        theme = self._workbench.theme
        for group in GROUPS:
            self._list.addItem(self._header(group))
            for item in OFFERED:
                if item.group == group:
                    icon = _drawing(item.key, item.shown_colour, theme)
                    self._list.addItem(_row(item.key, item.title, icon, item.note))
        self._show_wanted()
        missing = [item.key for item in OFFERED if item.key not in _known]

        def task() -> Iterator[object]:
            for key in missing:
                yield key, part_outlines(Document(), key)

        if missing:
            self._worker.request(task)

    def _outlined(self, number: int, answer: object) -> None:
        """The row of that item gets its drawing."""
        if number != self._worker.newest or not isinstance(answer, tuple):
            return
        key, _known[key] = answer
        colour = next(item.shown_colour for item in OFFERED if item.key == key)
        for k in range(self._list.count()):
            row = self._list.item(k)
            if row.data(Qt.ItemDataRole.UserRole) == key:
                row.setIcon(_drawing(key, colour, self._workbench.theme))

    def _fill_own(self, own: tuple[tuple[Part, tuple[Region, ...], int], ...]) -> None:
        """The document's own parts, above what is offered."""
        for _ in range(self._owned):
            self._list.takeItem(0)
        rows = [self._header("In this document")] if own else []
        for part, outlines, used in own:
            icon = thumbnail(outlines, part.colour, self._workbench.theme)
            note = f"another one, {used} so far"
            rows.append(_row(f"part:{part.id}", part.title, icon, note))
        for k, item in enumerate(rows):
            self._list.insertItem(k, item)
        self._owned = len(rows)
        self._show_wanted()

    def _header(self, words: str) -> QListWidgetItem:
        """A title between rows."""
        item = QListWidgetItem(words)
        item.setFlags(Qt.ItemFlag.NoItemFlags)
        item.setForeground(QColor(self._workbench.theme.quiet))
        return item

    def _show_wanted(self) -> None:
        """Rows whose title has all the words looked for, and titles with rows under them."""
        wanted = self._filter.text().lower().split()
        empty = True
        for k in reversed(range(self._list.count())):
            item = self._list.item(k)
            if _is_title(item):
                item.setHidden(empty)
                empty = True
            else:
                item.setHidden(not all(word in item.text().lower() for word in wanted))
                empty = empty and item.isHidden()

    def _take(self, item: QListWidgetItem) -> None:
        if _is_title(item):
            return
        self._workbench.use_tool(f"place:{item.data(Qt.ItemDataRole.UserRole)}")
        stage = self.window().findChild(QWidget, "stage")
        if stage is not None and QApplication.activeWindow() is not None:
            stage.setFocus()


def _is_title(item: QListWidgetItem) -> bool:
    return item.data(Qt.ItemDataRole.UserRole) is None


def _row(key: str, title: str, icon: QIcon, note: str) -> QListWidgetItem:
    item = QListWidgetItem(title)
    item.setToolTip(note or f"Place a {title}")
    item.setData(Qt.ItemDataRole.UserRole, key)
    item.setIcon(icon)
    metrics = QFontMetrics(font())
    if metrics.horizontalAdvance(title) > BESIDE:
        item.setSizeHint(QSize(THUMB.width(), 2 * metrics.lineSpacing() + 12))
    return item


_known: dict[str, tuple[Region, ...]] = {}
_drawings: dict[tuple[str, str], QIcon] = {}
"""Of shelf items, which never change: outlines by key, drawings by key and theme."""


def _drawing(key: str, colour: str, theme: Theme) -> QIcon:
    """A shelf item drawn small; empty while its outlines are being made."""
    if key not in _known:
        return thumbnail((), colour, theme)
    if (key, theme.name) not in _drawings:
        _drawings[key, theme.name] = thumbnail(_known[key], colour, theme)
    return _drawings[key, theme.name]
