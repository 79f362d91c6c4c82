"""Runs all of the campaigns that the tests run a share of, in named parts.

``python tools/prove.py [part ...]``: without names, all parts that have not been proved for the
present code. Each part prints its counts and takes at most 20 minutes on two cores.
"""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
KEPT = ROOT / ".prove"
PARTS = {
    "branches": "tests/core/test_follow.py tests/core/test_kept_side.py"
    " tests/core/test_building_machine.py tests/core/test_drag.py",
    "change-points-1": "tests/reference/test_change_points.py",
    "change-points-2": "tests/reference/test_change_points.py",
    "touches": "tests/reference/test_touches.py -k passes",
    "yielding": "tests/reference/test_touches.py -k yields",
    "contact": "tests/reference/test_contact.py",
    "clearance": "tests/core/test_clearance.py tests/core/test_belt_clearance.py",
    "files": "tests/core/test_files.py tests/core/test_journal.py tests/whole/test_killed.py",
    "remedies": "tests/core/test_remedies.py",
    "pictures": "tests/reference/test_stack_sheets.py",
    "hardware": "tests/reference/test_fasteners.py",
    "hostile": "tests/whole/test_hostile.py",
    "space": "tests/reference/test_clearance_in_space.py",
    "ready": "tests/core/test_calculator.py tests/core/test_starting.py"
    " tests/core/test_structure_edits.py tests/core/test_asking.py tests/whole/test_kept_looks.py"
    " tests/reference/test_cam_motion.py tests/ui/test_window.py tests/ui/test_reviewing.py"
    " tests/ui/test_cam_studio.py",
    "gestures": "tests/ui/test_gestures.py",
}
TEST = "test_random_machines_of_coupled_loops_keep_their_branch"
COUNTED = ": "
"""What a line that tells a count has, and no other of a passing run."""
HALVES = {"change-points-1": range(5), "change-points-2": range(5, 10)}


def code() -> str:
    """A digest of all code and tests."""
    digest = hashlib.blake2b(digest_size=12)
    for folder in ("src", "tests"):
        for path in sorted((ROOT / folder).rglob("*.py")):
            digest.update(path.relative_to(ROOT).as_posix().encode())
            digest.update(path.read_bytes())
    return digest.hexdigest()


def prove(name: str) -> bool:
    """Run a part; whether it passed."""
    selection = PARTS[name].split()
    if name in HALVES:
        selection = [f"{selection[0]}::{TEST}[{k}]" for k in HALVES[name]]
    begun = time.monotonic()
    done = subprocess.run(
        [sys.executable, "-m", "pytest", "-m", "campaign", "-n", "2", "-rP", "-q", *selection],
        cwd=ROOT,
        env={**os.environ, "ANAKINEMA_CAMPAIGN": "full", "QT_QPA_PLATFORM": "offscreen"},
        stdout=subprocess.PIPE,
        text=True,
    )
    stated = [line for line in done.stdout.splitlines() if COUNTED in line]
    print("\n".join(stated) if not done.returncode else done.stdout)
    words = "passed" if not done.returncode else "FAILED"
    print(f"{name}: {words} in {time.monotonic() - begun:.0f} s", flush=True)
    return not done.returncode


def main() -> int:
    """Prove the parts asked for, or those that have not been."""
    present = code()
    asked = sys.argv[1:]
    unknown = [name for name in asked if name not in PARTS]
    if unknown:
        print(f"Parts are: {', '.join(PARTS)}.")
        return 2
    failed = []
    for name in asked or PARTS:
        mark = KEPT / f"{name}-{present}"
        if not asked and mark.exists():
            print(f"{name}: proved before for this code")
        elif prove(name):
            KEPT.mkdir(exist_ok=True)
            mark.touch()
        else:
            failed.append(name)
    print(f"failed: {', '.join(failed)}" if failed else "all proved")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
