"""Random gestures on the real window, from a seed, so that each run can be repeated and shrunk.

Nothing is told apart: buttons, fields, lists, the stage, keys, menus' commands and dialogs are all
used as they come. What escapes, what Qt warns of, and what undo does not bring back is collected.
"""

from __future__ import annotations

import random
import sys
import traceback
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from PySide6.QtCore import (
    QEvent,
    QObject,
    QPoint,
    QPointF,
    Qt,
    QTimer,
    QtMsgType,
    qInstallMessageHandler,
)
from PySide6.QtGui import QKeyEvent, QKeySequence, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QListWidget,
    QMenu,
    QPushButton,
    QWidget,
)
from shiboken6 import isValid

from anakinema.files.native import write_document
from anakinema.resources import demo_names, demo_path
from anakinema.ui.window import MainWindow
from anakinema.ui.workbench import Selection
from tests import mechanisms as build
from tests.waiting import handle_events

TEXTS = (
    "",
    " ",
    "0",
    "12",
    "-5",
    "1e9",
    "1e-9",
    "30 deg",
    "-5 deg",
    "45 mm",
    "2 in",
    "3*crank",
    "rod",
    "12 +",
    "(",
    "abc",
    "1/0",
    "∞",
    "ünter",
    "x" * 500,
    "1..2",
    "10 rpm",
    "2 s",
    "sqrt(-1)",
    "90",
    "\t",
    "a\x0bb",
    "nan",
    "1 mm + 1 deg",
    "5 mm",
    "360 deg",
    "0.001",
    "99999999999999999999",
)
KEYS = (
    Qt.Key.Key_Return,
    Qt.Key.Key_Escape,
    Qt.Key.Key_Tab,
    Qt.Key.Key_Delete,
    Qt.Key.Key_Space,
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Home,
    Qt.Key.Key_Backspace,
    Qt.Key.Key_F,
    Qt.Key.Key_X,
    Qt.Key.Key_Y,
)
HARMLESS = ("This plugin does not support",)
"""Qt messages of the screen that is none."""
KEPT_COMMANDS = ("quit",)
COMMON = ("station_", "menu_", "search", "play", "step_", "next_", "previous_", "speed", "belt")
MODIFIERS = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
)


@dataclass
class Findings:
    """What went wrong in a run."""

    faults: list[str] = field(default_factory=list)
    warnings: list[str] = field(default_factory=list)
    differences: list[str] = field(default_factory=list)

    def __bool__(self) -> bool:
        return bool(self.faults or self.warnings or self.differences)

    def __str__(self) -> str:
        return "\n".join((*self.faults, *self.warnings, *self.differences))


class Answers(QObject):
    """Answers every modal dialog as soon as it is shown, with a random one of its buttons."""

    def __init__(self, rng: Callable[[], random.Random]) -> None:
        super().__init__()
        self._rng = rng
        self._waiting: list[QDialog] = []

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Show and isinstance(watched, QDialog) and watched.isModal():
            self._waiting.append(watched)
            QTimer.singleShot(0, self._answer_all)
        return False

    def _answer_all(self) -> None:
        for dialog in self._waiting:
            if isValid(dialog):
                self._answer(dialog)
        self._waiting.clear()

    def _answer(self, dialog: QDialog) -> None:
        if not dialog.isVisible():
            return
        buttons = [b for b in dialog.findChildren(QPushButton) if b.isVisible() and b.isEnabled()]
        if buttons and self._rng().random() < 0.9:
            self._rng().choice(buttons).click()
        if dialog.isVisible():
            dialog.reject()


@contextmanager
def watched(findings: Findings) -> Iterator[None]:
    """Collect what escapes to the hook and what Qt says."""
    old_hook = sys.excepthook

    def caught(kind, error, trace) -> None:  # type: ignore[no-untyped-def]
        findings.faults.append("".join(traceback.format_exception(kind, error, trace)))

    def stated(kind: QtMsgType, _context: object, words: str) -> None:
        if not any(each in words for each in HARMLESS):
            findings.warnings.append(f"{kind.name}: {words}")

    sys.excepthook = caught
    old_handler = qInstallMessageHandler(stated)
    try:
        yield
    finally:
        sys.excepthook = old_hook
        qInstallMessageHandler(old_handler)


class Run:
    """Gestures on a window; gesture k depends on the seed, on k, and on what the window shows."""

    def __init__(self, window: MainWindow, seed: int, folder: Path) -> None:
        self.window, self.seed, self.folder = window, seed, folder
        self.bench = window.workbench
        self.rng = random.Random(seed)
        self.stated = ""
        self.findings = Findings()
        self.bench.broke.connect(self._broke)

    def _broke(self, error: BaseException) -> None:
        words = "".join(traceback.format_exception(error))
        self.findings.faults.append(words)

    def done(self, indices: Sequence[int]) -> Findings:
        """Do these gestures, then undo all and redo all; what was found."""
        app = QApplication.instance()
        assert app is not None
        answers = Answers(lambda: self.rng)
        app.installEventFilter(answers)
        with watched(self.findings), self._no_dialogs_of_the_system():
            self._start()
            for k in indices:
                self.rng = random.Random(f"{self.seed}/{k}")
                before = len(self.findings.faults) + len(self.findings.warnings)
                self._gesture()
                app.processEvents()
                if len(self.findings.faults) + len(self.findings.warnings) > before:
                    self.findings.faults.append(f"gesture {k} of seed {self.seed}: {self.stated}")
                    break
            self._undo_all()
            self._settle()
        app.removeEventFilter(answers)
        self.bench.broke.disconnect(self._broke)
        return self.findings

    # Beginning and end -----------------------------------------------------------------------

    def _start(self) -> None:
        rng = random.Random(f"{self.seed}/start")
        for widget in (QApplication.activeModalWidget(), QApplication.activePopupWidget()):
            if widget is not None:
                widget.close()
        self.bench.session.start(self.bench.session.document)
        if rng.random() < 0.15:
            self.window.new()
        else:
            self.window.open_path(demo_path(rng.choice(demo_names())))
        self._settle()
        self.bench.go_to_station(rng.choice(("Assemble", "Drive", "Check", "Record")))
        pair = self.window.pair
        if pair.in_depth != (self.seed % 3 == 1):
            # A third begins in depth.
            pair.turn()
        QApplication.processEvents()

    def _settle(self) -> None:
        """Until nothing is computed any more, or it is asked to stop."""
        for _ in range(200):
            QApplication.processEvents()
            if not self.bench.busy:
                return
            handle_events()
        self.bench.cancel()

    def _undo_all(self) -> None:
        self.bench.play(False)
        self.bench.use_tool("")
        self.bench.finish_gesture()
        session = self.bench.session
        last = session.document
        past = session.past
        while session.undo_label is not None:
            session.undo()
        if past.done and session.document is not past.done[0].before:
            self.findings.differences.append(f"undo all of seed {self.seed} is not the beginning")
        for _ in past.done:
            session.redo()
        if session.document is not last:
            self.findings.differences.append(f"redo all of seed {self.seed} is not the end")

    @contextmanager
    def _no_dialogs_of_the_system(self) -> Iterator[None]:
        """File names and typed answers come from here, sound and unsound ones."""
        kept = QFileDialog.getOpenFileName, QFileDialog.getSaveFileName, QInputDialog.getText

        def opened(*_args: object, **_more: object) -> tuple[str, str]:
            files = [
                "",
                str(self.folder / "no such file"),
                str(self.folder),
                str(demo_path(self.rng.choice(demo_names()))),
                *(str(p) for p in sorted(self.folder.iterdir())),
            ]
            return self.rng.choice(files), ""

        def saved(*_args: object, **_more: object) -> tuple[str, str]:
            names = ("", "a.anakinema", "b", "no/such/folder.anakinema")
            name = self.rng.choice(names)
            return (str(self.folder / name) if name else ""), ""

        def typed(*_args: object, **_more: object) -> tuple[str, bool]:
            return self.rng.choice(TEXTS), self.rng.random() < 0.8

        QFileDialog.getOpenFileName = opened  # type: ignore[method-assign,assignment]
        QFileDialog.getSaveFileName = saved  # type: ignore[method-assign,assignment]
        QInputDialog.getText = typed  # type: ignore[method-assign,assignment]
        try:
            yield
        finally:
            QFileDialog.getOpenFileName = kept[0]  # type: ignore[method-assign]
            QFileDialog.getSaveFileName = kept[1]  # type: ignore[method-assign]
            QInputDialog.getText = kept[2]  # type: ignore[method-assign]

    # Gestures --------------------------------------------------------------------------------

    def _gesture(self) -> None:
        kinds: list[tuple[int, Callable[[], None]]] = [
            (30, self._press),
            (16, self._type),
            (14, self._choose),
            (10, self._list),
            (26, self._stage),
            (14, self._key),
            (10, self._command),
            (6, self._select),
            (5, self._play),
            (6, self._undo),
            (3, self._wait),
            (4, self._station),
            (3, self._wheel),
        ]
        weights = [weight for weight, _ in kinds]
        self.rng.choices([run for _, run in kinds], weights)[0]()

    def _visible(self, kind: type) -> list:  # type: ignore[type-arg]
        top = QApplication.activeModalWidget() or self.window
        found = [w for w in top.findChildren(kind) if w.isVisible() and w.isEnabled()]
        return sorted(found, key=lambda w: (w.objectName(), w.mapTo(top, QPoint(0, 0)).y()))

    def _one(self, kind: type):  # type: ignore[no-untyped-def]
        found = self._visible(kind)
        return self.rng.choice(found) if found else None

    def _press(self) -> None:
        button = self._one(QAbstractButton)
        if button is not None and button.objectName().startswith(COMMON):
            # What is always there would be pressed most of the time.
            button = self._one(QAbstractButton)
        if button is not None:
            self.stated = f"press {button.objectName()} {button.text()!r}"
            QTest.mouseClick(button, Qt.MouseButton.LeftButton)
            self._menus_away()

    def _menus_away(self) -> None:
        popup = QApplication.activePopupWidget()
        if isinstance(popup, QMenu):
            popup.close()
        elif popup is not None:
            popup.hide()

    def _type(self) -> None:
        edit = self._one(QLineEdit)
        if edit is None:
            return
        text = self.rng.choice(TEXTS)
        self.stated = f"type {text[:20]!r} into {edit.objectName()}"
        edit.setFocus()
        if self.rng.random() < 0.8:
            edit.selectAll()
            QTest.keyClick(edit, Qt.Key.Key_Delete)
        for letter in text[:60]:
            # As a keyboard or an input method would; QTest only knows ASCII.
            for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                QApplication.sendEvent(
                    edit, QKeyEvent(kind, 0, Qt.KeyboardModifier.NoModifier, letter)
                )
        end = self.rng.choice(
            (Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_Up, None)
        )
        if end is not None:
            QTest.keyClick(edit, end)

    def _choose(self) -> None:
        box = self._one(QComboBox)
        if box is not None and box.count():
            index = self.rng.randrange(box.count())
            self.stated = f"choose {index} of {box.objectName()}"
            box.setCurrentIndex(index)
            box.activated.emit(index)

    def _list(self) -> None:
        shown = self._one(QListWidget)
        if shown is None or not shown.count():
            return
        item = shown.item(self.rng.randrange(shown.count()))
        self.stated = f"click {item.text()!r} in {shown.objectName()}"
        shown.scrollToItem(item)
        at = shown.visualItemRect(item).center()
        way = self.rng.random()
        if way < 0.7:
            QTest.mouseClick(shown.viewport(), Qt.MouseButton.LeftButton, pos=at)
        elif way < 0.85:
            QTest.mouseDClick(shown.viewport(), Qt.MouseButton.LeftButton, pos=at)
        else:
            QTest.keyClick(shown, self.rng.choice(KEYS))
        self._menus_away()

    def _shown(self) -> QWidget:
        """What stands in the middle of the window; of a pair the one in front."""
        shown = self.window.middle.currentWidget()
        return self.window.pair.front if shown is self.window.pair else shown

    def _stage(self) -> None:
        stage = self._shown()
        canvases = [w for w in (stage, *stage.findChildren(QWidget)) if w.isVisible()]
        target = stage if self.rng.random() < 0.6 else self.rng.choice(canvases)
        if self.rng.random() < 0.15:
            target = self.rng.choice(self.window.strip.findChildren(QWidget) or [target])
        if not target.isVisible() or target.width() < 10 or target.height() < 10:
            return
        points = [
            QPoint(self.rng.randrange(target.width()), self.rng.randrange(target.height()))
            for _ in range(3)
        ]
        held = self.rng.choice(MODIFIERS)
        left, way = Qt.MouseButton.LeftButton, self.rng.random()
        self.stated = f"mouse {way:.2f} on {target.objectName() or type(target).__name__} {points}"
        if way < 0.35:
            QTest.mouseClick(target, left, held, points[0])
        elif way < 0.75:
            QTest.mousePress(target, left, held, points[0])
            for point in points[1:]:
                QTest.mouseMove(target, point)
                if self.rng.random() < 0.1:
                    QTest.keyClick(target, self.rng.choice(KEYS))
            QTest.mouseRelease(target, left, held, points[-1])
        elif way < 0.85:
            QTest.mouseDClick(target, left, held, points[0])
        elif way < 0.95:
            QTest.mouseClick(target, Qt.MouseButton.RightButton, held, points[0])
        else:
            QTest.mousePress(target, Qt.MouseButton.MiddleButton, held, points[0])
            QTest.mouseMove(target, points[1])
            QTest.mouseRelease(target, Qt.MouseButton.MiddleButton, held, points[1])
        self._menus_away()

    def _wheel(self) -> None:
        stage = self._shown()
        at = QPointF(self.rng.randrange(max(stage.width(), 1)), 50.0)
        turn = QPoint(0, self.rng.choice((-600, -120, 120, 600)))
        self.stated = f"wheel {turn}"
        QApplication.sendEvent(
            stage,
            QWheelEvent(
                at,
                QPointF(stage.mapToGlobal(at.toPoint())),
                QPoint(),
                turn,
                Qt.MouseButton.NoButton,
                self.rng.choice(MODIFIERS),
                Qt.ScrollPhase.NoScrollPhase,
                False,
            ),
        )

    def _key(self) -> None:
        key, held = self.rng.choice(KEYS), self.rng.choice(MODIFIERS)
        target = QApplication.focusWidget() or self.window
        self.stated = f"key {key} {held} on {target.objectName()}"
        QTest.keyClick(target, key, held)

    def _command(self) -> None:
        command = self.rng.choice([c for c in self.window.commands if c.id not in KEPT_COMMANDS])
        self.stated = f"command {command.id}"
        if not command.is_enabled():
            return
        keys = QKeySequence(command.shortcut)
        if keys.count() == 1 and self.rng.random() < 0.5:
            combination = keys[0]
            QTest.keyClick(
                QApplication.focusWidget() or self.window,
                combination.key(),
                combination.keyboardModifiers(),
            )
        else:
            command.run()
        self._menus_away()

    def _select(self) -> None:
        document = self.bench.session.document
        pool = [Selection("body", body.id) for body in document.bodies]
        pool += [Selection("joint", joint.id) for joint in document.joints]
        pool += [Selection("driver", driver.id) for driver in document.program.drivers]
        pool += [Selection("body", "gone"), Selection("joint", "gone"), Selection()]
        chosen = self.rng.choice(pool)
        self.stated = f"select {chosen}"
        self.bench.select(chosen)

    def _play(self) -> None:
        way = self.rng.random()
        self.stated = f"play {way:.2f}"
        if way < 0.4:
            self.bench.play(not self.bench.is_playing)
        elif way < 0.7:
            self.bench.move_playhead(self.rng.uniform(-0.5, 3.0))
        else:
            self.bench.advance(self.rng.choice((0.0, 0.016, 0.5, 100.0)))

    def _undo(self) -> None:
        self.stated = "undo or redo"
        for _ in range(self.rng.randrange(1, 4)):
            (self.bench.undo if self.rng.random() < 0.6 else self.bench.redo)()

    def _wait(self) -> None:
        self.stated = "wait"
        self._settle()

    def _station(self) -> None:
        station = self.rng.choice(("Assemble", "Drive", "Check", "Record"))
        self.stated = f"go to {station}"
        self.bench.go_to_station(station)


def shrunk(fails: Callable[[Sequence[int]], bool], indices: Sequence[int], most: int) -> list[int]:
    """A short list of gestures that still fails, found in at most ``most`` runs."""
    left, size, runs = list(indices), max(len(indices) // 2, 1), 0
    while size >= 1 and runs < most:
        k = 0
        while k < len(left) and runs < most:
            tried = left[:k] + left[k + size :]
            runs += 1
            if tried and fails(tried):
                left = tried
            else:
                k += size
        size //= 2
    return left


def mechanism_files(folder: Path) -> None:
    """Files, sound and unsound, that gestures may open or import."""
    (folder / "empty.anakinema").write_text("")
    (folder / "cut.anakinema").write_text(demo_path("water-pump").read_text("utf-8")[:900])
    (folder / "square.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg"><rect width="30" height="20"/></svg>'
    )
    (folder / "bad.dxf").write_text("no drawing")
    (folder / "picture.png").write_bytes(b"\x89PNG\r\n\x1a\nrubbish")
    write_document(build.four_bar(40, 120, 80, 140, 1.0), folder / "bar.anakinema")
