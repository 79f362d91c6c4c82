"""A step with contact against the same step without, and what an event costs."""

from __future__ import annotations

import math
from functools import partial

from tests import mechanisms as build
from tests.contacts import disc, ratchet, solid, touch

from anakinema.document import model as m
from anakinema.edits.values import SetDimension, SetPose
from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate, first_look
from anakinema.mechanism.compile import Mechanism
from anakinema.motion.motion import Motion
from anakinema.motion.sweep import sweep
from anakinema.resources import demo_path
from bench.timing import duel, median_ms

STEPS = 720
FULL_TURN = 2 * math.pi


def _eccentric(*, touches: bool) -> m.Document:
    """An eccentric that lifts a roller by contact, or by the rod that does the same."""
    parts = [
        build.part("frame", o=(0.0, 0.0), up=(0.0, 0.0, math.pi / 2)),
        solid("cam", disc(0.0, 12.0, 30.0), o=(0.0, 0.0), pin=(0.0, 12.0)),
        solid("tappet", disc(0.0, 0.0, 8.0), p=(0.0, 0.0, math.pi / 2)),
    ]
    bodies = [build.body("frame", fixed=True), build.body("cam"), build.body("tappet", 0.0, 50.0)]
    more = {"yields": "gravity", "limits": m.Limits(rest=0.0)} if touches else {}
    joints = [
        build.joint("spin", "revolute", "frame.o", "cam.o"),
        build.joint("lift", "prismatic", "frame.up", "tappet.p", **more),
    ]
    if not touches:
        parts.append(build.part("rod", a=(0.0, 0.0), b=(0.0, 38.0)))
        bodies.append(build.body("rod", 0.0, 12.0))
        joints += [
            build.joint("low", "revolute", "cam.pin", "rod.a"),
            build.joint("high", "revolute", "rod.b", "tappet.p"),
        ]
    contacts = (touch("push", "cam", "tappet"),) if touches else ()
    doc = build.document(parts, bodies, joints, contacts=contacts)
    return build.driven(doc, ("spin", 0.1, 0.1 + FULL_TURN), count=STEPS)


def step_against_rod() -> list[str]:
    """An eccentric over a full turn, swept, sampled and certified free of other touches."""
    with_contact, bare = (build.mechanism(_eccentric(touches=flag)) for flag in (True, False))

    def run(mechanism: Mechanism) -> Motion:
        return sweep(mechanism)

    ours, peer, ratio = duel(lambda: run(with_contact), lambda: run(bare))
    wheel = build.mechanism(ratchet([0.0, -math.pi]))
    turned, _ = median_ms(lambda: run(wheel), 3)
    events = len(sweep(wheel).events)
    return [
        f"with contact {ours / STEPS:.3f} ms a step, by a rod {peer / STEPS:.3f} ms a step:"
        f" {1 / ratio:.1f} times (at most 5)",
        f"ratchet, half a turn with {events} events: {turned:.0f} ms,"
        f" {turned / events:.0f} ms an event",
    ]


LOOK_MS = 60.0
EDITS = {
    "geneva-feeder": SetDimension("crank", "pin", "7.9 mm"),
    "tray-indexer": SetDimension("wheel", "diameter", "100.1 mm"),
    "lid-latch": SetPose("frame", "x", 0.5),
}


def first_look_at_what_touches() -> list[str]:
    """A first look after an edit of a mechanism with contacts, against the exact answer."""
    lines = []
    for name, edit in EDITS.items():
        document = read_document(demo_path(name))
        before, changed = evaluate(document), edit.apply(document)
        look, spread = median_ms(partial(first_look, changed, before), 7)
        exact, _ = median_ms(partial(evaluate, changed, earlier=before), 3)
        lines.append(
            f"{name.replace('-', ' ')}: first look {look:.0f} ± {spread:.0f} ms (at most"
            f" {LOOK_MS:.0f}), 1/{exact / look:.0f} of the exact {exact:.0f} ms"
        )
    return lines
