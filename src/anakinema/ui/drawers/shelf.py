"""The part shelf: ready-made definitions as small drawings, and the document's own parts."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QMimeData, QPoint, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QDrag, QIcon, QMouseEvent, QPainter, QPen, QPixmap
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
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Workbench

THUMB = QSize(54, 30)


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
        self._shown: object = None
        self._filter = QLineEdit()
        self._filter.setObjectName("shelf_filter")
        self._filter.setPlaceholderText("Find a part")
        self._filter.setAccessibleName("find a part")
        self._list = ShelfList()
        self._list.setObjectName("shelf")
        self._list.setAccessibleName("part shelf")
        self._list.setIconSize(THUMB)
        self._list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._filter)
        layout.addWidget(self._list, 1)
        self._filter.textChanged.connect(lambda _: self._fill())
        self._list.itemClicked.connect(self._take)
        self._list.itemActivated.connect(self._take)
        workbench.document_changed.connect(self._document_changed)
        workbench.scene_changed.connect(self._document_changed)
        workbench.theme_changed.connect(self._document_changed)

    def begin(self) -> None:
        """Ready to type what is looked for."""
        self._filter.setFocus()
        self._filter.selectAll()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self._document_changed()

    def _document_changed(self) -> None:
        document = self._workbench.session.document
        outlines = {part.id: self._outlines(part) for part in document.parts}
        key = (document.parts, outlines, self._workbench.theme.name)
        if self.isVisible() and key != self._shown:
            self._shown = key
            self._fill()

    def _outlines(self, part: Part) -> tuple[Region, ...]:
        """As last answered: a cam's outline takes too long to be made here at every key."""
        scene = self._workbench.scene
        solid = scene.resolved.parts.get(part.id) if scene is not None else None
        return () if solid is None else tuple(slab.region for slab in solid.slabs)

    def _fill(self) -> None:
        document = self._workbench.session.document
        wanted = self._filter.text().lower().split()
        self._list.clear()
        theme = self._workbench.theme
        used = {body.part: 0 for body in document.bodies}
        for body in document.bodies:
            used[body.part] += 1
        if document.parts:
            self._header("In this document")
        for part in document.parts:
            note = f"another one, {used.get(part.id, 0)} so far"
            icon = thumbnail(self._outlines(part), part.colour, theme)
            self._add(f"part:{part.id}", part.title, icon, wanted, note)
        for group in GROUPS:
            self._header(group)
            for item in OFFERED:
                if item.group == group:
                    icon = _cached_thumbnail(item.key, item.shown_colour, theme)
                    self._add(item.key, item.title, icon, wanted, item.note)

    def _header(self, words: str) -> None:
        """A title between rows; it takes the place of one that nothing came to stand under."""
        last = self._list.item(self._list.count() - 1)
        if last is not None and not last.flags() & Qt.ItemFlag.ItemIsEnabled:
            self._list.takeItem(self._list.count() - 1)
        item = QListWidgetItem(words)
        item.setFlags(Qt.ItemFlag.NoItemFlags)
        item.setForeground(QColor(self._workbench.theme.quiet))
        self._list.addItem(item)

    def _add(self, key: str, title: str, icon: QIcon, wanted: list[str], note: str) -> None:
        if not all(word in title.lower() for word in wanted):
            return
        item = QListWidgetItem(title)
        item.setToolTip(note or f"Place a {title}")
        item.setData(Qt.ItemDataRole.UserRole, key)
        item.setIcon(icon)
        self._list.addItem(item)

    def _take(self, item: QListWidgetItem) -> None:
        if item.data(Qt.ItemDataRole.UserRole) is None:
            # A title between the rows.
            return
        self._workbench.use_tool(f"place:{item.data(Qt.ItemDataRole.UserRole)}")
        stage = self.window().findChild(QWidget, "stage")
        if stage is not None and QApplication.activeWindow() is not None:
            stage.setFocus()


_icons: dict[tuple[str, str], QIcon] = {}


def _cached_thumbnail(key: str, colour: str, theme: Theme) -> QIcon:
    """Shelf items never change, so each is drawn once."""
    found = _icons.get((key, theme.name))
    if found is None:
        outlines = part_outlines(Document(), key)
        found = _icons[key, theme.name] = thumbnail(outlines, colour, theme)
    return found
