"""The Assemble drawer: the shelf, the chain map or the lists, and below what is doubtful."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from anakinema.authoring import Diagnostic, diagnostics_of
from anakinema.findings import Outcome, mobility_words
from anakinema.ui.drawers.chain_map import ChainMapView
from anakinema.ui.drawers.parameters import ParameterTable
from anakinema.ui.drawers.shelf import Shelf
from anakinema.ui.fields import clear, label
from anakinema.ui.workbench import Selection, Workbench

MARKS = {Outcome.PASS: "•", Outcome.WARN: "◆", Outcome.FAIL: "▲", Outcome.UNKNOWN: "○"}
DOUBTS = 122
"""Pixels for what is doubtful: one with its remedy, the rest by scrolling."""
NARROWEST = 186
"""Pixels for the words of a doubt beside two bars to scroll by."""
PAGES = ("Parts", "Map", "List", "Sizes")


class DiagnosticRow(QWidget):
    """One doubt: click shows what it is about; the button mends it."""

    def __init__(self, workbench: Workbench, diagnostic: Diagnostic, index: int) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 2)
        layout.setSpacing(2)
        show = QPushButton()
        show.setObjectName(f"doubt_{index}")
        show.setProperty("flat", True)
        show.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        show.setAccessibleName(diagnostic.words)
        words = QLabel(f"◆ {diagnostic.words}")
        words.setWordWrap(True)
        words.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        inner = QVBoxLayout(show)
        inner.setContentsMargins(2, 1, 2, 1)
        inner.addWidget(words)
        show.setMinimumHeight(words.heightForWidth(NARROWEST) + 4)
        layout.addWidget(show)
        show.clicked.connect(lambda: workbench.select(_selection(diagnostic)))
        fix = diagnostic.fix
        if fix is not None:
            mend = QPushButton(diagnostic.remedy)
            mend.setObjectName(f"doubt_{index}_fix")
            mend.setFocusPolicy(Qt.FocusPolicy.TabFocus)

            def run() -> None:
                workbench.do_once(fix)

            mend.clicked.connect(run)
            layout.addWidget(mend, 0, Qt.AlignmentFlag.AlignLeft)


def _selection(diagnostic: Diagnostic) -> Selection:
    if diagnostic.bodies:
        return Selection("body", diagnostic.bodies[0], diagnostic.bodies[1:])
    return Selection("joint", diagnostic.joints[0]) if diagnostic.joints else Selection()


class AssembleDrawer(QWidget):
    """One of four pages; below it what is doubtful."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        # Low enough together that no page makes the drawer scroll.
        self._bodies = self._list("body_list", "bodies", 64)
        self._joints = self._list("joint_list", "joints", 64)
        self._planes = self._list("plane_list", "planes", 48)
        self._words = label("", wrap=True)
        self._words.setObjectName("mobility")
        self._diagnostics = QVBoxLayout()
        self._diagnostics.setSpacing(0)
        self._shown_diagnostics: tuple[Diagnostic, ...] | None = None
        self._listed: dict[QListWidget, object] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 12, 10)
        layout.setSpacing(6)
        buttons = QHBoxLayout()
        buttons.setSpacing(4)
        self._pages = QStackedWidget()
        self._buttons: dict[str, QPushButton] = {}
        for k, name in enumerate(PAGES):
            button = QPushButton(name)
            button.setObjectName(f"assemble_{name.lower()}")
            button.setProperty("flat", True)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setAutoExclusive(True)
            button.clicked.connect(lambda _=False, page=k: self._pages.setCurrentIndex(page))
            buttons.addWidget(button)
            self._buttons[name] = button
        layout.addLayout(buttons)
        layout.addWidget(self._pages, 1)
        # In a place of its own: what is doubtful comes and goes without moving anything.
        doubts = QScrollArea()
        doubts.setObjectName("doubts")
        doubts.setWidgetResizable(True)
        doubts.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        doubts.setFixedHeight(DOUBTS)
        holder = QWidget()
        inside = QVBoxLayout(holder)
        inside.setContentsMargins(0, 0, 6, 0)
        inside.addLayout(self._diagnostics)
        inside.addStretch(1)
        doubts.setWidget(holder)
        layout.addWidget(doubts)
        self.shelf = Shelf(workbench)
        self._pages.addWidget(self.shelf)
        self.chain = ChainMapView(workbench)
        self._pages.addWidget(self._page(self._words, self.chain, stretch=True))
        self._pages.addWidget(
            self._page(
                label("Bodies", "section"),
                self._bodies,
                label("Joints", "section"),
                self._joints,
                label("Planes", "section"),
                self._planes,
            )
        )
        self._pages.addWidget(ParameterTable(workbench))
        self._buttons["Parts"].setChecked(True)
        self._bodies.itemActivated.connect(lambda item: self._choose("body", item))
        self._bodies.itemClicked.connect(lambda item: self._choose("body", item))
        self._joints.itemActivated.connect(lambda item: self._choose("joint", item))
        self._joints.itemClicked.connect(lambda item: self._choose("joint", item))
        self._planes.itemActivated.connect(lambda item: self._choose("plane", item))
        self._planes.itemClicked.connect(lambda item: self._choose("plane", item))
        workbench.plane_changed.connect(self._show_scene)
        workbench.scene_changed.connect(self._show_scene)
        workbench.theme_changed.connect(self._show_scene)
        workbench.evaluated.connect(self._show_words)
        workbench.selection_changed.connect(self._show_selection)
        self._show_scene()
        self._show_words()

    def show_page(self, name: str) -> None:
        """Turn to a page: 'Parts', 'Map', 'List' or 'Sizes'."""
        self._buttons[name].click()

    def show_shelf(self) -> None:
        """Turn to the shelf, with the keys in its search."""
        self.show_page("Parts")
        self.shelf.begin()

    def _page(self, *widgets: QWidget, stretch: bool = False) -> QWidget:
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        for widget in widgets:
            layout.addWidget(widget)
        if stretch:
            layout.addStretch(1)
        return page

    def _list(self, name: str, words: str, least: int) -> QListWidget:
        widget = QListWidget()
        widget.setObjectName(name)
        widget.setAccessibleName(words)
        widget.setIconSize(QSize(14, 14))
        widget.setMinimumHeight(least)
        widget.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        kind = name.removesuffix("_list")
        widget.customContextMenuRequested.connect(partial(self._menu, widget, kind))
        widget.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        return widget

    def _menu(self, widget: QListWidget, kind: str, at: QPoint) -> None:
        item = widget.itemAt(at)
        if item is not None:
            self._choose(kind, item)
            chosen = self._workbench.selection
            self._workbench.menu_asked.emit(chosen, widget.viewport().mapToGlobal(at))

    def _choose(self, kind: str, item: QListWidgetItem) -> None:
        self._workbench.select(Selection(kind, str(item.data(Qt.ItemDataRole.UserRole))))

    def _chip(self, colour: str) -> QIcon:
        pixmap = QPixmap(28, 28)
        pixmap.setDevicePixelRatio(2.0)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(QColor(self._workbench.theme.bodies[colour]))
        painter.setPen(QColor(self._workbench.theme.shade))
        painter.drawRoundedRect(1, 1, 12, 12, 3, 3)
        painter.end()
        chip = QIcon(pixmap)
        chip.addPixmap(pixmap, QIcon.Mode.Selected)
        return chip

    def _show_scene(self) -> None:
        """Lists of what there is, switched-off things and all."""
        document = self._workbench.session.document
        colours = {part.id: part.colour for part in document.parts}
        bodies = [
            (
                b.id,
                f"{b.title}{', fixed' if b.fixed else ''}{', off' if b.off else ''}",
                colours.get(b.part),
            )
            for b in document.bodies
        ]
        joints = [
            (j.id, f"{j.title}  ({j.kind.replace('_', ' ')}{', off' if j.off else ''})", None)
            for j in document.joints
        ]
        here = self._workbench.plane
        planes = [
            (p.id, f"{p.title}{', worked on' if p.id == here else ''}", None)
            for p in document.planes
        ]
        for widget, items in (
            (self._bodies, bodies),
            (self._joints, joints),
            (self._planes, planes),
        ):
            shown = (items, self._workbench.theme.name)
            if self._listed.get(widget) == shown:
                continue
            self._listed[widget] = shown
            widget.clear()
            for item_id, words, colour in items:
                item = QListWidgetItem(words)
                item.setData(Qt.ItemDataRole.UserRole, item_id)
                if colour is not None:
                    item.setIcon(self._chip(colour))
                widget.addItem(item)
        self._show_diagnostics()

    def _show_words(self) -> None:
        evaluation = self._workbench.evaluation
        rows = mobility_words(evaluation) if evaluation is not None else []
        self._words.setText("\n".join(f"{MARKS[outcome]} {words}" for outcome, words in rows))
        self._show_diagnostics()

    def _show_diagnostics(self) -> None:
        scene = self._workbench.scene
        found: tuple[Diagnostic, ...] = ()
        if scene is not None:
            found = diagnostics_of(scene.resolved, self._workbench.evaluation)
        if found == self._shown_diagnostics:
            return
        self._shown_diagnostics = found
        clear(self._diagnostics)
        for k, diagnostic in enumerate(found[:4]):
            self._diagnostics.addWidget(DiagnosticRow(self._workbench, diagnostic, k))
        if len(found) > 4:
            self._diagnostics.addWidget(label(f"and {len(found) - 4} more", "quiet"))

    def _show_selection(self) -> None:
        selection = self._workbench.selection
        shown = (("body", self._bodies), ("joint", self._joints), ("plane", self._planes))
        for kind, widget in shown:
            widget.clearSelection()
            for i in range(widget.count()):
                item = widget.item(i)
                if selection == Selection(kind, str(item.data(Qt.ItemDataRole.UserRole))):
                    widget.setCurrentItem(item)
