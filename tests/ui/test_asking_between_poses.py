"""A question asked from one kept pose to another, in the sentence, undone, saved and reopened."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLabel, QPushButton

from anakinema.edits import Keep, RemoveKept
from anakinema.files.native import read_document, write_document
from anakinema.findings import Outcome
from anakinema.ui.workbench import Selection
from tests.core.test_posing import at, kept_pose
from tests.ui.test_asking_kinds import now
from tests.ui.test_assemble import Hand

LEFT = Qt.MouseButton.LeftButton


def test_the_sentence_offers_kept_poses_and_asks_between_them(
    qtbot,
    opened,
    settled,
    tmp_path: Path,  # type: ignore[no-untyped-def]
) -> None:
    scene, closed, _ = at("tray-shuttle", 0.05)
    document = Keep(kept_pose(scene, closed, "closed", ())).apply(scene.resolved.source)
    _, wide, _ = at("tray-shuttle", 0.25)
    document = Keep(kept_pose(scene, wide, "open", ("closed",))).apply(document)
    file = tmp_path / "shuttle.anakinema"
    write_document(document, file)
    hand = Hand(qtbot, opened("tray-shuttle"), settled)
    hand.window.open_path(file)
    settled(hand.window)
    bench = hand.window.workbench
    bench.go_to_station("Check")
    settled(hand.window)
    before = {each.id for each in bench.session.document.requirements}
    kind = hand.child(QComboBox, "ask_kind")
    kind.setCurrentIndex(kind.findData("travel") if kind.findData("travel") >= 0 else 0)
    kind.activated.emit(kind.currentIndex())
    when = hand.child(QComboBox, "ask_when")
    words = [when.itemText(k) for k in range(when.count())]
    assert "from closed to open" in words
    when.setFocus()
    when.setCurrentIndex(words.index("from closed to open"))
    when.activated.emit(when.currentIndex())
    assert now(hand).startswith("now ")
    qtbot.mouseClick(hand.child(QPushButton, "ask_commit"), LEFT)
    settled(hand.window)
    (new,) = [r for r in bench.session.document.requirements if r.id not in before]
    assert new.between is not None and new.name.endswith("from closed to open")
    finding = next(f for f in bench.evaluation.verdict.findings if f.id == new.id)
    assert finding.outcome is Outcome.PASS
    assert finding.value is not None
    assert 0.05 <= (finding.progress or 0.0) <= 0.25 + 1e-6
    bench.session.save(file)
    assert read_document(file) == bench.session.document
    bench.do_once(RemoveKept("poses", "open"))
    settled(hand.window)
    bench.select(Selection("finding", new.id))
    gone = next(f for f in bench.evaluation.verdict.findings if f.id == new.id)
    assert gone.outcome is Outcome.UNKNOWN
    texts = " ".join(each.text() for each in hand.window.findChildren(QLabel))
    assert "kept no more" in texts
    qtbot.keyClick(hand.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settled(hand.window)
    back = next(f for f in bench.evaluation.verdict.findings if f.id == new.id)
    assert back.outcome is Outcome.PASS
