"""Random gestures: nothing escapes, Qt warns of nothing, and undo brings everything back."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import pytest

from anakinema.ui.window import MainWindow
from tests.conftest import share
from tests.gestures import Run, mechanism_files, shrunk

RUNS, EACH = 200, 100
PARTS = 10


@pytest.mark.campaign
@pytest.mark.parametrize("part", range(PARTS))
def test_random_gestures_do_no_harm(window: MainWindow, tmp_path: Path, part: int) -> None:
    """20,000 gestures (`make prove`) in 200 runs of 100; what fails is shrunk and told."""
    files = tmp_path / "files"
    files.mkdir()
    mechanism_files(files)
    each, gestures = share(RUNS // PARTS, 1), share(EACH, 30)
    for k in range(each):
        seed = part * (RUNS // PARTS) + k
        found = Run(window, seed, files).done(range(gestures))

        def fails(indices: Sequence[int], seed: int = seed) -> bool:
            return bool(Run(window, seed, files).done(indices))

        short = shrunk(fails, range(gestures), 30) if found else []
        assert not found, f"seed {seed}, gestures {short}:\n{found}"
    print(f"gestures {part + 1}/{PARTS}: {each * gestures} in {each} runs")
