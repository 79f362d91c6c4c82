"""A step with contact against the same step without, and what an event costs."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable

from tests import mechanisms as build
from tests.contacts import disc, ratchet, solid, touch

from anakinema.document import model as m
from anakinema.edits import Edit
from anakinema.edits.values import SetDimension, SetPose
from anakinema.files.native import read_document
from anakinema.findings.evaluate import Evaluation, evaluate, first_look
from anakinema.mechanism.compile import Mechanism
from anakinema.motion.motion import Motion
from anakinema.motion.sweep import sweep
from anakinema.resources import demo_path
from bench.timing import duel, median_ms, scaled_ms

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
FRESH = 20
"""Edits of which the median is told."""


def _geneva_without_play() -> m.Document:
    """Six slots, and 1e-6 mm between the locking disc and the wheel: two turns of the crank."""
    shape = {"slots": 6, "centres": 84, "lock": 34}
    disc = {"shape": "locking_disc", **shape, "play": 1e-6}
    wheel = {"shape": "geneva_wheel", **shape, "slot": 8.0}

    def slab(name: str, outline: dict[str, object]) -> dict[str, object]:
        return {"id": name, "bottom": 0.0, "top": 5.0, "outline": outline}

    pin = {"shape": "circle", "x": 42, "y": 0, "radius": 4}
    return m.Document.model_validate(
        {
            "name": "Dial without play",
            "parts": [
                {"id": "frame", "places": [{"id": "o"}, {"id": "w", "y": -84.0}]},
                {
                    "id": "crank",
                    "slabs": [slab("disc", disc), slab("pin", pin)],
                    "places": [{"id": "o"}],
                },
                {"id": "wheel", "slabs": [slab("s", wheel)], "places": [{"id": "o"}]},
            ],
            "bodies": [
                {"id": "frame", "part": "frame", "fixed": True},
                {"id": "crank", "part": "crank", "pose": {"angle": 90.0}},
                {"id": "wheel", "part": "wheel", "pose": {"y": -84.0}},
            ],
            "joints": [
                {
                    "id": "spin",
                    "kind": "revolute",
                    "first": {"body": "frame", "place": "o"},
                    "second": {"body": "crank", "place": "o"},
                },
                {
                    "id": "index",
                    "kind": "revolute",
                    "first": {"body": "frame", "place": "w"},
                    "second": {"body": "wheel", "place": "o"},
                    "yields": "friction",
                },
            ],
            "contacts": [
                {
                    "id": "push",
                    "kind": "push",
                    "first": {"body": "crank"},
                    "second": {"body": "wheel"},
                }
            ],
            "program": {
                "drivers": [{"id": "d", "joint": "spin", "start": "90 deg", "rate": "10 deg/s"}],
                "stages": [{"moves": [{"driver": "d", "to": "810 deg"}], "step": "1 deg"}],
            },
        }
    )


def dial_without_play() -> list[str]:
    """From nothing to the verdict."""
    document = _geneva_without_play()
    taken = scaled_ms(lambda: evaluate(document), 5)
    return [
        f"dial without play, two turns: {taken / 1e3:.2f} s to the verdict (at most 1, aim 0.3)"
    ]


EDITS: dict[str, tuple[Callable[[int], Edit], float]] = {
    "geneva-feeder": (lambda k: SetDimension("crank", "pin", f"{7.9 + 0.005 * k:.3f} mm"), 600.0),
    "tray-indexer": (lambda k: SetDimension("wheel", "diameter", f"{100 + 0.02 * k:.2f} mm"), 500),
    "lid-latch": (lambda k: SetPose("frame", "x", 0.05 * k), 200.0),
}


def _look(document: m.Document, earlier: Evaluation) -> Evaluation:
    found = first_look(document, earlier)
    assert found is not None
    return found


def _typed_on() -> Callable[[m.Document, Evaluation], Evaluation]:
    """First looks, each from the one before, as of who types on before the exact answer comes."""
    last: list[Evaluation] = []

    def look(document: m.Document, earlier: Evaluation) -> Evaluation:
        last[:] = [_look(document, last[0] if last else earlier)]
        return last[0]

    return look


def edits_of_what_touches() -> list[str]:
    """Fresh edits of mechanisms with contacts: first look, and exact answer."""
    lines = []
    for name, (edit, most) in EDITS.items():
        document = read_document(demo_path(name))
        before = evaluate(document)
        for words, run, bound in (
            ("first look", _look, LOOK_MS),
            ("first look after a look", _typed_on(), LOOK_MS),
            ("exact", lambda d, e: evaluate(d, earlier=e), most),
        ):
            # Over and over, as often as they are timed: many more would make what touches jam.
            fresh = (edit(1 + k % FRESH).apply(document) for k in itertools.count())
            taken = scaled_ms(lambda r=run, f=fresh, b=before: r(next(f), b), FRESH)
            lines.append(
                f"{name.replace('-', ' ')}, {FRESH} fresh edits: {words} {taken:.0f} ms (at most"
                f" {bound:.0f})"
            )
    return lines
