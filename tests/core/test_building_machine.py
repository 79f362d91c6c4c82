"""Whatever is built in whatever order: undo is exact, the document stays sound, and a join never
turns over what was assembled before."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from hypothesis import HealthCheck, note
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from hypothesis.stateful import (
    RuleBasedStateMachine,
    initialize,
    invariant,
    precondition,
    rule,
    run_state_machine_as_test,
)

from anakinema.authoring.joining import propose
from anakinema.authoring.placing import placed_at
from anakinema.authoring.repeating import repeated
from anakinema.authoring.shifts import Shift, mirror_about
from anakinema.authoring.snap_points import all_snaps
from anakinema.authoring.subassemblies import made_unit, taken_apart
from anakinema.authoring.wishes import Wish
from anakinema.document.depending import Going
from anakinema.document.model import Document
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits import joints as joint_edits
from anakinema.edits import parts as part_edits
from anakinema.edits import structure as s
from anakinema.edits import values as v
from anakinema.edits.base import Edit
from anakinema.edits.history import History
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.files.native import document_text, parse_document
from anakinema.mechanism.compile import compile_mechanism
from anakinema.mechanism.dyads import decompose
from anakinema.mechanism.system import System
from anakinema.motion.assemblies import kept_values
from tests.conftest import share

MOST_BODIES = 9
COUNTS: Counter[str] = Counter()
ITEMS = ("base", "link", "crank", "slotted_link", "block", "guide", "bell_crank", "pin")
SETTINGS = hypothesis_settings(
    stateful_step_count=20,
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much],
)


class Building(RuleBasedStateMachine):
    """A designer at random."""

    def __init__(self) -> None:
        super().__init__()
        self.history = History(Document())
        self.texts = [document_text(self.history.document)]
        self.place = 0

    @property
    def document(self) -> Document:
        return self.history.document

    def resolved(self) -> Resolved:
        return resolve(self.document)

    def do(self, edit: Edit) -> None:
        before = self.document
        note(edit.label)
        self.history.do(edit)
        self.history.finish_gesture()
        if self.document is not before:
            del self.texts[self.place + 1 :]
            self.texts.append(document_text(self.document))
            self.place += 1

    @precondition(lambda self: len(self.resolved().document.bodies) < MOST_BODIES)
    @rule(
        item=st.sampled_from(ITEMS),
        x=st.integers(-150, 150),
        y=st.integers(-150, 150),
        angle=st.integers(-180, 180),
    )
    def place_part(self, item: str, x: int, y: int, angle: int) -> None:
        self.do(placed_at(self.document, f"shelf:{item}", x, y, angle)[0])

    @initialize(angles=st.lists(st.integers(-180, 180), min_size=4, max_size=4))
    def begin(self, angles: list[int]) -> None:
        """A frame and three parts that can make a loop."""
        items = ("base", "crank", "link", "link")
        for item, angle, x in zip(items, angles, (-40, -150, 0, 90), strict=True):
            self.do(
                placed_at(self.document, f"shelf:{item}", x, 0 if item == "base" else 80, angle)[0]
            )

    @precondition(lambda self: len(self.resolved().document.bodies) > 1)
    @rule(
        first=st.integers(0, 500),
        second=st.integers(0, 500),
        kind=st.sampled_from(("prismatic", "pin_in_slot", "rigid", "pin_on_arc", "block_on_arc")),
        manner=st.sampled_from(("together", "together", "stand", "offset")),
        flip=st.booleans(),
        branch=st.integers(0, 1),
    )
    def join(  # type: ignore[no-untyped-def]
        self, first: int, second: int, kind, manner: str, flip: bool, branch: int
    ) -> None:
        self.join_snaps(first, second, kind, manner, flip, branch)

    @precondition(lambda self: len(self.resolved().document.bodies) > 1)
    @rule(first=st.integers(0, 500), second=st.integers(0, 500), branch=st.integers(0, 1))
    def pin(self, first: int, second: int, branch: int) -> None:
        self.join_snaps(first, second, "revolute", "together", False, branch)

    @precondition(lambda self: len(self.resolved().document.bodies) > 1)
    @rule(first=st.integers(0, 500), second=st.integers(0, 500))
    def pin_again(self, first: int, second: int) -> None:
        self.join_snaps(first, second, "revolute", "together", False, 0)

    def join_snaps(  # type: ignore[no-untyped-def]
        self, first: int, second: int, kind, manner: str, flip: bool, branch: int
    ) -> None:
        resolved = self.resolved()
        poses = resolved.poses
        snaps = [snap for snap in all_snaps(resolved, poses) if snap.snap.rank < 3]
        one = snaps[first % len(snaps)]
        others = [snap for snap in snaps if snap.body != one.body]
        if not others:
            return
        wish = Wish(
            one, others[second % len(others)], kind, manner, flip, radius=40.0, branch=branch
        )
        try:
            found = propose(resolved, poses, wish)
        except AnakinemaError:
            return
        if not found.is_closed:
            return
        self.do(found.edit)
        COUNTS["joins"] += 1
        COUNTS["loops closed"] += found.freedoms < found.freedoms_before - 2
        after = self.resolved()
        assert after.poses == pytest.approx(found.poses, abs=1e-7)
        # A join may have no way that leaves all loops on their sides: then it says so beforehand.
        stated = bool(found.turned) or not found.is_continued
        COUNTS["stated"] += stated
        if branch == 0 and not stated:
            self.not_turned_over(resolved, after)

    def not_turned_over(self, before: Resolved, after: Resolved) -> None:
        """The groups that held together before have the sides they had."""
        mechanism = compile_mechanism(before)
        dyads = decompose(System(mechanism, kept_values(mechanism, before.poses)))
        if dyads is None or not len(before.poses):
            return
        count = len(before.document.bodies)
        sides = dyads.sines(before.poses[None])[0]
        now = dyads.sines(after.poses[None, :count])[0]
        clear = np.abs(sides) > 0.02
        COUNTS["sides kept"] += int(np.count_nonzero(clear & (np.abs(sides) < 1)))
        assert (sides[clear] * now[clear] > -1e-6).all()

    @precondition(lambda self: len(self.document.bodies) > 0)
    @rule(index=st.integers(0, 50), way=st.integers(0, 5))
    def change_body(self, index: int, way: int) -> None:
        body = self.document.bodies[index % len(self.document.bodies)]
        edits: list[Edit] = [
            s.SetBody(body.id, "fixed", not body.fixed),
            s.SetBody(body.id, "off", not body.off),
            s.SetBody(body.id, "name", "renamed"),
            part_edits.SetPart(body.part, "colour", "rose"),
            s.Remove(Going(bodies=frozenset((body.id,)))),
            part_edits.SplitPart(body.id, f"own_{len(self.document.parts)}"),
        ]
        self.do(edits[way])

    @precondition(lambda self: len(self.document.joints) > 0)
    @rule(index=st.integers(0, 50), way=st.integers(0, 4))
    def change_joint(self, index: int, way: int) -> None:
        joint = self.document.joints[index % len(self.document.joints)]
        edits: list[Edit] = [
            s.SetJoint(joint.id, "off", not joint.off),
            v.SetLimit(joint.id, "least", -3.0),
            joint_edits.SetZero(joint.id, 0.25),
            s.Remove(Going(joints=frozenset((joint.id,)))),
            joint_edits.ReverseJoint(joint.id),
        ]
        if way == 4 and not joint_edits.can_reverse(joint):
            return
        before = compile_mechanism(self.resolved()).resolved.poses
        self.do(edits[way])
        assert self.resolved().poses == pytest.approx(before) or way in (0, 3)

    @precondition(
        lambda self: (
            len(self.document.bodies) > 0 and len(self.resolved().document.bodies) < MOST_BODIES
        )
    )
    @rule(index=st.integers(0, 50), way=st.integers(0, 3))
    def repeat(self, index: int, way: int) -> None:
        resolved = self.resolved()
        bodies = [b.id for b in resolved.document.bodies]
        if not bodies:
            return
        chosen = (bodies[index % len(bodies)],)
        shift = (Shift(60.0, 20.0), Shift(lift=9.0), mirror_about(10.0, 0.0, 0.4), Shift(turn=1.0))
        self.do(repeated(resolved, resolved.poses, chosen, (shift[way],)).edit)

    @precondition(lambda self: len(self.document.bodies) > 0)
    @rule(index=st.integers(0, 50), count=st.integers(1, 3))
    def unit(self, index: int, count: int) -> None:
        resolved = self.resolved()
        bodies = [b.id for b in resolved.document.bodies]
        if bodies:
            start = index % len(bodies)
            try:
                edit, _ = made_unit(resolved, bodies[start : start + count], "unit")
            except ValueOutOfRangeError as error:
                assert "nested" in error.what
                return
            self.do(edit)

    @precondition(lambda self: len(self.document.instances) > 0)
    @rule(index=st.integers(0, 50), apart=st.booleans())
    def use(self, index: int, apart: bool) -> None:
        resolved = self.resolved()
        use = self.document.instances[index % len(self.document.instances)].id
        if apart:
            self.do(taken_apart(resolved, resolved.poses, use))
        elif len(resolved.document.bodies) < MOST_BODIES:
            inner = next(
                (b.id for b in resolved.document.bodies if b.id.startswith(f"{use}__")), None
            )
            if inner is not None:
                shifts = (Shift(70.0, 5.0),)
                self.do(repeated(resolved, resolved.poses, (inner,), shifts).edit)

    @rule(back=st.integers(1, 4))
    def undo(self, back: int) -> None:
        for _ in range(back):
            self.place = max(0, self.place - 1)
            self.history.undo()

    @rule(on=st.integers(1, 4))
    def redo(self, on: int) -> None:
        for _ in range(on):
            self.place = min(len(self.texts) - 1, self.place + 1)
            self.history.redo()

    @invariant()
    def document_is_sound_and_is_what_it_was(self) -> None:
        text = document_text(self.document)
        assert text == self.texts[self.place]
        assert parse_document(text.encode(), "built") == self.document
        resolve(self.document)

    def teardown(self) -> None:
        while self.history.undo_label is not None:
            self.history.undo()
        assert document_text(self.document) == self.texts[0]
        while self.history.redo_label is not None:
            self.history.redo()
        assert document_text(self.document) == self.texts[-1]


@pytest.mark.campaign
def test_random_building_sequences() -> None:
    count = share(500, 8)
    run_state_machine_as_test(Building, settings=hypothesis_settings(SETTINGS, max_examples=count))
    made = ", ".join(f"{n} {what}" for what, n in COUNTS.items())
    print(f"\nrandom building: {count} sequences of up to 20 steps; {made}")
    assert COUNTS["joins"] > count
