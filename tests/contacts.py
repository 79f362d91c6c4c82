"""Mechanisms in which bodies touch, for tests and benchmarks."""

from __future__ import annotations

import math
from collections.abc import Sequence

from anakinema.document import model as m
from tests import mechanisms as build


def slab(vertices: Sequence[Sequence[float]], holes: tuple[m.Hole, ...] = ()) -> m.Slab:
    """A slab over vertices (x, y) or (x, y, bulge), from 0 to 5 mm."""
    path = m.Path(
        shape="path",
        vertices=tuple(
            m.Vertex(x=v[0], y=v[1], bulge=v[2] if len(v) > 2 else 0.0) for v in vertices
        ),
    )
    return m.Slab(id="s", top=5.0, outline=path, holes=holes)


def disc(x: float, y: float, radius: float) -> m.Slab:
    """A round slab from 0 to 5 mm."""
    return m.Slab(id="s", top=5.0, outline=m.Circle(shape="circle", x=x, y=y, radius=radius))


def solid(name: str, outline: m.Slab, **places: tuple[float, ...]) -> m.Part:
    """A part with one slab and places."""
    return build.part(name, **places).model_copy(update={"slabs": (outline,)})


def touch(kind: str, first: str, second: str | None = None, **more: object) -> m.Contact:
    """A contact between two bodies."""
    return m.Contact(
        id=f"{kind}_{first}",
        kind=kind,
        first=m.Surface(body=first),
        second=None if second is None else m.Surface(body=second),
        **more,
    )


def ratchet(
    turns: Sequence[float], teeth: int = 12, tip: float = 50.0, root: float = 40.0
) -> m.Document:
    """A wheel of straight flanks and radial faces under a pointed pawl, driven to each angle.

    Wheel at the origin, pawl pivot at (-38, 48), its tip 40 mm from there, sprung clockwise.
    """
    step = 2 * math.pi / teeth
    rim = []
    for k in range(teeth):
        rim += [
            (root * math.cos(k * step), root * math.sin(k * step)),
            (tip * math.cos((k + 1) * step), tip * math.sin((k + 1) * step)),
        ]
    pawl = slab([(0, 3), (-4, 10), (30, 26), (38.5, 20), (40, 0), (33, 14)])
    doc = build.document(
        [
            build.part("frame", o=(0.0, 0.0), q=(-38.0, 48.0)),
            solid("wheel", slab(rim), o=(0.0, 0.0)),
            solid("pawl", pawl, q=(0.0, 0.0)),
        ],
        [
            build.body("frame", fixed=True),
            build.body("wheel", angle=turns[0]),
            build.body("pawl", -38.0, 48.0, 0.3),
        ],
        [
            build.joint("spin", "revolute", "frame.o", "wheel.o"),
            build.joint(
                "swing",
                "revolute",
                "frame.q",
                "pawl.q",
                yields="spring",
                limits=m.Limits(rest=-0.6),
            ),
        ],
        contacts=(touch("push", "wheel", "pawl"),),
    )
    drivers = (m.Driver(id="d", joint="spin", start=turns[0], rate=1.0),)
    stages = tuple(m.Stage(moves=(m.Move(driver="d", to=a),), count=60) for a in turns[1:])
    return doc.model_copy(update={"program": m.Program(drivers=drivers, stages=stages)})
