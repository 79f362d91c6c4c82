"""Random gestures: nothing escapes, Qt warns of nothing, and undo brings everything back."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import pytest

from anakinema.ui.window import MainWindow
from tests.conftest import share, some
from tests.gestures import Run, mechanism_files, shrunk

RUNS, EACH = 200, 100
PARTS = 10


@pytest.fixture
def files(tmp_path: Path) -> Path:
    """Where the gestures find and leave files."""
    folder = tmp_path / "files"
    folder.mkdir()
    mechanism_files(folder)
    return folder


@pytest.mark.campaign
@pytest.mark.parametrize("part", some(range(PARTS), 3))
def test_random_gestures_do_no_harm(window: MainWindow, files: Path, part: int) -> None:
    """20,000 gestures (`make prove`) in 200 runs of 100; what fails is shrunk and stated."""
    each, gestures = share(RUNS // PARTS, 1), share(EACH, 12)
    failed = []
    for k in range(each):
        seed = part * (RUNS // PARTS) + k
        found = Run(window, seed, files).done(range(gestures))

        def fails(indices: Sequence[int], seed: int = seed) -> bool:
            return bool(Run(window, seed, files).done(indices))

        if found:
            failed.append(f"seed {seed}, gestures {shrunk(fails, range(gestures), 30)}:\n{found}")
    assert not failed, "\n\n".join(failed)
    print(f"gestures {part + 1}/{PARTS}: {each * gestures} in {each} runs")
