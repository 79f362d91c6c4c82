"""The hand of the whole window: it keeps still, finds and names everything, and fits any screen."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QAccessible, QContextMenuEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QDialog,
    QFileDialog,
    QLabel,
    QLineEdit,
    QListWidget,
    QMenu,
    QWidget,
)

from anakinema.authoring import all_snaps, drawn
from anakinema.document import Going
from anakinema.edits import Remove, SetDimension, SetStage
from anakinema.resources import demo_path, guide_pages, install_for_user
from anakinema.settings import TEXT_SIZES
from anakinema.ui.commands import GROUPS, found
from anakinema.ui.fields import QuantityField, significant
from anakinema.ui.miniature import MiniatureCard
from anakinema.ui.workbench import Selection
from tests.ui.test_assemble import CONTROL, Hand
from tests.waiting import answering, pressing, until

LEFT = Qt.MouseButton.LeftButton
STATIONS = ("Assemble", "Drive", "Check", "Record")


@pytest.fixture
def shuttle(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    """The tray shuttle at Check."""
    window = opened("tray-shuttle")
    window.activateWindow()
    until(window.isActiveWindow)
    return Hand(qtbot, window, settled)


# Start ---------------------------------------------------------------------------------------


def test_ready_mechanisms_are_drawn_and_run_while_pointed_at(qtbot, window) -> None:  # type: ignore[no-untyped-def]
    card = window.findChild(MiniatureCard, "demo_vent-opener")
    until(lambda: card.is_drawn)
    assert not card.runs
    card.setFocus()
    until(lambda: card.runs and card.share > 0.02)
    window.desk.switch_still()
    card.clearFocus()
    card.setFocus()
    assert not card.runs, "nothing moves where all is to keep still"
    assert all(not s.isEnabled() for s in window.route.stations.values())
    assert not any(s.isChecked() for s in window.route.stations.values())


# Values ------------------------------------------------------------------------------------------


@pytest.mark.parametrize("before", ["", "1/0", "abc"])
def test_a_value_that_cannot_be_read_goes_whatever_was_refused_before(
    shuttle: Hand, before: str
) -> None:
    """A refusal that left the document alone must not hide that the next value breaks it."""
    bench, name = shuttle.bench, "dimension_rocker_length"
    bench.select(Selection("body", "rocker"))
    document = bench.session.document
    field = shuttle.child(QuantityField, name)
    field.setFocus()
    field.selectAll()
    for key in (before or Qt.Key.Key_Backspace, Qt.Key.Key_Return):
        (shuttle.qtbot.keyClicks if isinstance(key, str) else shuttle.qtbot.keyClick)(field, key)
    shuttle.settled(shuttle.window)
    assert bench.session.document == document
    for value, why in (("1e400", "not a finite number"), ("3 kg", "a length is needed")):
        shuttle.retype(name, value)
        until(lambda: bench.session.document == document)
        assert why in shuttle.child(QLabel, "refusal").text()
    shuttle.retype(name, "228 mm")
    assert bench.session.document != document and bench.trouble is None


# Nothing jumps ---------------------------------------------------------------------------------


def test_edits_doubts_and_messages_move_nothing(shuttle: Hand) -> None:
    window, bench = shuttle.window, shuttle.bench

    def places() -> list[object]:
        widgets = (window.stage, window.strip, window.bar, window.route, window.inspector)
        found = [(w.mapTo(window, QPoint(0, 0)), w.size()) for w in widgets]
        return [*found, window.stage.view]

    for station in STATIONS:
        bench.go_to_station(station)
        shuttle.settled(window)
        bench.move_playhead(0.37)
        before, progress = places(), bench.progress
        bench.do(SetDimension("push_rod", "length", "118.4 mm"))
        bench.finish_gesture()
        shuttle.settled(window)
        bench.report("Something to read: it stands over the lower edge of the stage.")
        assert places() == before, station
        assert bench.progress == progress
        bench.undo()
        shuttle.settled(window)
        assert places() == before and bench.progress == progress, station
    assert len({str(places()[0]) for _ in range(2)}) == 1


def test_commands_leave_the_playhead_where_it_is(shuttle: Hand) -> None:
    bench, window = shuttle.bench, shuttle.window
    bench.go_to_station("Assemble")
    bench.select(Selection("body", "guard_post"))
    shuttle.settled(window)
    bench.move_playhead(0.37)
    before = bench.shown_poses()[:6].copy()
    for key, modifier in ((Qt.Key.Key_C, CONTROL), (Qt.Key.Key_V, CONTROL)):
        shuttle.key(key, modifier)
    assert len(bench.session.document.bodies) == 7
    assert bench.progress == 0.37
    assert bench.shown_poses()[:6] == pytest.approx(before, abs=1e-9)
    shuttle.key(Qt.Key.Key_Delete)
    assert len(bench.session.document.bodies) == 6 and bench.progress == 0.37


@pytest.mark.parametrize("size", [(1000, 640), (1280, 800), (2560, 1440)])
def test_the_window_fits_its_screen_and_the_time_axis_is_whole(
    opened, settled, size: tuple[int, int]
) -> None:  # type: ignore[no-untyped-def]
    window = opened("transfer-arm")
    window.resize(*size)
    QApplication.processEvents()
    assert (window.width(), window.height()) == size
    for station in STATIONS:
        window.workbench.go_to_station(station)
        settled(window)
        QApplication.processEvents()
        lanes = window.strip.lanes
        bottom = lanes.mapTo(window, QPoint(0, lanes.height())).y()
        assert bottom <= window.height(), station
        right = window.route.menu_button.mapTo(window, QPoint(0, 0)).x()
        assert right + window.route.menu_button.width() <= window.width(), station
        assert window.stage.width() > 300 and window.stage.height() > 150


def test_panels_fold_by_keys_and_the_stage_fills_the_window(shuttle: Hand) -> None:
    window = shuttle.window
    wide, high = window.stage.width(), window.stage.height()
    shuttle.command("alone")
    QApplication.processEvents()
    assert not window.strip.isVisible() and not window.inspector.isVisible()
    assert window.stage.width() == window.width() and window.stage.height() > high + 150
    shuttle.command("alone")
    QApplication.processEvents()
    assert (window.stage.width(), window.stage.height()) == (wide, high)
    shuttle.command("fold_left")
    QApplication.processEvents()
    assert window.stage.width() == wide + 252


def test_words_can_be_twice_as_large(opened, settled) -> None:  # type: ignore[no-untyped-def]
    window = opened("water-pump")
    shown = window.findChild(QLabel, "strip_words")
    for text in TEXT_SIZES:
        settled(window)
        assert window.workbench.settings.text == text
        assert shown.fontInfo().pixelSize() == round(12 * text / 100)
        window.desk.scale_text(1)
    assert window.workbench.settings.text == TEXT_SIZES[-1] == 200
    for text in reversed(TEXT_SIZES):
        assert window.workbench.settings.text == text
        window.desk.scale_text(-1)
    assert window.workbench.settings.text == TEXT_SIZES[0] == 100


# Numbers ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("44.46800000000001 mm", "44.468 mm"),
        ("0.000012 mm", "0.000012 mm"),
        ("-7.00000004 deg", "-7 deg"),
        ("46 mm", "46 mm"),
        ("3*crank + 0.123456 mm", "3*crank + 0.123456 mm"),
        ("", ""),
    ],
)
def test_fields_show_what_is_significant(text: str, shown: str) -> None:
    assert significant(text) == shown


def test_a_field_holds_all_of_its_value_and_shows_it_when_entered(shuttle: Hand) -> None:
    bench = shuttle.bench
    bench.do(SetDimension("rocker", "length", "230.123456 mm"))
    bench.finish_gesture()
    bench.select(Selection("body", "rocker"))
    shuttle.settled(shuttle.window)
    field = shuttle.child(QuantityField, "dimension_rocker_length")
    assert field.text() == "230.123 mm" and field.whole == "230.123456 mm"
    field.setFocus()
    assert field.text() == "230.123456 mm"
    shuttle.qtbot.keyClick(field, Qt.Key.Key_Return)
    assert field.text() == "230.123 mm" and QApplication.focusWidget() is shuttle.window.stage
    assert any(d.value == "230.123456 mm" for d in bench.session.document.part("rocker").dimensions)


def test_names_are_offered_while_an_expression_is_typed(shuttle: Hand) -> None:
    bench = shuttle.bench
    bench.select(Selection("body", "push_rod"))
    shuttle.settled(shuttle.window)
    field = shuttle.child(QuantityField, "dimension_push_rod_length")
    before = field.whole
    field.setFocus()
    field.selectAll()
    shuttle.qtbot.keyClicks(field, "rai")
    popup = field._completer.popup()
    until(popup.isVisible)
    names = [popup.model().index(k, 0).data() for k in range(popup.model().rowCount())]
    assert "rail_height" in names
    shuttle.qtbot.keyClick(field, Qt.Key.Key_Escape)
    popup.hide()
    shuttle.qtbot.keyClick(field, Qt.Key.Key_Escape)
    shuttle.settled(shuttle.window)
    assert field.whole == before


def test_a_drag_across_a_field_changes_its_number_live(shuttle: Hand) -> None:
    bench = shuttle.bench
    bench.select(Selection("body", "crank"))
    shuttle.settled(shuttle.window)
    field = shuttle.child(QuantityField, "dimension_crank_radius")
    shuttle.window.stage.setFocus()
    at = QPoint(60, field.height() // 2)
    shuttle.qtbot.mousePress(field, LEFT, pos=at)
    seen = []
    for step in (6, 12, 21):
        shuttle.qtbot.mouseMove(field, at + QPoint(step, 0))
        seen.append(bench.session.document.part("crank").dimensions[0].value)
    shuttle.qtbot.mouseRelease(field, LEFT, pos=at + QPoint(21, 0))
    shuttle.settled(shuttle.window)
    assert seen == ["47 mm", "48 mm", "50 mm"]
    bench.undo()
    assert bench.session.document.part("crank").dimensions[0].value == "46 mm"


# The strip ---------------------------------------------------------------------------------------


def test_the_end_of_a_block_is_dragged_for_its_value_and_on_time_for_its_time(
    shuttle: Hand,
) -> None:
    lanes, bench = shuttle.window.strip.lanes, shuttle.bench
    block = lanes.blocks()[0]
    end = QPoint(round(block.box.right()), round(block.box.center().y()))
    wide = block.box.width()
    shuttle.qtbot.mousePress(lanes, LEFT, pos=end)
    for part in (0.1, 0.25):
        shuttle.qtbot.mouseMove(lanes, end - QPoint(round(wide * part), 0))
    shuttle.qtbot.mouseRelease(lanes, LEFT, pos=end - QPoint(round(wide * 0.25), 0))
    shuttle.settled(shuttle.window)
    # A quarter less of 360 degrees from 90.
    target = float(str(bench.session.document.program.stages[0].moves[0].to).split()[0])
    assert target == pytest.approx(360.0, abs=1.5)
    assert bench.selection == Selection("stage", "0")
    bench.undo()
    shuttle.settled(shuttle.window)
    bench.do(SetStage(0, "pause", "1 s"))
    bench.finish_gesture()
    shuttle.settled(shuttle.window)
    on_progress = lanes.blocks()[0]
    shuttle.command("time_axis")
    on_time = lanes.blocks()[0]
    # Two seconds of motion and one of rest: on time the pause has a third of the width.
    whole = on_time.box.width() + on_time.pause.width()
    assert on_time.pause.width() / whole == pytest.approx(1 / 3, abs=0.01)
    assert on_progress.box.width() == pytest.approx(whole, abs=1.0)
    assert on_progress.pause.width() < 12
    assert lanes.x_of(1.0) == pytest.approx(on_time.box.right(), abs=1.0)
    end = QPoint(round(on_time.box.right()), round(on_time.box.center().y()))
    shuttle.qtbot.mousePress(lanes, LEFT, pos=end)
    way = round(on_time.box.width() / 2)
    for part in (0.5, 1.0):
        shuttle.qtbot.mouseMove(lanes, end - QPoint(round(way * part), 0))
    shuttle.qtbot.mouseRelease(lanes, LEFT, pos=end - QPoint(way, 0))
    shuttle.settled(shuttle.window)
    lasts = float(str(bench.session.document.program.stages[0].lasts).split()[0])
    assert 0.3 < lasts < 1.6


def test_the_strip_is_zoomed_and_lanes_are_hidden_and_moved(shuttle: Hand) -> None:
    lanes = shuttle.window.strip.lanes
    titles = [lane.title for lane in lanes.shown]
    at = QPointF(20, lanes.lane_box(1).center().y())
    menu = lanes.menu_at(at)
    actions = {action.text(): action for action in menu.actions()}
    actions["Move up"].trigger()
    assert [lane.title for lane in lanes.shown][:2] == [titles[1], titles[0]]
    menu = lanes.menu_at(QPointF(20, lanes.lane_box(0).center().y()))
    next(a for a in menu.actions() if a.text().startswith("Hide")).trigger()
    assert titles[1] not in [lane.title for lane in lanes.shown]
    back = lanes.menu_at(at)
    shown = next(a.menu() for a in back.actions() if a.text() == "Show")
    shown.actions()[0].trigger()
    assert sorted(lane.title for lane in lanes.shown) == sorted(titles)
    lanes.setFocus()
    middle = shuttle.bench.progress
    for _ in range(3):
        shuttle.qtbot.keyClick(lanes, Qt.Key.Key_Plus)
    axis = lanes.ground.axis
    assert axis.high - axis.low < 0.4 and axis.low <= middle <= axis.high
    for x in (300.0, 700.0):
        assert lanes.x_of(lanes.progress_of(x)) == pytest.approx(x, abs=1e-6)


# Find and act ----------------------------------------------------------------------------------


def test_every_command_is_found_by_its_name_and_runs_by_keys(shuttle: Hand) -> None:
    window = shuttle.window
    for command in window.commands:
        fitting, only_near = found(window.commands, command.label())
        assert not only_near and command in fitting[:4], command.id
        assert command.tip or command.shortcut or command.label(), command.id
    keys = [c.shortcut for c in window.commands if c.shortcut]
    assert len(keys) == len(set(keys))
    ids = {c.id for c in window.commands}
    assert {c.group for c in window.commands} <= {"", *GROUPS} and len(ids) == len(window.commands)


@pytest.mark.parametrize(
    ("typed", "goes"),
    [
        ("mirror", "repeat"),
        ("hinge", "join"),
        ("dxf", "import"),
        ("section", "stack"),
        ("shortcuts", "keys"),
        ("rotte", ""),
        ("push rod", "body:push_rod"),
        ("pusher travel", "finding:stroke"),
        ("words mean", "page:words"),
    ],
)
def test_search_knows_other_words_and_things_and_the_nearest(
    shuttle: Hand, typed: str, goes: str
) -> None:
    shuttle.key(Qt.Key.Key_K, CONTROL)
    field = shuttle.window.findChild(QLineEdit, "command_field")
    shuttle.qtbot.keyClicks(field, typed)
    listed = shuttle.window.findChild(QListWidget, "command_list")
    ids = [listed.item(k).data(Qt.ItemDataRole.UserRole) for k in range(listed.count())]
    if goes:
        assert ids[0] == goes, ids
    else:
        assert (ids[0] is None and "nearest" in listed.item(0).text().lower()) or len(ids) == 1
    shuttle.qtbot.keyClick(field, Qt.Key.Key_Escape)


def test_everything_has_a_menu_with_what_can_be_done(shuttle: Hand) -> None:
    window, stage = shuttle.window, shuttle.window.stage
    shuttle.bench.go_to_station("Assemble")
    shuttle.settled(window)

    def menu_at(at: QPoint) -> list[str]:
        event = QContextMenuEvent(
            QContextMenuEvent.Reason.Mouse,
            at,
            stage.mapToGlobal(at),
            Qt.KeyboardModifier.NoModifier,
        )
        QApplication.sendEvent(stage, event)
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu)
        words = [action.text().split("\t")[0] for action in menu.actions()]
        menu.close()
        return words

    body = menu_at(stage.spot_of("push_rod").toPoint())
    assert shuttle.bench.selection == Selection("body", "push_rod")
    assert {"Edit the outline", "Hide", "Delete what is selected", "Fix it"} <= set(body)
    x, y = next(
        (p.x, p.y)
        for p in all_snaps(shuttle.bench.scene.resolved, shuttle.bench.shown_poses())
        if p.body == "crank" and p.snap.known
    )
    joint = menu_at(shuttle.pixel(x, y))
    assert "Drive it no more" in joint and "Ask its travel" in joint
    empty = menu_at(QPoint(8, 40))
    assert "Parts of the shelf" in empty and "Show the whole motion" in empty


def test_the_guide_opens_in_the_window_and_is_searched(shuttle: Hand) -> None:
    shuttle.command("handbook")
    book = shuttle.window.findChild(QDialog, "handbook")
    assert book.isVisible()
    pages = book.findChild(QListWidget, "handbook_pages")
    assert pages.currentItem().text() == "Ask and check"
    search = book.findChild(QLineEdit, "handbook_search")
    shuttle.qtbot.keyClicks(search, "spreadsheet")
    assert [pages.item(k).text() for k in range(pages.count())] == [
        "Drive it",
        "Ask and check",
        "Take it with you",
    ]
    book.close()
    for page in guide_pages():
        assert page.text.startswith(f"# {page.title}\n")
    shuttle.command("keys")
    overlay = shuttle.window.findChild(QDialog, "keys_overlay")
    said = " ".join(label.text() for label in overlay.findChildren(QLabel))
    assert all(words in said for words in ("Join", "Stack", "Measure", "Ctrl+K"))
    overlay.close()


def test_what_is_asked_about_goes_before_its_answer_comes(shuttle: Hand) -> None:
    bench, asking = shuttle.bench, shuttle.window.bar.asking
    bench.select(Selection("joint", "slide"))
    until(lambda: asking.now is not None)
    late = asking.now
    bench.do(Remove(Going(joints=frozenset(("slide",)))))
    bench.scene = drawn(bench.session.document)
    asking._answered(asking._worker.newest, late)
    asking.commit()
    shuttle.settled(shuttle.window)
    bench.undo()
    shuttle.settled(shuttle.window)
    assert any(joint.id == "slide" for joint in bench.session.document.joints)


# Files --------------------------------------------------------------------------------------------


def test_saving_proposes_a_name_and_says_where(shuttle: Hand, tmp_path: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    proposed: list[str] = []

    def answer(*given: object, **_: object) -> tuple[str, str]:
        proposed.append(str(given[2]))
        return str(tmp_path / "mine"), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", answer)
    shuttle.key(Qt.Key.Key_S, CONTROL)
    assert proposed == ["tray-shuttle.anakinema"]
    assert (tmp_path / "mine.anakinema").is_file()
    done = shuttle.child(QLabel, "done_words")
    assert str(tmp_path / "mine.anakinema") in done.text() and done.isVisible()
    assert shuttle.child(QAbstractButton, "done_act").text() == "Show in folder"
    shuttle.bench.do(SetDimension("push_rod", "length", "117 mm"))
    assert not shuttle.window.messages.isVisible()
    state = shuttle.window.route.state
    assert "edited" in state.text() and "kept for recovery" in state.toolTip()
    with answering(pressing("Stay")):
        shuttle.window.close()
    assert shuttle.window.isVisible()


def test_entry_icon_and_kind_of_file_come_to_the_users_desktop(tmp_path: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    entry = install_for_user()
    assert entry == tmp_path / "applications" / "anakinema.desktop"
    assert "MimeType=application/x-anakinema-mechanism" in entry.read_text()
    assert "*.anakinema" in (tmp_path / "mime/packages/anakinema.xml").read_text()
    assert (tmp_path / "icons/hicolor/scalable/apps/anakinema.svg").is_file()


# Everybody ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["tray-shuttle", "geared-vent", "head-belt"])
def test_all_that_takes_keys_has_a_name(opened, settled, name: str) -> None:  # type: ignore[no-untyped-def]
    window = opened(name)
    nameless = set()
    for station in STATIONS:
        window.workbench.go_to_station(station)
        settled(window)
        for widget in window.findChildren(QWidget):
            if not widget.isVisible() or widget.focusPolicy() == Qt.FocusPolicy.NoFocus:
                continue
            if widget.objectName().startswith("qt_"):
                continue
            words = widget.accessibleName() or getattr(widget, "text", str)()
            named = words or widget.toolTip() or isinstance(widget.parent(), QLineEdit)
            scrolls = "Scroll" in type(widget).__name__ or "Splitter" in type(widget).__name__
            if not named and not scrolls:
                nameless.add((station, type(widget).__name__, widget.objectName()))
    assert not nameless


def test_painted_widgets_say_what_they_are(shuttle: Hand) -> None:
    window = shuttle.window
    roles = {
        "finding_stroke": QAccessible.Role.ListItem,
        "lanes": QAccessible.Role.Chart,
        "stage": QAccessible.Role.Canvas,
        "station_check": QAccessible.Role.PageTab,
    }
    for name, role in roles.items():
        widget = window.findChild(QWidget, name)
        face = QAccessible.queryAccessibleInterface(widget)
        assert face.role() == role, name
        assert face.text(QAccessible.Text.Name) == widget.accessibleName() != "", name
    shuttle.bench.select(Selection("body", "push_rod"))
    assert window.stage.accessibleDescription() == "selected: push rod"


def test_what_stands_on_stage_and_strip_is_told_too(shuttle: Hand) -> None:
    window, name = shuttle.window, QAccessible.Text.Name
    shuttle.bench.select(Selection("body", "push_rod"))
    stage = QAccessible.queryAccessibleInterface(window.stage)
    things = [stage.child(k) for k in range(stage.childCount())]
    told = [thing.text(name) for thing in things]
    assert told[0] == "frame, body, fixed" and "crank, body" in told
    assert "crank pin in slot, pin in slot joint" in told
    rod = things[told.index("push rod, body")]
    assert rod.state().selected and not things[0].state().selected
    at = window.stage.mapToGlobal(shuttle.pixel(*shuttle.point("push_rod.near")))
    assert rod.rect().contains(at)
    assert stage.childAt(at.x(), at.y()) is not None
    assert rod.parent().role() == QAccessible.Role.Canvas and stage.indexOfChild(rod) == told.index(
        "push rod, body"
    )
    lanes = QAccessible.queryAccessibleInterface(window.strip.lanes)
    spoken = [lanes.child(k).text(name) for k in range(lanes.childCount())]
    assert "Gap rod to guard post: 33.54 mm" in spoken
    # What has gone since is no thing any more.
    last = things[-1]
    window.open_path(demo_path("water-pump"))
    shuttle.settled(window)
    assert not last.isValid() and last.text(name) == ""
    assert stage.child(999) is None


def test_a_dozen_bodies_play_at_thirty_frames(shuttle: Hand) -> None:
    """Painting one frame of the stage asks for no new answer: it only moves what is drawn."""
    bench = shuttle.bench
    answered: list[int] = []
    bench.evaluated.connect(lambda: answered.append(1))
    seen = []
    bench.playhead_moved.connect(lambda: seen.append(bench.progress))
    for k in range(30):
        bench.move_playhead(k / 30)
        shuttle.window.stage.grab()
    assert len(seen) == 30 and not answered
    assert np.all(np.diff(seen) > 0)
    assert demo_path("tray-shuttle").is_file()


def test_a_spot_of_a_body_is_no_spot_of_a_joint_wherever_the_motion_stands(opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("geneva-feeder")
    bench, stage = window.workbench, window.stage
    first, last = bench.playback.first, bench.playback.last
    hit = 0
    for share in range(12):
        bench.move_playhead(first + (last - first) * share / 11)
        for body in bench.session.document.bodies:
            spot = stage.spot_of(body.id)
            # A ring around it is round to a pixel, and so is a hand.
            for off in (QPointF(-1, -1), QPointF(1, 1), QPointF(2, -1)) if spot else ():
                assert stage.thing_at(spot + off) == Selection("body", body.id), (share, spot)
                hit += 1
    assert hit > 60
