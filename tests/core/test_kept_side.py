"""Whatever is built onto a closed loop or changed of it, it stays assembled as it was."""

from __future__ import annotations

import math
from collections import Counter

import numpy as np
import pytest

from anakinema.authoring.joining import propose
from anakinema.authoring.placing import placed_at
from anakinema.authoring.rejoining import rejoined
from anakinema.authoring.repeating import repeated
from anakinema.authoring.shifts import stack_shifts
from anakinema.authoring.snap_points import all_snaps, placed_snap
from anakinema.authoring.subassemblies import made_unit, taken_apart
from anakinema.authoring.wishes import Wish
from anakinema.document import model as m
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits import parts as part_edits
from anakinema.edits import structure as s
from anakinema.edits.values import SetDimension
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import evaluate
from tests.conftest import share
from tests.core.test_joining import bench, join

CLEAR = 0.06
"""Sine of the angle at the loop's last pin below which its two sides are too near to tell."""
STEPS = 7


class Loop:
    """A four-bar at random, and what a designer does to it."""

    def __init__(self, random: np.random.Generator) -> None:
        self.random = random
        self.stated = False
        while True:
            crank, coupler, rocker = random.uniform((25, 80, 60), (60, 140, 110))
            document = bench(
                crank=f"{crank:.3f} mm", coupler=f"{coupler:.3f} mm", rocker=f"{rocker:.3f} mm"
            )
            for first, second in (
                ("crank.a", "base.a"),
                ("rocker.a", "base.b"),
                ("coupler.a", "crank.b"),
            ):
                document = join(document, first, second).edit.apply(document)
            last = join(document, "coupler.b", "rocker.b", branch=int(random.integers(2)))
            if last.is_closed:
                self.document = last.edit.apply(document)
                break

    def resolved(self) -> Resolved:
        return resolve(self.document)

    def sine(self) -> float:
        """Sine of the angle between coupler and rocker as the mechanism is assembled."""
        evaluation = evaluate(self.document)
        bodies = evaluation.document.bodies
        poses = evaluation.followed.poses
        places = {}
        for name in ("coupler", "rocker"):
            k = next(i for i, b in enumerate(bodies) if b.id.endswith(name))
            places[name] = float(poses[k, 2])
        return math.sin(places["rocker"] - places["coupler"])

    def add_a_dyad(self) -> str | None:
        """Two more links between snaps of what is there: another loop is closed."""
        for _ in range(2):
            resolved = self.resolved()
            self.document = placed_at(self.document, "shelf:link", 160.0, 120.0)[0].apply(
                self.document
            )
            body = self.document.bodies[-1].id
            part = self.document.body(body).part
            length = f"{self.random.uniform(50, 130):.2f} mm"
            if part not in {p.id for p in resolved.document.parts}:
                self.document = SetDimension(part, "length", length).apply(self.document)
            self._pin(body, "a", None)
        last = self.document.bodies[-1].id
        other = self.document.bodies[-2].id
        return "dyads" if self._pin(last, "b", f"{other}.b") else None

    def _pin(self, body: str, place: str, to: str | None) -> bool:
        resolved = self.resolved()
        own = {self.document.bodies[-1].id, self.document.bodies[-2].id} if to is None else {body}
        snaps = [
            x for x in all_snaps(resolved, resolved.poses) if x.snap.rank < 2 and x.body not in own
        ]
        target = (
            placed_snap(resolved, resolved.poses, *to.split("."))
            if to is not None
            else snaps[int(self.random.integers(len(snaps)))]
        )
        wish = Wish(placed_snap(resolved, resolved.poses, body, place), target, "revolute")
        found = propose(resolved, resolved.poses, wish)
        if not found.is_closed:
            return False
        self.stated |= bool(found.turned) or not found.is_continued
        self.document = found.edit.apply(self.document)
        return True

    def change_a_length(self) -> str | None:
        part = ("crank", "coupler", "rocker")[int(self.random.integers(3))]
        old = self.resolved().names[f"{part}.length"].value
        edit = SetDimension(part, "length", f"{old * self.random.uniform(0.94, 1.06):.3f} mm")
        after = edit.apply(self.document)
        try:
            evaluate(after)
        except AnakinemaError:
            return None
        self.document = after
        return "lengths"

    def double_an_arm(self) -> str | None:
        resolved = self.resolved()
        flat = [b.id for b in resolved.document.bodies if b.id.endswith(("coupler", "rocker"))]
        body = flat[int(self.random.integers(len(flat)))]
        found = repeated(resolved, resolved.poses, (body,), stack_shifts(2, 20.0))
        self.document = found.edit.apply(self.document)
        return "doubled arms"

    def switch_off_and_on(self) -> str | None:
        body = self.document.bodies[-1].id
        self.document = s.SetBody(body, "off", True).apply(self.document)
        evaluate(self.document)
        self.document = s.SetBody(body, "off", False).apply(self.document)
        return "switched"

    def into_a_unit_and_out(self) -> str | None:
        resolved = self.resolved()
        if any(b.id == "rocker" for b in self.document.bodies):
            edit, use = made_unit(resolved, ("coupler", "rocker"), "arm")
            self.document = edit.apply(self.document)
            return "units"
        if not self.document.instances:
            return None
        use = self.document.instances[0].id
        self.document = taken_apart(resolved, resolved.poses, use).apply(self.document)
        return "units"

    def move_the_pivot(self) -> str | None:
        """The rocker's pivot goes to a place 8 mm aside."""
        joint = next((j for j in self.document.joints if j.id == "rocker_on_base"), None)
        if joint is None or joint.first.body != "base":
            return None
        resolved = self.resolved()
        x, y, _ = resolved.parts["base"].places[joint.first.place]
        turn = self.random.uniform(-math.pi, math.pi)
        place = m.Place(
            id=f"p{len(resolved.parts['base'].places)}",
            x=x + 8 * math.cos(turn),
            y=y + 8 * math.sin(turn),
        )
        marked = part_edits.AddPlaces("base", (place,)).apply(self.document)
        resolved = resolve(marked)
        snap = placed_snap(resolved, resolved.poses, "base", place.id)
        found = rejoined(resolved, resolved.poses, joint.id, first=snap)
        if not found.proposal.is_closed:
            return None
        self.document = found.edit.apply(marked)
        self.stated |= bool(found.misfits)
        return "pivots moved"


@pytest.mark.campaign
def test_a_closed_loop_is_never_assembled_the_other_way_round() -> None:
    count = share(300, 4)
    counts: Counter[str] = Counter()
    for seed in range(count):
        loop = Loop(np.random.default_rng(seed))
        ways = (
            loop.add_a_dyad,
            loop.change_a_length,
            loop.change_a_length,
            loop.double_an_arm,
            loop.switch_off_and_on,
            loop.into_a_unit_and_out,
            loop.move_the_pivot,
        )
        before = loop.sine()
        for step in range(STEPS):
            if len(loop.resolved().document.bodies) > 11:
                break
            loop.stated = False
            did = ways[int(loop.random.integers(len(ways)))]()
            after = loop.sine()
            counts[did or "could not be"] += 1
            counts["stated"] += loop.stated
            if min(abs(before), abs(after)) > CLEAR and not loop.stated:
                assert before * after > 0, (seed, step, did, before, after)
                counts["sides kept"] += 1
            before = after
    stated = ", ".join(f"{n} {name}" for name, n in sorted(counts.items()))
    print(f"{count} loops built on: {stated}")
    assert counts["sides kept"] > 3 * count
