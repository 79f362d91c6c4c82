"""Evaluations by a process of its own: the same as here, newest first, and here if it is gone."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.edits.values import SetDimension
from anakinema.errors import AnakinemaError, AssemblyError, Cancelled
from anakinema.files.native import read_document
from anakinema.findings.evaluate import Evaluation, evaluate, first_look
from anakinema.findings.packed import pack, unpack
from anakinema.resources import demo_names, demo_path
from anakinema.session import Calculator, Drawn, answers, lanes
from anakinema.wanted import under_watch
from tests.conftest import some

LONG = 600.0
"""Seconds of patience, so that a busy machine takes nobody's turn."""


@pytest.fixture(scope="module")
def calculator() -> Iterator[Calculator]:
    """A process that is ready."""
    started = Calculator(LONG)
    started.start()
    _wait_ready(started)
    yield started
    started.stop()


def _wait_ready(calculator: Calculator) -> None:
    pause = threading.Event()
    while not calculator.is_ready:
        assert calculator.process_id is not None
        pause.wait(0.01)


def _document(name: str) -> m.Document:
    return read_document(demo_path(name))


def _exact(document: m.Document, earlier: Evaluation | None, by: Calculator) -> list[object]:
    return list(answers(document, earlier, by))


def _agree(one: Evaluation, other: Evaluation) -> None:
    size = one.mechanism.size
    assert np.array_equal(one.motion.progress, other.motion.progress)
    assert np.abs(one.motion.poses - other.motion.poses).max() <= 1e-12 * size
    assert one.verdict.findings == other.verdict.findings
    assert one.motion.events == other.motion.events


@pytest.mark.campaign
@pytest.mark.parametrize("name", some(demo_names(), 4))
def test_an_evaluation_travels_whole(name: str) -> None:
    """Packed and unpacked it says the same, and what comes next can be made of it as of the one
    that was packed."""
    document = _document(name)
    made = evaluate(document)
    numbers = resolve(document)
    came = unpack(pack(made, made.resolved), numbers)
    assert came.resolved is numbers and came.source is document
    _agree(made, came)
    for mine, theirs in zip(made.gaps.compared.slabs, came.gaps.compared.slabs, strict=True):
        assert mine.is_like(theirs)
    _agree(evaluate(document, earlier=made), evaluate(document, earlier=came))
    (mine, theirs) = (first_look(document, each) for each in (made, came))
    assert mine is not None and theirs is not None
    assert np.array_equal(mine.motion.poses, theirs.motion.poses)
    assert mine.verdict.findings == theirs.verdict.findings


def test_the_process_says_what_a_thread_would(calculator: Calculator) -> None:
    """From nothing, and after an edit whose first look comes from here."""
    document = _document("tray-shuttle")
    drawn, exact, (again, shown) = _exact(document, None, calculator)
    assert isinstance(drawn, Drawn) and isinstance(exact, Evaluation) and again is exact
    here = evaluate(document)
    _agree(here, exact)
    assert [lane.title for lane in shown] == [lane.title for lane in lanes(here)]
    longer = SetDimension("crank", "radius", "46.5 mm").apply(document)
    look, _, exact, _ = _exact(longer, exact, calculator)
    assert not look.is_exact and exact.is_exact
    assert look.source is longer and exact.source is longer
    _agree(evaluate(longer, earlier=here), exact)


def test_what_is_refused_there_is_refused_here(calculator: Calculator) -> None:
    """An error of the document comes whole: what, where, and the way out."""
    document = _document("tray-shuttle")
    apart = SetDimension("rocker", "length", "1 mm").apply(document)
    *_, last = _exact(apart, None, calculator)
    assert isinstance(last, Drawn) and isinstance(last.error, AssemblyError)
    with pytest.raises(AssemblyError) as here:
        evaluate(apart)
    assert (last.error.what, last.error.where) == (here.value.what, here.value.where)
    assert last.error.remedy == here.value.remedy and str(last.error) == str(here.value)
    wrong = SetDimension("crank", "radius", "no_such_size").apply(document)
    (error,) = _exact(wrong, None, calculator)
    assert isinstance(error, AnakinemaError) and "no_such_size" in str(error)


def test_a_newer_question_ends_the_older(calculator: Calculator) -> None:
    """Who asks no more is out at once, and the process turns to what is asked next."""
    slow, quick = _document("geneva-feeder"), _document("lid-latch")
    wanted = [True]

    def interrupt() -> None:
        if not wanted[0]:
            raise Cancelled

    with under_watch(interrupt):
        coming = answers(slow, None, calculator)
        assert isinstance(next(coming), Drawn)
        wanted[0] = False
        with pytest.raises(Cancelled):
            next(coming)
        wanted[0] = True
        _, exact, _ = _exact(quick, None, calculator)
    assert isinstance(exact, Evaluation)
    _agree(evaluate(quick), exact)


def test_one_question_at_a_time(calculator: Calculator) -> None:
    """Who comes second meanwhile computes for himself."""
    document = _document("lid-latch")
    first = calculator.ask(document, anew=True)
    assert first is not None
    assert calculator.ask(document, anew=True) is None
    _, exact, _ = _exact(document, None, calculator)
    assert isinstance(exact, Evaluation)
    first.close()
    _agree(exact, _exact(document, None, calculator)[1])


@pytest.mark.parametrize("when", ["before", "meanwhile"])
def test_a_process_that_dies_costs_nothing(when: str) -> None:
    """The answer is made here, and the next one comes from a new process."""
    calculator = Calculator(LONG)
    calculator.start()
    _wait_ready(calculator)
    document = _document("lid-latch")
    try:
        first = calculator.process_id
        coming = answers(document, None, calculator)
        if when == "meanwhile":
            next(coming)
        os.kill(first, signal.SIGKILL)
        *_, exact, (_, shown) = coming
        _agree(evaluate(document), exact)
        assert shown
        _wait_ready(calculator)
        assert calculator.process_id != first
        _agree(_exact(document, None, calculator)[1], exact)
    finally:
        calculator.stop()


def test_a_process_that_does_not_hear_is_left() -> None:
    """One that is stopped by the system is waited for a while only."""
    calculator = Calculator(0.05)
    calculator.start()
    _wait_ready(calculator)
    os.kill(calculator.process_id, signal.SIGSTOP)
    document = _document("lid-latch")
    try:
        *_, exact, _ = answers(document, None, calculator)
        assert isinstance(exact, Evaluation)
        _agree(evaluate(document), exact)
    finally:
        calculator.stop()


def test_without_a_process_all_is_made_here() -> None:
    """Not started, not ready or ended: the answers are the same."""
    calculator = Calculator()
    document = _document("lid-latch")
    _, never, _ = _exact(document, None, calculator)
    calculator.start()
    calculator.stop()
    _, ended, _ = _exact(document, None, calculator)
    assert isinstance(never, Evaluation) and isinstance(ended, Evaluation)
    _agree(never, ended)


def test_the_process_ends_with_whoever_started_it() -> None:
    """It sees that nobody is there any more, however that one ended."""
    code = (
        "import os, time\nfrom anakinema.session import Calculator\nc = Calculator()\nc.start()\n"
        "while not c.is_ready: time.sleep(0.01)\n"
        "print(c.process_id, flush=True)\nos._exit(1)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
    # Its output is a pipe that the process inherits: it is about to end once that is closed.
    process, pause = int(done.stdout), threading.Event()
    while not _is_dead(process):
        pause.wait(0.01)
    assert _is_dead(process)


def _is_dead(process: int) -> bool:
    try:
        status = Path(f"/proc/{process}/stat").read_text()
    except (FileNotFoundError, ProcessLookupError):
        return True
    return status.rpartition(")")[2].split()[0] in "ZX"
