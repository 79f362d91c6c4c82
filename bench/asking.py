"""How long a computation goes without asking whether it is still wanted."""

from __future__ import annotations

import math
import time

from tests import mechanisms as build

from anakinema.document import model as m
from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate
from anakinema.resources import demo_path
from anakinema.wanted import under_watch

LONGEST_MS = 500.0
DEMOS = ("tray-shuttle", "geneva-feeder", "tray-indexer", "side-rods", "cam-dibber")


def _free_bodies(count: int) -> m.Document:
    """Loose bars, two to a pin: freedoms without end, as in a half-built document."""
    parts = [build.part("bar", a=(0.0, 0.0), b=(60.0, 0.0))]
    bodies = [
        build.body(f"bar_{k}", 70.0 * (k % 20), 50.0 * (k // 20), part="bar") for k in range(count)
    ]
    joints = [
        build.joint(f"pin_{k}", "revolute", f"bar_{k}.b", f"bar_{k + 1}.a")
        for k in range(0, count - 1, 2)
    ]
    return build.driven(build.document(parts, bodies, joints), ("pin_0", 0.0, math.pi), count=90)


def _gaps(document: m.Document) -> tuple[float, float, int]:
    """Longest time between two questions, whole time (processor ms), and number of questions."""
    longest = asked = 0.0
    begun = last = time.thread_time()

    def ask() -> None:
        nonlocal longest, asked, last
        now = time.thread_time()
        longest, asked, last = max(longest, now - last), asked + 1, now

    with under_watch(ask):
        evaluate(document)
    ask()
    return 1000.0 * longest, 1000.0 * (last - begun), int(asked)


def longest_without_asking() -> list[str]:
    """Whole evaluations under a watch: the longest stretch against the whole."""
    documents = {name: read_document(demo_path(name)) for name in DEMOS}
    documents["100 free bars"] = _free_bodies(100)
    lines = []
    for name, document in documents.items():
        longest, whole, asked = _gaps(document)
        lines.append(
            f"{name.replace('-', ' ')}: at most {longest:.0f} ms without asking"
            f" (at most {LONGEST_MS:.0f}), 1/{whole / longest:.0f} of {whole:.0f} ms,"
            f" asked {asked} times"
        )
    return lines
