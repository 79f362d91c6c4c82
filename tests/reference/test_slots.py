"""Curved slots: their outlines against the distance to their middle, and pins that run in them."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import evaluate
from anakinema.findings.finding import Outcome
from anakinema.motion.branch_path import End
from anakinema.motion.motion import EventKind
from tests import mechanisms as build

WIDTH = 8.0


def plate(*vertices: tuple[float, ...], spline: bool) -> m.Part:
    """A plate with a slot along vertices (x, y, bulge)."""
    slot = m.SlotAlong(
        shape="slot_along",
        width=WIDTH,
        spline=spline,
        vertices=tuple(
            m.Vertex(x=v[0], y=v[1], bulge=v[2] if len(v) > 2 else 0.0) for v in vertices
        ),
    )
    outline = m.Rectangle(shape="rectangle", x=30, y=10, width=160, height=120)
    slab = m.Slab(id="s", top=5.0, outline=outline, holes=(m.Hole(id="slot", outline=slot),))
    return build.part("plate", o=(0.0, 0.0)).model_copy(update={"slabs": (slab,)})


BEND = math.radians(60)
BENDS = {
    "smooth": (((0, 0), (20, 8), (45, 5), (70, 20)), True),
    "lines and arcs": (
        (
            (0, 0),
            (30, 0, math.tan(BEND / 4)),
            (30 + 25 * math.sin(BEND), 25 * (1 - math.cos(BEND))),
        ),
        False,
    ),
}


@pytest.mark.parametrize("name", BENDS)
def test_rim_of_a_slot_is_half_its_width_from_its_middle(name: str) -> None:
    vertices, spline = BENDS[name]
    doc = build.document([plate(*vertices, spline=spline)], [build.body("plate", fixed=True)], [])
    solid = resolve(doc).parts["plate"]
    rim = solid.slabs[0].region.polygon.interiors[0]
    points = np.array([rim.interpolate(k / 200, normalized=True).coords[0] for k in range(200)])
    foot = solid.curves["slot"].foot(points)
    inside = (foot.s > 0) & (foot.s < solid.curves["slot"].length)
    # Points lie on chords of a fine polygon of the exact rim.
    assert np.abs(foot.distance[inside]) == pytest.approx(WIDTH / 2, abs=6e-3)
    ends = solid.curves["slot"].at(np.array([0.0, solid.curves["slot"].length]))[0]
    near = np.hypot(*(points[:, None] - ends[None]).transpose(2, 0, 1)).min(axis=1)
    assert near[~inside] == pytest.approx(WIDTH / 2, abs=6e-3)


def running(travel: float) -> m.Document:
    """A pin of 7.6 mm in the smooth slot, carried along x by a slide and free across it."""
    vertices, _ = BENDS["smooth"]
    pin = m.Slab(id="p", top=5.0, outline=m.Circle(shape="circle", radius=3.8))
    follower = build.part("pin", o=(0.0, 0.0, math.pi / 2)).model_copy(update={"slabs": (pin,)})
    doc = build.document(
        [
            plate(*vertices, spline=True).model_copy(
                update={"places": (m.Place(id="o"), m.Place(id="along"))}
            ),
            build.part("cart", along=(0.0, 0.0), up=(0.0, 0.0, math.pi / 2)),
            follower,
        ],
        [build.body("plate", fixed=True), build.body("cart"), build.body("pin")],
        [
            build.joint("push", "prismatic", "plate.along", "cart.along"),
            build.joint("rise", "prismatic", "cart.up", "pin.o"),
            m.Joint(
                id="ride",
                kind="pin_on_curve",
                curve="slot",
                first=m.Side(
                    body="plate", place="o", pieces=(m.OutlinePiece(slab="s", hole="slot"),)
                ),
                second=m.Side(body="pin", place="o", pieces=(m.OutlinePiece(slab="p"),)),
            ),
        ],
    )
    return build.driven(doc, ("push", 2.0, 2.0 + travel), count=60)


def test_pin_runs_in_its_slot_without_touching_and_the_end_is_a_stop() -> None:
    evaluation = evaluate(running(60.0))
    assert evaluation.motion.end is End.COMPLETE
    found = {f.id: f for f in evaluation.verdict.findings}
    assert found["built_in.overlap"].outcome is not Outcome.FAIL
    stopped = evaluate(running(80.0)).motion
    assert stopped.end is End.SLOT_END
    assert stopped.events[-1].kind is EventKind.SLOT_END
    # The pin of 3.8 mm comes to rest where its rim meets the cap of 4 mm about the slot's end.
    assert math.dist(stopped.poses[-1, 2, :2], (70.0, 20.0)) == pytest.approx(0.2, abs=1e-6)


def test_slot_that_bends_too_tightly_is_named() -> None:
    tight = ((0.0, 0.0), (10.0, 0.0, 1.0), (10.0, 6.0))
    doc = build.document([plate(*tight, spline=False)], [build.body("plate", fixed=True)], [])
    with pytest.raises(AnakinemaError, match=r"hole 'slot'.*(tighter|direction)"):
        resolve(doc)
