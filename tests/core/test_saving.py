"""Saving: only what can be opened again, never over somebody else's work, and all or nothing."""

from __future__ import annotations

import errno
import os
import stat
import sys
from pathlib import Path

import pytest

from anakinema.document import model as m
from anakinema.document.model import MOST_BYTES, MOST_ITEMS, Document
from anakinema.edits import program as p
from anakinema.edits import values as e
from anakinema.edits.base import Edit
from anakinema.edits.history import History
from anakinema.edits.pictures import AddPicture
from anakinema.edits.structure import Add
from anakinema.errors import EditRefusedError, FileFormatError
from anakinema.files import native
from anakinema.files.native import read_document, write_document
from anakinema.resources import demo_path
from anakinema.session import FileChangedError, Session, beside
from anakinema.settings import Settings

SHUTTLE = read_document(demo_path("tray-shuttle"))


def refused(history: History, edit: Edit, words: str) -> None:
    before = history.document
    with pytest.raises(EditRefusedError, match=words):
        history.do(edit)
    assert history.document is before


def test_no_edit_makes_what_the_reader_refuses(tmp_path: Path) -> None:
    history = History(SHUTTLE)
    stage = SHUTTLE.program.stages[0]
    history.do(p.SetStages((stage,) * 200))
    refused(history, p.AddStage(), "at most 200 stages")
    refused(history, p.SetStages((stage,) * 201), "at most 200 stages")
    bodies = tuple(m.Body(id=f"b{k}", part="crank") for k in range(MOST_ITEMS))
    refused(history, Add("Many", bodies=bodies), "at most 2,000 bodies")
    refused(history, e.SetName("a\x00b"), "no text")
    refused(history, e.SetName("\ud800"), "no text")
    refused(history, e.SetName("x" * 401), "at most 400 characters")
    write_document(history.document, tmp_path / "s.anakinema")
    assert read_document(tmp_path / "s.anakinema") == history.document


def test_no_edit_makes_more_than_a_file_may_hold(tmp_path: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    most = 200_000
    for module in ("anakinema.edits.admit", "anakinema.files.native"):
        assert sys.modules[module].MOST_BYTES == MOST_BYTES
        monkeypatch.setattr(f"{module}.MOST_BYTES", most)
    history = History(Document())
    vertices = tuple(m.Vertex(x=f"{k} mm", y=f"{k * k} mm") for k in range(400))
    slab = m.Slab(id="s", top="6 mm", outline=m.Path(shape="path", vertices=vertices))
    parts, refusal = 0, ""
    while not refusal:
        part = m.Part(id=f"p{parts}", slabs=(slab,))
        try:
            history.do(Add("Large", parts=(part,)))
        except EditRefusedError as error:
            refusal = str(error)
        history.finish_gesture()
        parts += 1
    assert "that a file may" in refusal and parts > 5
    path = tmp_path / "large.anakinema"
    write_document(history.document, path)
    # Written in full it would not fit: it is written closely instead.
    assert 0.9 * most < path.stat().st_size <= most
    assert read_document(path) == history.document
    with pytest.raises(EditRefusedError, match="that a file may"):
        history.do(AddPicture(m.Picture(id="a", data="A" * most)))


def test_links_rights_and_protection_are_kept(tmp_path: Path) -> None:
    real = tmp_path / "real.anakinema"
    link = tmp_path / "link.anakinema"
    write_document(SHUTTLE, real)
    os.chmod(real, 0o640)
    link.symlink_to(real)
    write_document(SHUTTLE.model_copy(update={"name": "Through the link"}), link)
    assert link.is_symlink()
    assert read_document(real).name == "Through the link"
    assert stat.S_IMODE(real.stat().st_mode) == 0o640
    os.mkfifo(tmp_path / "pipe.anakinema")
    with pytest.raises(FileFormatError, match="no ordinary file"):
        write_document(SHUTTLE, tmp_path / "pipe.anakinema")
    assert sorted(f.name for f in tmp_path.iterdir()) == [
        "link.anakinema",
        "pipe.anakinema",
        "real.anakinema",
    ]


def test_a_file_changed_meanwhile_is_asked_about(tmp_path: Path) -> None:
    path = tmp_path / "s.anakinema"
    write_document(SHUTTLE, path)
    mine, theirs = Session(tmp_path / "a"), Session(tmp_path / "b")
    mine.open(path)
    theirs.open(path)
    theirs.do(e.SetName("Theirs"))
    theirs.save(path)
    mine.do(e.SetName("Mine"))
    with pytest.raises(FileChangedError, match="changed by another program"):
        mine.save(path)
    assert read_document(path).name == "Theirs"
    mine.take_theirs()
    assert mine.document.name == "Theirs" and not mine.is_changed
    mine.undo()
    assert mine.document.name == "Mine" and mine.is_changed
    mine.save(beside(path))
    assert mine.path == tmp_path / "s (mine).anakinema"
    assert beside(path).name == "s (mine 2).anakinema"
    assert read_document(path).name == "Theirs"
    # Touched but not changed is no change.
    os.utime(path, ns=(1, 1))
    theirs.do(e.SetName("Again"))
    theirs.save(path)
    mine.close()
    theirs.close()


def test_a_file_open_twice_is_asked_about_until_the_other_is_closed(tmp_path: Path) -> None:
    path = tmp_path / "s.anakinema"
    write_document(SHUTTLE, path)
    one, two = Session(tmp_path / "state"), Session(tmp_path / "state")
    one.open(path)
    two.open(path)
    assert (one.is_shared, two.is_shared) == (False, True)
    two.do(e.SetName("Two"))
    with pytest.raises(FileChangedError, match="open in another window"):
        two.save(path)
    two.save(path, over=True)
    one.close()
    two.do(e.SetName("Two again"))
    two.save(path)
    assert not two.is_shared
    two.close()


def test_a_file_deleted_meanwhile_is_noticed(tmp_path: Path) -> None:
    path = tmp_path / "s.anakinema"
    session = Session(tmp_path / "state")
    session.start(SHUTTLE)
    session.save(path)
    assert not session.is_gone
    path.unlink()
    assert session.is_gone and not session.is_changed
    session.save(path)
    assert not session.is_gone and read_document(path) == SHUTTLE
    session.close()


def test_what_reads_back_otherwise_never_replaces_the_old_file(tmp_path: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "s.anakinema"
    write_document(SHUTTLE, path)
    monkeypatch.setattr(native, "document_text", lambda _: "{}")
    with pytest.raises(FileFormatError, match="not a mechanism document"):
        write_document(SHUTTLE.model_copy(update={"name": "New"}), path)
    monkeypatch.undo()
    other = native.document_text(SHUTTLE)
    monkeypatch.setattr(native, "document_text", lambda _: other)
    with pytest.raises(FileFormatError, match="not what is open"):
        write_document(SHUTTLE.model_copy(update={"name": "New"}), path)
    assert read_document(path) == SHUTTLE
    assert [f.name for f in tmp_path.iterdir()] == ["s.anakinema"]


CALLS = ("open", "fsync", "replace", "fchmod")


@pytest.mark.parametrize("failing", CALLS)
def test_a_full_disk_at_any_step_of_a_save_leaves_the_old_file(
    tmp_path: Path, monkeypatch, failing: str
) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "s.anakinema"
    write_document(SHUTTLE, path)
    new = SHUTTLE.model_copy(update={"name": "New"})
    real = getattr(os, failing)
    times, fails = 0, True
    while fails:
        calls = [0]

        def call(*arguments, nth: int = times, c: list[int] = calls, **more):  # type: ignore[no-untyped-def]
            c[0] += 1
            if c[0] == nth + 1:
                raise OSError(errno.ENOSPC, "No space left on device")
            return real(*arguments, **more)

        monkeypatch.setattr(os, failing, call)
        try:
            write_document(new, path)
            fails = False
        except FileFormatError as error:
            assert "no space left" in str(error)
            # Only the last of all, syncing the folder, comes when the new file is there.
            assert read_document(path) in (SHUTTLE, new)
        monkeypatch.setattr(os, failing, real)
        assert [f.name for f in tmp_path.iterdir()] == ["s.anakinema"]
        times += 1
    assert times > 1
    assert read_document(path) == new


def test_every_byte_that_does_not_fit_leaves_the_old_file(tmp_path: Path) -> None:
    """The system itself refuses to let a file grow beyond a limit, wherever that is."""
    import resource
    import signal

    path = tmp_path / "s.anakinema"
    write_document(SHUTTLE, path)
    size = path.stat().st_size
    new = SHUTTLE.model_copy(update={"note": "more " * 20})
    old_limit = resource.getrlimit(resource.RLIMIT_FSIZE)
    old_signal = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    try:
        for limit in range(0, size, max(size // 12, 1)):
            resource.setrlimit(resource.RLIMIT_FSIZE, (limit, old_limit[1]))
            try:
                with pytest.raises(FileFormatError, match="file too large"):
                    write_document(new, path)
            finally:
                resource.setrlimit(resource.RLIMIT_FSIZE, old_limit)
            assert read_document(path) == SHUTTLE
            assert [f.name for f in tmp_path.iterdir()] == ["s.anakinema"]
    finally:
        signal.signal(signal.SIGXFSZ, old_signal)


@pytest.mark.parametrize(
    "content",
    [
        "",
        "[",
        "null",
        "[]",
        "[" * 100_000,
        '{"theme": 3}',
        '{"theme": "dark", "recent": 5}',
        '{"theme": "dark", "recent": ["\\u0000", "' + "x" * 9000 + '", 7, "\\ud800", "/tmp/a"]}',
    ],
)
def test_damaged_settings_are_forgotten(tmp_path: Path, content: str) -> None:
    (tmp_path / "settings.json").write_text(content)
    settings = Settings.load(tmp_path)
    assert set(settings.recent) <= {"/tmp/a"}
    assert Settings.changed_in(tmp_path, lambda now: now.with_recent(tmp_path / "b")).recent[0] == (
        str(tmp_path / "b")
    )


def test_settings_that_are_a_pipe_or_a_folder_stop_nothing(tmp_path: Path) -> None:
    (tmp_path / "one").mkdir()
    os.mkfifo(tmp_path / "one" / "settings.json")
    (tmp_path / "two" / "settings.json").mkdir(parents=True)
    for folder in (tmp_path / "one", tmp_path / "two"):
        assert Settings.load(folder) == Settings()
        assert Settings.changed_in(folder, lambda now: now.with_recent(tmp_path)).recent


def test_two_windows_do_not_overwrite_each_others_recent_files(tmp_path: Path) -> None:
    one, two = Settings.load(tmp_path), Settings.load(tmp_path)
    assert one == two
    Settings.changed_in(tmp_path, lambda now: now.with_recent(tmp_path / "one"))
    Settings.changed_in(tmp_path, lambda now: now.with_recent(tmp_path / "two"))
    assert [Path(f).name for f in Settings.load(tmp_path).recent] == ["two", "one"]
