"""The parts list edited in place, and files written beside the window, by mouse and keys."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QLabel,
    QLineEdit,
    QPushButton,
    QSpinBox,
    QTableView,
)

from anakinema.cli import main
from anakinema.edits import Keep, SetSlab
from anakinema.files.native import read_document, write_document
from anakinema.record import EXPORTS
from anakinema.resources import demo_path
from anakinema.ui.parts_table import ALL, ITEM, MATERIAL, NAME, QUANTITY, SUPPLY
from anakinema.ui.workbench import Selection
from tests.core.test_posing import at, kept_pose
from tests.ui.test_assemble import Hand
from tests.waiting import until

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def head(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    """The transfer head with its parts list open, by key."""
    hand = Hand(qtbot, opened("transfer-head"), settled)
    qtbot.keyClick(hand.window, Qt.Key.Key_F11)
    until(hand.window.parts.isVisible)
    return hand


def column(hand: Hand, which: int) -> list[str]:
    model = hand.child(QTableView, "parts_table").model()
    return [str(model.index(row, which).data() or "") for row in range(model.rowCount())]


def begin(hand: Hand, row: int, which: int) -> None:
    """Double click into a cell."""
    table = hand.child(QTableView, "parts_table")
    cell = table.visualRect(table.model().index(row, which)).center()
    hand.qtbot.mouseClick(table.viewport(), LEFT, pos=cell)
    hand.qtbot.mouseDClick(table.viewport(), LEFT, pos=cell)


def enter(hand: Hand, row: int, which: int, text: str) -> None:
    begin(hand, row, which)
    viewport = hand.child(QTableView, "parts_table").viewport()
    editor = viewport.findChild(QLineEdit)
    assert editor is not None
    editor.selectAll()
    hand.qtbot.keyClicks(editor, text)
    hand.qtbot.keyClick(editor, Qt.Key.Key_Return)
    # What is entered is taken over by an event of its own.
    until(lambda: viewport.findChild(QLineEdit) is None)
    hand.settled(hand.window)


def choose(hand: Hand, row: int, which: int, words: str) -> None:
    begin(hand, row, which)
    viewport = hand.child(QTableView, "parts_table").viewport()
    box = viewport.findChild(QComboBox)
    assert box is not None
    box.setFocus()
    hand.qtbot.keyClicks(box, words[0])
    while box.currentText() != words:
        hand.qtbot.keyClick(box, Qt.Key.Key_Down)
    hand.qtbot.keyClick(box, Qt.Key.Key_Return)
    until(lambda: viewport.findChild(QComboBox) is None)
    hand.settled(hand.window)


def total(hand: Hand) -> str:
    return str(hand.child(QLabel, "parts_total").text())


def test_parts_are_renamed_numbered_and_weighed_in_place(head: Hand) -> None:
    assert column(head, ITEM) == [str(k) for k in range(1, 11)]
    assert column(head, QUANTITY)[-2:] == ["2", "2"]
    assert "no material is stated" in total(head)
    enter(head, 0, NAME, "lift frame")
    assert column(head, NAME)[0] == "lift frame"
    choose(head, 0, MATERIAL, "steel")
    assert column(head, MATERIAL)[0] == "steel" and column(head, ALL)[0].endswith("g")
    assert "kg" in total(head) or " g" in total(head)
    choose(head, 1, SUPPLY, "bought")
    assert head.bench.session.document.parts[1].supply == "bought"
    enter(head, 0, ITEM, "20")
    assert column(head, ITEM) == [*(str(k) for k in range(1, 10)), "20"]
    frame = head.bench.session.document.parts[0]
    assert (frame.item_number, frame.title) == (20, "lift frame")
    for _ in range(4):
        head.bench.undo()
    until(lambda: column(head, NAME)[0] == "frame")
    assert column(head, ITEM) == [str(k) for k in range(1, 11)]


def test_a_number_that_is_taken_or_is_none_is_refused_in_words(head: Hand) -> None:
    for text, words in (
        ("3", "give that another number first"),
        ("x", "a whole number"),
        ("0", "1"),
    ):
        enter(head, 0, ITEM, text)
        assert words in str(head.bench.trouble), text
        assert column(head, ITEM)[0] == "1"


def test_the_list_is_filtered_sorted_and_folded(head: Hand) -> None:
    field = head.child(QLineEdit, "parts_filter")
    head.qtbot.keyClicks(field, "finger")
    assert column(head, NAME) == ["left finger", "right finger"]
    field.clear()
    table = head.child(QTableView, "parts_table")
    header = table.horizontalHeader()
    x = header.sectionPosition(NAME) + 20
    head.qtbot.mouseClick(header.viewport(), LEFT, pos=QPoint(x, header.height() // 2))
    assert column(head, NAME) == sorted(column(head, NAME))
    box = head.child(QCheckBox, "parts_folded")
    head.qtbot.mouseClick(box, LEFT, pos=QPoint(10, box.height() // 2))
    assert box.isChecked() and len(column(head, NAME)) == 10
    head.qtbot.mouseClick(head.child(QPushButton, "parts_back"), LEFT)
    until(head.window.stage.isVisible)


def test_every_file_is_written_beside_the_window_and_a_bad_place_is_named(
    head: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    head.qtbot.keyClick(head.window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    folder = tmp_path / "söm 'e\" place"
    folder.mkdir()
    done = head.child(QLabel, "record_done")
    possible = [each for each in EXPORTS if each.id not in ("cams", "profiles")]
    for export in possible:
        path = folder / f"{export.id}.{export.suffix}"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, p=path, **k: (str(p), ""))
        button = head.child(QPushButton, f"export_{export.id}")
        head.qtbot.mouseClick(button, LEFT)
        until(lambda n=path.name: done.text() == f"Written to {n}.")
        assert path.stat().st_size > 100
        until(button.isEnabled)
    head.qtbot.mouseClick(head.child(QPushButton, "export_cams"), LEFT)
    until(lambda: "there is no cam" in str(head.bench.trouble))
    missing = tmp_path / "nowhere" / "parts.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(missing), ""))
    head.qtbot.mouseClick(head.child(QPushButton, "export_parts"), LEFT)
    until(lambda: "cannot be written" in str(head.bench.trouble))
    assert sorted(os.listdir(folder)) == sorted(f"{e.id}.{e.suffix}" for e in possible)


def test_the_command_line_writes_what_is_asked_at_a_kept_pose(tmp_path: Path, capsys) -> None:  # type: ignore[no-untyped-def]
    scene, poses, _ = at("tray-shuttle", 0.3)
    document = Keep(kept_pose(scene, poses, "at the fork", ())).apply(scene.resolved.source)
    file = tmp_path / "my shuttle.anakinema"
    write_document(document, file)
    out = tmp_path / "out" / "here"
    start = ["export", str(file), "--folder", str(out), "--what"]
    assert main([*start, "parts.dxf,assembly.stl"]) == 0
    assert sorted(p.name for p in out.iterdir()) == [
        "my shuttle-assembly.stl", "my shuttle-parts.dxf",
    ]  # fmt: skip
    drawn = (out / "my shuttle-assembly.stl").read_bytes()
    assert main([*start, "assembly.stl", "--pose", "at the fork"]) == 0
    assert (out / "my shuttle-assembly.stl").read_bytes() != drawn
    assert main([*start, "all"]) == 0 and len(list(out.iterdir())) == len(EXPORTS) - 2
    assert "cams.csv: there is no cam in it" in capsys.readouterr().err
    for wrong, words in (
        (["nothing.pdf"], "Known are: drawings.pdf"),
        (["parts.csv", "--pose", "closed"], "Kept are: at the fork"),
    ):
        assert main([*start, *wrong]) == 2
        assert words in capsys.readouterr().err
    (tmp_path / "file").write_text("in the way")
    assert (
        main(["export", str(file), "--what", "parts.csv", "--folder", str(tmp_path / "file")]) == 2
    )
    assert "cannot be made" in capsys.readouterr().err
    assert read_document(demo_path("tray-shuttle")).poses == ()


def test_a_pin_says_what_it_passes_and_what_holds_it(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = Hand(qtbot, opened("tray-shuttle"), settled)
    hand.bench.select(Selection("joint", "rod_pin"))
    lines = hand.child(QLabel, "pin_lines")
    assert "push rod: 6.00 mm, hole 10.20 mm" in lines.text()
    assert "retaining ring DIN 471 10 x 1" in lines.text()
    assert hand.child(QLabel, "pin_faults").text() == ""
    part = hand.bench.session.document.body("push_rod").part
    slab = hand.bench.session.document.part(part).slabs[0]
    thicker = SetSlab(part, slab.id, "top", "40 mm")
    hand.bench.do_once(thicker)
    until(lambda: "ends inside push rod" in hand.child(QLabel, "pin_faults").text())
    hand.bench.undo()
    until(lambda: hand.child(QLabel, "pin_faults").text() == "")


def test_a_picture_and_a_film_of_the_stage_are_written_and_a_film_is_stopped(
    head: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    head.qtbot.keyClick(head.window, Qt.Key.Key_F11)
    head.qtbot.keyClick(head.window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    done = head.child(QLabel, "record_done")
    names = iter(("stage.png", "motion.gif", "strip.gif", "stopped.gif"))
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / next(names)), "")
    )
    head.bench.move_playhead(0.3)
    head.child(QSpinBox, "picture_width").setValue(2 * head.window.stage.width())
    head.qtbot.mouseClick(head.child(QPushButton, "export_picture"), LEFT)
    with Image.open(tmp_path / "stage.png") as picture:
        stage = head.window.stage
        assert picture.size == (2 * stage.width(), 2 * stage.height())
        assert len(picture.getcolors(1 << 22)) > 5
    film = head.child(QPushButton, "export_film")
    head.qtbot.mouseClick(film, LEFT)
    until(lambda: done.text() == "Written to motion.gif.")
    assert head.bench.progress == pytest.approx(0.3)
    with Image.open(tmp_path / "motion.gif") as moving:
        duration = head.bench.playback.duration
        assert moving.n_frames == round(20 * duration)
        assert moving.n_frames * moving.info["duration"] == pytest.approx(1000 * duration, rel=0.05)
        first = moving.convert("RGB").tobytes()
        moving.seek(moving.n_frames // 3)
        assert moving.convert("RGB").tobytes() != first
    head.qtbot.mouseClick(head.child(QPushButton, "export_film_strip"), LEFT)
    until(lambda: done.text() == "Written to strip.gif.")
    with Image.open(tmp_path / "strip.gif") as both, Image.open(tmp_path / "motion.gif") as alone:
        assert both.width == alone.width and both.height > alone.height + 40
        lower = (0, alone.height, both.width, both.height)
        begins = both.convert("RGB").crop(lower).tobytes()
        both.seek(both.n_frames // 2)
        assert both.convert("RGB").crop(lower).tobytes() != begins, "the playhead moves"
    head.qtbot.mouseClick(film, LEFT)
    until(lambda: "Frame" in done.text())
    head.qtbot.mouseClick(film, LEFT)
    assert done.text() == "Stopped: nothing was written."
    assert not (tmp_path / "stopped.gif").exists() and head.bench.progress == pytest.approx(0.3)


def test_a_film_without_its_strip_is_refused_and_one_whose_strip_goes_is_not_written(
    head: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    head.qtbot.keyClick(head.window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    done, asked = head.child(QLabel, "record_done"), head.child(QPushButton, "export_film_strip")
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "film.gif"), "")
    )
    fold = (head.window, Qt.Key.Key_F8)
    head.bench.move_playhead(0.3)
    head.qtbot.keyClick(*fold)
    assert not head.window.strip.isVisible()
    head.qtbot.mouseClick(asked, LEFT)
    until(lambda: "folded away" in head.child(QLabel, "trouble_words").text())
    assert "F8" in head.child(QLabel, "trouble_words").text()
    assert not (tmp_path / "film.gif").exists()
    assert asked.isEnabled()
    head.qtbot.keyClick(*fold)
    head.qtbot.mouseClick(asked, LEFT)
    until(lambda: done.text() == "Written to film.gif.")
    (tmp_path / "film.gif").unlink()
    head.qtbot.mouseClick(asked, LEFT)
    until(lambda: "Frame" in done.text())
    head.qtbot.keyClick(*fold)
    until(lambda: "changed its size" in head.child(QLabel, "trouble_words").text())
    assert not (tmp_path / "film.gif").exists() and asked.isEnabled()
    assert head.bench.progress == pytest.approx(0.3), "the playhead is back"


def test_the_centre_of_mass_is_drawn_where_the_bodies_weigh_and_said_where_nothing_does(
    qtbot,
    opened,
    settled,  # type: ignore[no-untyped-def]
) -> None:
    hand = Hand(qtbot, opened("plug-press"), settled)
    stage = hand.window.stage
    bench = hand.bench
    qtbot.keyClick(hand.window, Qt.Key.Key_E, Qt.KeyboardModifier.ShiftModifier)
    path = stage.notes.mass.path()
    assert stage.notes.mass.on and path is not None
    evaluation = bench.evaluation
    weights, middles = [], []
    for k, body in enumerate(evaluation.document.bodies):
        part = evaluation.resolved.part_of(body)
        if body.fixed or part.source.material is None:
            continue
        for slab in part.slabs:
            region = slab.region.polygon
            c, s = (
                np.cos(evaluation.motion.poses[30, k, 2]),
                np.sin(evaluation.motion.poses[30, k, 2]),
            )
            x, y = region.centroid.coords[0]
            density = part.source.material.density
            weights.append(region.area * (slab.top - slab.bottom) * density)
            middles.append(evaluation.motion.poses[30, k, :2] + (c * x - s * y, s * x + c * y))
    wanted = np.average(middles, axis=0, weights=weights)
    assert path[30] == pytest.approx(wanted, abs=0.02)
    before = stage.grab().toImage()
    qtbot.keyClick(hand.window, Qt.Key.Key_E, Qt.KeyboardModifier.ShiftModifier)
    assert not stage.notes.mass.on and stage.grab().toImage() != before
    qtbot.keyClick(hand.window, Qt.Key.Key_F11)
    until(hand.window.parts.isVisible)
    words = hand.child(QLabel, "parts_total").text()
    assert f"goes {np.ptp(path[:, 0]):.2f} mm across" in words


def test_what_has_no_material_has_no_centre_of_mass(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    bare = Hand(qtbot, opened("head-belt"), settled)
    qtbot.keyClick(bare.window, Qt.Key.Key_E, Qt.KeyboardModifier.ShiftModifier)
    assert "Nothing that moves has a material" in str(bare.bench.trouble)
