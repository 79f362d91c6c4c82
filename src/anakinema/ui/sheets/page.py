"""The page of sheets: a list of them, the one on show, and what they say."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, get_args

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from anakinema.authoring import poses_to_draw
from anakinema.document import model
from anakinema.edits import Edit, SetSheetDimension, SetSheets
from anakinema.record import SHEET_KINDS, Leaf, Sheet, as_set, changes_since, issue_of, leaves_of
from anakinema.ui.fields import choice_box, fill_choice, label, row
from anakinema.ui.guarded import guarded
from anakinema.ui.inspector.form import FIELD, Form
from anakinema.ui.sheets.view import SheetView
from anakinema.ui.workbench import Workbench
from anakinema.ui.worker import Worker

LISTED, SAID = 210, 272
"""Widths of the list and of what the sheets say, px."""
KEY = Qt.ItemDataRole.UserRole
Leaves = dict[str, tuple[Leaf, ...]]


@guarded
class SheetsPage(QWidget):
    """Sheets are drawn beside the window, the kind on show first; the newest state wins."""

    done = Signal()
    write_asked = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("sheets_page")
        self._bench = workbench
        self._leaves: Leaves = {}
        self._is_whole = False
        self.sheets: list[Sheet] = []
        self._worker = Worker("drawing", self)
        self._worker.answered.connect(self._drawn)
        self._worker.broke.connect(lambda _, error: workbench.broke.emit(error))
        self.list = QListWidget()
        self.list.setObjectName("sheets_list")
        self.list.setAccessibleName("sheets")
        self.list.setFixedWidth(LISTED)
        self.list.setWordWrap(True)
        self.list.currentRowChanged.connect(self._turn)
        self.view = SheetView(workbench)
        self.view.chosen.connect(self._chosen)
        self.view.moved.connect(self._moved)
        self._state = label("", "quiet", wrap=True)
        self._state.setObjectName("sheets_state")
        said = QWidget()
        said.setObjectName("sheets_said")
        column = QVBoxLayout(said)
        column.setContentsMargins(12, 10, 12, 10)
        self.form = Form(workbench, column)
        self._build_form(column)
        column.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFixedWidth(SAID)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(said)
        left = QVBoxLayout()
        left.addWidget(self.list, 1)
        left.addWidget(self._state)
        for name, words, signal in (
            ("sheets_write", "Write as PDF…", self.write_asked),
            ("sheets_back", "Back to the stage", self.done),
        ):
            button = QPushButton(words)
            button.setObjectName(name)
            button.setFixedWidth(LISTED)
            button.clicked.connect(signal)
            left.addWidget(button)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 12, 0, 12)
        layout.addLayout(left)
        layout.addWidget(self.view, 1)
        layout.addWidget(area)
        workbench.evaluated.connect(self.draw_anew)
        workbench.document_changed.connect(self._refreshed)

    def stop(self) -> None:
        """End the thread."""
        self._worker.stop()

    # What the sheets say ------------------------------------------------------------------------

    @property
    def _settings(self) -> model.SheetSettings:
        return self._bench.session.document.sheets

    def _build_form(self, column: QVBoxLayout) -> None:
        form = self.form
        form.section("On every sheet")
        papers = tuple((name, f"up to {name}") for name in get_args(model.PaperName))
        form.choice(
            "Paper",
            "sheets_paper",
            papers,
            lambda: self._settings.paper,
            lambda name: SetSheets("paper", name),
        )
        form.choice(
            "Projection",
            "sheets_projection",
            (("first", "first angle"), ("third", "third angle")),
            lambda: self._settings.projection,
            lambda name: SetSheets("projection", name),
        )
        for words, which in (("Revision", "revision"), ("Date", "date"), ("Drawn by", "drawn_by")):
            form.text(
                words,
                f"sheets_{which}",
                lambda which=which: getattr(self._settings, which),  # type: ignore[misc]
                lambda text, which=which: SetSheets(which, text),  # type: ignore[misc]
            )
        self._pose = choice_box("sheets_pose", "pose to draw")
        self._pose.activated.connect(self._set_pose)
        column.addWidget(row("Drawn at", self._pose, width=FIELD))
        form.section("Dimensions of this sheet")
        self.dimensions = QListWidget()
        self.dimensions.setObjectName("sheets_dimensions")
        self.dimensions.setAccessibleName("dimensions of this sheet")
        self.dimensions.setFixedHeight(132)
        self.dimensions.itemChanged.connect(self._ticked)
        self.dimensions.currentItemChanged.connect(
            lambda item, _: self.view.pick("" if item is None else item.data(KEY))
        )
        column.addWidget(self.dimensions)
        form.quiet("Drag a dimension on the sheet, or untick it. Delete hides the one chosen.")
        form.buttons(
            ("sheets_nearer", "Nearer", lambda: self._push(-2.0)),
            ("sheets_farther", "Farther", lambda: self._push(2.0)),
        )
        form.section("One more dimension")
        self._first = choice_box("sheets_first", "from")
        self._second = choice_box("sheets_second", "to")
        self._way = choice_box("sheets_way", "way")
        fill_choice(self._way, (("level", "level"), ("upright", "upright")), 0)
        column.addWidget(row("From", self._first, width=FIELD))
        column.addWidget(row("To", self._second, width=FIELD))
        column.addWidget(row("Measured", self._way, width=FIELD))
        form.buttons(
            ("sheets_add", "Add it", self._add), ("sheets_remove", "Take it away", self._remove)
        )
        form.section("Given away")
        self._issued = label("", "plain", wrap=True)
        self._issued.setObjectName("sheets_issued")
        column.addWidget(self._issued)
        form.buttons(("sheets_issue", "Issue this revision", self._issue))
        form.quiet("From then on sheets that are otherwise say so in the list.")

    def _do(self, edit: Edit) -> None:
        self._bench.do(edit)
        self._bench.finish_gesture()

    def _set_pose(self, index: int) -> None:
        self._do(SetSheets("pose", self._pose.itemData(index) or None))

    def _sheet_part(self) -> str:
        """The part that the sheet on show is of, '' for none."""
        sheet = self.view.sheet
        head, _, part = ("", "", "") if sheet is None else sheet.leaf.key.partition("/")
        return part if head == "part" else ""

    def _add(self) -> None:
        part = self._sheet_part()
        first, second = self._first.currentData(), self._second.currentData()
        if not part or not first or first == second:
            self._bench.report("A dimension is between two different places of the part on show.")
            return
        new = model.AddedDimension(
            part=part, first=first, second=second, way=self._way.currentData()
        )
        added = self._settings.added
        if new.key not in {each.key for each in added}:
            self._do(SetSheets("added", (*added, new)))

    def _remove(self) -> None:
        kept = tuple(each for each in self._settings.added if each.key != self.view.picked)
        if kept == self._settings.added:
            self._bench.report("Choose a dimension that was added; others can be hidden.")
            return
        self._do(SetSheets("added", kept))

    def _issue(self) -> None:
        settings = self._settings
        if not self.sheets or not self._is_whole:
            self._bench.report("The sheets are still being drawn: try again in a moment.")
            return
        issue = issue_of(self.sheets, settings.revision, settings.date)
        self._do(SetSheets("issued", issue))

    # Dimensions ---------------------------------------------------------------------------------

    def _stored(self, key: str) -> model.SheetDimension:
        found = (each for each in self._settings.dimensions if each.key == key)
        return next(found, model.SheetDimension(key=key))

    def _moved(self, key: str, away: float) -> None:
        """Farther by some mm than it stands now, which may be farther than by itself."""
        sheet = self.view.sheet
        shown = sheet and next((d for d in sheet.leaf.dimensions if d.key == key), None)
        if not shown:
            return
        stored = self._stored(key)
        wanted = round(shown.away + away, 2)
        new = stored.model_copy(update={"away": min(max(wanted, -2000.0), 2000.0)})
        self._do(SetSheetDimension(new))

    def _push(self, away: float) -> None:
        if self.view.picked:
            self._moved(self.view.picked, away)
        else:
            self._bench.report("Choose a dimension in the list or on the sheet first.")

    def _hide(self, key: str) -> None:
        self._do(SetSheetDimension(self._stored(key).model_copy(update={"hidden": True})))

    def _ticked(self, item: QListWidgetItem) -> None:
        hidden = item.checkState() is not Qt.CheckState.Checked
        stored = self._stored(item.data(KEY))
        if stored.hidden != hidden:
            self._do(SetSheetDimension(stored.model_copy(update={"hidden": hidden})))

    def _chosen(self, key: str) -> None:
        for k in range(self.dimensions.count()):
            if self.dimensions.item(k).data(KEY) == key:
                self.dimensions.setCurrentRow(k)
                return
        self.dimensions.setCurrentRow(-1)

    # Drawing ------------------------------------------------------------------------------------

    def draw_anew(self) -> None:
        """Draw all sheets of the newest result, if they are on show."""
        bench = self._bench
        evaluation, poses = bench.evaluation, bench.shown_poses()
        if not self.isVisible() or evaluation is None or poses is None:
            return
        if not evaluation.is_exact or len(poses) != len(evaluation.resolved.poses):
            return
        sheet, shown = self.view.sheet, poses.copy()
        first = "" if sheet is None else sheet.leaf.key.partition("/")[0]
        kinds = sorted(
            (kind.id for kind in SHEET_KINDS), key=lambda kind: not kind.startswith(first or "arr")
        )

        def task() -> Iterator[object]:
            drawn = poses_to_draw(evaluation, shown)
            found: Leaves = {}
            for kind in kinds:
                found[kind] = leaves_of(evaluation, drawn, kind)
                yield evaluation, dict(found)

        self._is_whole = False
        self._state.setText("Drawing…")
        self._worker.request(task)

    def _drawn(self, _: int, answer: Any) -> None:
        evaluation, fresh = answer
        # What is not drawn anew yet stands as it was.
        self._leaves = {**self._leaves, **fresh}
        self._is_whole = len(fresh) == len(SHEET_KINDS)
        if len(self._leaves) == len(SHEET_KINDS):
            leaves = [leaf for kind in SHEET_KINDS for leaf in self._leaves[kind.id]]
            self.sheets = as_set(evaluation, leaves)
            self._show_list()
        if self._is_whole:
            self._state.setText("" if self.sheets else "There is nothing to draw in it yet.")

    def _show_list(self) -> None:
        issued = self._settings.issued
        changes = changes_since(issued, self.sheets) if issued is not None else {}
        sheet = self.view.sheet
        wanted = "arrangement" if sheet is None else sheet.leaf.key
        self.list.blockSignals(True)
        self.list.clear()
        for k, each in enumerate(self.sheets, start=1):
            words = f"{k}  {each.title}"
            if each.leaf.key in changes:
                words += f"\n{changes[each.leaf.key]}"
            item = QListWidgetItem(words)
            item.setData(KEY, each.leaf.key)
            self.list.addItem(item)
        rows = [k for k, each in enumerate(self.sheets) if each.leaf.key == wanted]
        self.list.setCurrentRow(rows[0] if rows else 0)
        self.list.blockSignals(False)
        self._turn(self.list.currentRow())
        self._show_issued(len(changes))

    def _show_issued(self, changed: int) -> None:
        issued = self._settings.issued
        if issued is None:
            self._issued.setText("Not issued yet.")
            return
        named = " ".join(
            each for each in (issued.revision or "without a name", issued.date) if each
        )
        now = f"{changed} sheets are otherwise" if changed else "all sheets are as they were"
        self._issued.setText(f"Issued: {named}; {now}.")

    def _turn(self, index: int) -> None:
        self.view.show_sheet(self.sheets[index] if 0 <= index < len(self.sheets) else None)
        self._show_dimensions()
        self._show_places()

    def _show_dimensions(self) -> None:
        sheet, picked = self.view.sheet, self.view.picked
        self.dimensions.blockSignals(True)
        self.dimensions.clear()
        if sheet is not None:
            rows = [(d.key, f"{_name(d.key)}  {d.words}", True) for d in sheet.leaf.dimensions]
            # A hidden one belongs to the sheet whose key it begins with.
            rows += [
                (d.key, _name(d.key), False)
                for d in self._settings.dimensions
                if d.hidden and d.key.startswith(f"{sheet.leaf.key}/")
            ]
            for key, words, shown in rows:
                item = QListWidgetItem(words)
                item.setData(KEY, key)
                item.setCheckState(Qt.CheckState.Checked if shown else Qt.CheckState.Unchecked)
                self.dimensions.addItem(item)
                if key == picked:
                    self.dimensions.setCurrentItem(item)
        self.dimensions.blockSignals(False)

    def _show_places(self) -> None:
        part = self._sheet_part()
        entries: tuple[tuple[str, str], ...] = ()
        parts = self._bench.session.document.parts
        if part in {each.id for each in parts}:
            places = model.next_by_id(parts, part).places
            entries = tuple((place.id, place.id.replace("_", " ")) for place in places)
        for box, index in ((self._first, 0), (self._second, 1)):
            kept = box.currentData()
            ids = [each for each, _ in entries]
            index = ids.index(kept) if kept in ids else min(index, len(ids) - 1)
            fill_choice(box, entries, index)

    def _refreshed(self) -> None:
        if not self.isVisible():
            return
        self.form.refresh()
        poses = tuple((pose.id, pose.title) for pose in self._bench.session.document.poses)
        entries = (("", "the pose on show"), *poses)
        ids = [each for each, _ in entries]
        wanted = self._settings.pose or ""
        self._pose.clear()
        fill_choice(self._pose, entries, ids.index(wanted) if wanted in ids else 0)
        self._show_dimensions()

    def event(self, event: QEvent) -> bool:
        # Delete means the dimension here, never the body that is selected out of sight.
        is_asked = event.type() == QEvent.Type.ShortcutOverride
        if is_asked and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Delete:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() != Qt.Key.Key_Delete:
            super().keyPressEvent(event)
        elif self.view.picked:
            self._hide(self.view.picked)

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self._refreshed()
        self.draw_anew()


def _name(key: str) -> str:
    """'width', 'pivot to eye, level'."""
    return key.rpartition("/")[2].replace("_", " ")
