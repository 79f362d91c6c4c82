"""Files from strangers: one clear answer to each, nothing hangs, nothing fills the memory."""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import time
from pathlib import Path

import pytest

from anakinema.authoring.importing import imported, preview
from anakinema.bounded import read_regular
from anakinema.cli import main
from anakinema.document.model import Document
from anakinema.drawings.apart import SECONDS
from anakinema.drawings.outlines import read_drawing
from anakinema.edits.history import History
from anakinema.errors import AnakinemaError, Cancelled, FileFormatError
from anakinema.files.native import parse_document, read_document
from anakinema.findings.evaluate import evaluate
from anakinema.resources import demo_path
from anakinema.wanted import doing, still_wanted, under_watch
from tests.conftest import share
from tests.hostile import hostile

CASES, PARTS = 660, 4
LONG = float(share(6, 2))
"""Processor seconds after which a computation is asked to stop."""
DEAF = 4.0
"""Processor seconds that one may go without asking: far above what it takes, so that no busy
machine matters; the benchmark tells what it takes."""


class Watch:
    """Asks a computation to stop after a while, and notes how long it ever went without asking."""

    def __init__(self) -> None:
        self.begun = self.last = time.thread_time()
        self.deaf, self.where, self.words = 0.0, "", ""

    def ask(self) -> None:
        now = time.thread_time()
        if now - self.last > self.deaf:
            self.deaf, self.where = now - self.last, self.words
        self.last = now
        if now - self.begun > LONG:
            raise Cancelled

    def tell(self, words: str) -> None:
        self.words = words


def answer(kind: str, content: bytes, folder: Path) -> str:
    """What becomes of a file: 'sound', 'stopped', or the error's place; anything else escapes."""
    watch = Watch()
    try:
        with under_watch(watch.ask, watch.tell):
            if kind == "anakinema":
                evaluate(parse_document(content, "file"))
            else:
                path = folder / f"file.{kind}"
                path.write_bytes(content)
                drawing = read_drawing(path)
                found = preview(drawing, "mm", None)
                History(Document()).do(imported(Document(), drawing, found, "6 mm"))
    except AnakinemaError as error:
        assert error.what and error.where
        said = error.where
    except Cancelled:
        said = "stopped"
    else:
        said = "sound"
    assert watch.deaf < DEAF, watch.where
    return said


@pytest.mark.campaign
@pytest.mark.parametrize("part", range(PARTS))
def test_hostile_files_get_one_clear_answer(tmp_path: Path, part: int) -> None:
    """660 (`make prove`): documents, DXF and SVG; no traceback, no hang, not over 1 GB."""
    each = share(CASES // PARTS, 5)
    said = [answer(*hostile(part * (CASES // PARTS) + k), tmp_path) for k in range(each)]
    assert len(said) == each
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(
        f"hostile files {part + 1}/{PARTS}: {each}, {said.count('sound')} sound,"
        f" {said.count('stopped')} stopped when asked; process at most {peak:.2f} GB"
    )


def test_a_reader_that_takes_too_long_is_ended(tmp_path: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "long.svg"
    path.write_text('<svg xmlns="http://www.w3.org/2000/svg"><rect width="3" height="2"/></svg>')
    assert SECONDS <= 10
    monkeypatch.setattr("anakinema.drawings.outlines.READER", "tests.endless")
    asked = [0]

    def ask() -> None:
        asked[0] += 1
        if asked[0] > 3:
            raise Cancelled

    with under_watch(ask), pytest.raises(Cancelled):
        read_drawing(path)
    monkeypatch.setattr("anakinema.drawings.outlines.READER", "tests.greedy")
    with pytest.raises(FileFormatError, match="cannot be read within"):
        read_drawing(path)


def test_only_regular_files_are_read_and_never_more_than_agreed(tmp_path: Path) -> None:
    pipe = tmp_path / "pipe.anakinema"
    os.mkfifo(pipe)
    for path, words in (
        (pipe, "pipe"),
        (Path("/dev/zero"), "device"),
        (tmp_path, "directory"),
        (Path("a\x00b"), "name"),
        (tmp_path / ("x" * 300), "name"),
    ):
        for read in (read_document, read_drawing):
            with pytest.raises(FileFormatError, match=words):
                read(path)
    large = tmp_path / "large"
    large.write_bytes(b"x" * 101)
    assert read_regular(large, 101, "") == b"x" * 101
    with pytest.raises(FileFormatError, match="more than"):
        read_regular(large, 100, "")


def test_the_watch_is_its_threads_own_and_gives_back_the_one_before() -> None:
    stated: list[str] = []
    still_wanted()
    with under_watch(lambda: stated.append("outer")):
        with under_watch(lambda: stated.append("inner"), stated.append):
            doing("something")
        still_wanted()
    still_wanted()
    assert stated == ["something", "inner", "outer"]


def test_names_that_no_terminal_can_show_give_an_error_and_no_traceback(tmp_path: Path) -> None:
    path = tmp_path / "odd.anakinema"
    text = '{"format": "anakinema-mechanism", "version": 1, "\\ud800": {"\\u0000": 1}}'
    path.write_text(text)
    done = subprocess.run(
        [sys.executable, "-m", "anakinema", "check", str(path)], capture_output=True, text=True
    )
    assert done.returncode == 2
    assert (
        done.stderr.startswith("anakinema: file odd.anakinema") and "Traceback" not in done.stderr
    )
    assert "no text" in done.stderr


def test_a_check_stopped_by_its_user_says_what_it_was_at(monkeypatch, capsys) -> None:  # type: ignore[no-untyped-def]
    def stopped(_document: Document) -> None:
        doing("following the motion")
        raise KeyboardInterrupt

    monkeypatch.setattr("anakinema.headless.evaluate", stopped)
    assert main(["check", str(demo_path("water-pump"))]) == 130
    assert "stopped while following the motion" in capsys.readouterr().err
