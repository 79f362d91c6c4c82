"""The journal: whatever happens to it, what was kept comes back, and nothing is deleted."""

from __future__ import annotations

import errno
import os
import random
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.document.model import Document
from anakinema.edits import values as e
from anakinema.edits.base import Edit
from anakinema.edits.history import Past
from anakinema.edits.pictures import AddPicture, RemovePicture
from anakinema.errors import EditRefusedError
from anakinema.files.native import read_document, write_document
from anakinema.resources import demo_path
from anakinema.session import FileChangedError, Session, left_behind
from anakinema.session.journal import Journal, Moment, line_of
from anakinema.session.patches import patch, patched
from anakinema.session.recovery import ASIDE, LeftBehind
from tests.conftest import share

SHUTTLE = read_document(demo_path("tray-shuttle"))
WAIT = 600.0


def died(session: Session) -> None:
    """End a session as a killed process does: its journal stays, its locks go."""
    assert session.wait_kept(WAIT)
    abandoned(session._journal)
    session._claim.release()


def abandoned(journal: Journal) -> None:
    """End a journal's thread and lock, and leave its file."""
    with journal._condition:
        journal._ending = True
        journal._condition.notify_all()
    assert journal._thread is not None and journal._log is not None
    journal._thread.join()
    os.close(journal._log._handle)


def found(folder: Path) -> LeftBehind:
    (left,) = left_behind(folder / "recovery")
    return left


def same(one: Past, two: Past) -> bool:
    """Whether two histories are alike, document by document."""
    return (
        one.document == two.document
        and [(s.label, s.before, s.after) for s in one.done]
        == [(s.label, s.before, s.after) for s in two.done]
        and [(s.label, s.before, s.after) for s in one.undone]
        == [(s.label, s.before, s.after) for s in two.undone]
    )


def picture(name: str) -> m.Picture:
    return m.Picture(id=name, data="QUJD" * 50, pixel="1 mm")


EDITS: tuple[Edit, ...] = (
    e.SetParameter("rod", "121 mm"),
    e.SetParameter("rod", "122 mm"),
    e.SetName("One"),
    e.SetName("Two"),
    e.SetDimension("crank", "radius", "41 mm"),
    e.SetPose("crank", "angle", "3 deg"),
    AddPicture(picture("a")),
    AddPicture(picture("b")),
    RemovePicture("a"),
)
ACTS = st.one_of(
    st.sampled_from(EDITS), st.sampled_from(("undo", "redo", "finish", "cancel", "save", "wait"))
)


def act(session: Session, what: Edit | str, path: Path) -> None:
    if not isinstance(what, str):
        try:
            session.do(what)
        except EditRefusedError:
            return
    elif what == "save":
        session.save(path)
    elif what == "wait":
        assert session.wait_kept(WAIT)
    else:
        {
            "undo": session.undo,
            "redo": session.redo,
            "finish": session.finish_gesture,
            "cancel": session.cancel_gesture,
        }[what]()


@given(st.lists(ACTS, max_size=30))
@hypothesis_settings(max_examples=60)
def test_all_steps_come_back_with_undo_and_redo(tmp_path_factory, acts) -> None:  # type: ignore[no-untyped-def]
    folder = tmp_path_factory.mktemp("j")
    session = Session(folder)
    session.start(SHUTTLE)
    for each in acts:
        act(session, each, folder / "s.anakinema")
    died(session)
    left = left_behind(folder / "recovery")
    if not session.is_changed:
        # What is in its file, or was never touched, is not offered.
        assert left == []
        return
    (one,) = left
    assert one.trouble == ""
    assert one.moment is not None
    assert same(one.moment.past, session.past)
    assert one.moment.path == session.path
    again = Session(folder)
    assert again.recover(one) is None
    assert same(again.past, session.past)
    assert again.is_changed
    while again.undo_label is not None:
        again.undo()
    assert again.document == (
        session.past.done[0].before if session.past.done else session.document
    )
    assert [f for f in (folder / "recovery").iterdir() if f == one.file] == []
    again.close()


def journal_of(folder: Path, steps: int) -> tuple[Path, Session]:
    """A journal left behind after so many steps, pictures among them."""
    session = Session(folder)
    session.start(SHUTTLE)
    for k in range(steps):
        session.do(e.SetParameter("rod", f"{100 + k} mm"))
        session.finish_gesture()
        if k == 2:
            session.do(AddPicture(picture("a")))
        if k % 7 == 3:
            session.wait_kept(WAIT)
    died(session)
    (file,) = (folder / "recovery").glob("*.journal")
    return file, session


def bare(document: Document) -> str:
    """A document in which a picture whose data were lost is as one whose data were not."""
    pictures = tuple(p.model_copy(update={"data": ""}) for p in document.pictures)
    return document.model_copy(update={"pictures": pictures}).model_dump_json()


@pytest.mark.campaign
def test_damaged_journals_are_set_aside_with_what_could_be_salvaged(tmp_path: Path) -> None:
    """200 (`make prove`): a bit flipped, bytes lost or cut off anywhere; nothing is deleted."""
    count = share(200, 10)
    rng = random.Random(5)
    file, session = journal_of(tmp_path / "whole", 130)
    content = file.read_bytes()
    states = {bare(step.after) for step in session.past.done}
    salvaged = 0
    for k in range(count):
        folder = tmp_path / f"d{k}" / "recovery"
        folder.mkdir(parents=True)
        broken, way = bytearray(content), rng.randrange(4)
        at = rng.randrange(len(broken))
        if way == 0:
            broken[at] ^= 1 << rng.randrange(8)
        elif way == 1:
            del broken[at : at + rng.randrange(1, 3000)]
        elif way == 2:
            del broken[at:]
        else:
            broken[at:at] = bytes(rng.randrange(256) for _ in range(rng.randrange(1, 40)))
        (folder / "x.journal").write_bytes(bytes(broken))
        left = left_behind(folder)
        assert len(left) == 1
        if way == 2 and content[at - 1 : at] == b"\n":
            # Cut between two records it is simply an earlier one.
            left[0].release()
            continue
        assert left[0].trouble
        if left[0].moment is not None:
            salvaged += 1
            known = {bare(step.after) for step in left[0].moment.past.done}
            assert known <= states
        kept = left[0].let_go()
        assert kept is not None and kept.read_bytes() == bytes(broken)
        assert kept.parent.name == ASIDE
    # Only where the very first records are hurt before the next whole one is nothing left.
    assert salvaged > 0.8 * count
    print(f"damaged journals: {count}, {salvaged} salvaged, nothing deleted")


def test_first_line_newer_version_and_rubbish_are_named(tmp_path: Path) -> None:
    file, session = journal_of(tmp_path, 130)
    lines = file.read_bytes().split(b"\n")
    file.unlink()
    folder = tmp_path / "recovery"
    (folder / "a.journal").write_bytes(b"\n".join([b"rubbish", *lines[1:]]))
    newer = [line_of({"n": 0, "at": 0, "journal": 9})[:-1], *lines[1:]]
    (folder / "b.journal").write_bytes(b"\n".join(newer))
    (folder / "c.journal").write_bytes(b"")
    (folder / "d.journal").mkdir()
    os.mkfifo(folder / "e.journal")
    left = {each.file.name: each for each in left_behind(folder)}
    assert sorted(left) == ["a.journal", "b.journal", "c.journal"]
    assert left["a.journal"].moment is not None
    assert left["a.journal"].moment.past.document == session.document
    assert "another version" in left["b.journal"].trouble
    assert left["c.journal"].trouble == "it holds nothing"
    for each in left.values():
        each.release()
    assert len(left_behind(folder)) == 3


def test_a_journal_in_use_is_nobody_elses_and_the_newest_comes_first(tmp_path: Path) -> None:
    first, second = Session(tmp_path), Session(tmp_path)
    for session, name in ((first, "Older"), (second, "Newer")):
        session.start(SHUTTLE)
        session.do(e.SetName(name))
        assert session.wait_kept(WAIT)
    assert left_behind(tmp_path / "recovery") == []
    died(first)
    died(second)
    left = left_behind(tmp_path / "recovery")
    assert [each.name for each in left] == ["Newer", "Older"]
    # While one window offers them, no other does.
    assert left_behind(tmp_path / "recovery") == []
    for each in left:
        each.release()


def test_pictures_are_written_once(tmp_path: Path) -> None:
    session = Session(tmp_path)
    session.start(SHUTTLE)
    big = picture("big").model_copy(update={"data": "QUJD" * 100_000})
    session.do(AddPicture(big))
    session.finish_gesture()
    for k in range(250):
        session.do(e.SetParameter("rod", f"{100 + k} mm"))
        session.finish_gesture()
        session.wait_kept(WAIT)
    died(session)
    (file,) = (tmp_path / "recovery").glob("*.journal")
    assert file.stat().st_size < 2 * len(big.data)
    left = found(tmp_path)
    assert left.moment is not None
    assert left.moment.past.document.pictures[0].data == big.data
    left.release()


def test_a_full_disk_is_told_once_and_tried_again(tmp_path: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    """Whichever write of the journal fails: it is said once, and made good when there is room."""
    real = os.write
    for failing in range(0, 12, 1 if share(1, 0) else 3):
        stated: list[str] = []
        folder = tmp_path / f"f{failing}"
        journal = Journal(folder, stated.append, retry=0.01)
        calls = [0]
        full = [True]

        def write(handle: int, data: bytes, n: int = failing, c=calls, f=full) -> int:  # type: ignore[no-untyped-def]
            c[0] += 1
            if f[0] and c[0] > n:
                # Half of it still fits.
                real(handle, data[: len(data) // 2])
                raise OSError(errno.ENOSPC, "No space left on device")
            return real(handle, data)

        monkeypatch.setattr("anakinema.session.journal.os.write", write)
        session = Session(folder)
        session._journal = journal
        session.start(SHUTTLE)
        while not stated:
            session.do(e.SetParameter("rod", f"{100 + len(session.past.done)} mm"))
            session.finish_gesture()
            assert journal.wait(WAIT)
        for _ in range(3):
            session.do(e.SetParameter("rod", f"{300 + len(session.past.done)} mm"))
            session.finish_gesture()
        assert stated == ["no space left on device"]
        full[0] = False
        while len(stated) < 2:
            journal.wait(0.01)
        assert stated[1:] == [""]
        assert journal.wait(WAIT)
        abandoned(journal)
        left = [each for each in left_behind(folder) if not each.trouble]
        assert any(each.moment and same(each.moment.past, session.past) for each in left)
        for each in left:
            each.release()
        monkeypatch.setattr("anakinema.session.journal.os.write", real)


def test_a_folder_that_is_a_file_does_not_stop_the_work(tmp_path: Path) -> None:
    (tmp_path / "recovery").write_text("in the way")
    stated: list[str] = []
    session = Session(tmp_path, stated.append)
    session.start(SHUTTLE)
    session.do(e.SetName("Still here"))
    assert session.wait_kept(WAIT)
    assert stated and session.document.name == "Still here"
    assert left_behind(tmp_path / "recovery") == []
    session.close()


def test_a_saved_document_leaves_nothing_to_recover(tmp_path: Path) -> None:
    session = Session(tmp_path)
    session.start(SHUTTLE)
    session.do(e.SetName("Saved"))
    session.save(tmp_path / "s.anakinema")
    died(session)
    assert left_behind(tmp_path / "recovery") == []
    # But if the file is lost meanwhile, the journal has all there is.
    session = Session(tmp_path)
    session.open(tmp_path / "s.anakinema")
    session.do(e.SetName("Again"))
    session.save(tmp_path / "s.anakinema")
    died(session)
    (tmp_path / "s.anakinema").unlink()
    left = found(tmp_path)
    assert left.name == "Again"
    left.release()


def test_what_was_recovered_still_knows_its_file(tmp_path: Path) -> None:
    path = tmp_path / "s.anakinema"
    write_document(SHUTTLE, path)
    session = Session(tmp_path)
    session.open(path)
    session.do(e.SetName("Mine"))
    died(session)
    write_document(SHUTTLE.model_copy(update={"name": "Theirs"}), path)
    again = Session(tmp_path)
    again.recover(found(tmp_path))
    assert again.path == path
    with pytest.raises(FileChangedError, match="changed by another"):
        again.save(path)
    again.undo()
    assert not again.is_changed and again.document == SHUTTLE
    again.close()


def test_a_moment_of_nothing(tmp_path: Path) -> None:
    journal = Journal(tmp_path)
    journal.keep(Moment(Past(Document())))
    assert journal.wait(WAIT)
    journal.close()
    assert list(tmp_path.glob("*.journal")) == []


def test_steps_of_version_1_are_read_by_todays_names() -> None:
    """A journal left by it: belts were loops, instances uses, requirements had kinds."""
    unit = m.Subassembly(id="arm", bodies=(m.Body(id="b", part="p"),))
    before = m.Document(parts=(m.Part(id="p"),), subassemblies=(unit,))
    belt = {"id": "b1", "wheels": [{"joint": "j", "radius": 5.0}, {"joint": "k", "radius": 5.0}]}
    travel = {"kind": "travel", "id": "t", "joint": "j", "least": 1.0}
    lists = {
        "uses": {"order": ["one"], "new": {"one": {"id": "one", "unit": "arm"}}},
        "loops": {"order": ["b1"], "new": {"b1": belt}},
        "requirements": {"order": ["t"], "new": {"t": travel}},
    }
    after = patched(before, {"values": {}, "lists": lists}, {})
    assert after.instances[0].subassembly == "arm"
    assert after.belts[0].id == "b1"
    assert after.requirements[0].reduce == "range"
    assert patched(before, patch(before, after), {}) == after
