"""Random bodies on arms and slides that may run into others, and where they first touch.

The truth shares no code with the program: segments, circles and polygons are measured here with
plain vector algebra, the first touch is bracketed on a fine raster and bisected.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.document import model as m
from tests import mechanisms as build
from tests.contacts import disc, slab, solid, touch

Floats = np.ndarray


@dataclass
class Run:
    """A tip on an arm or a slide, and a fixed obstacle it may meet.

    ``tip``: round (``radius`` about its place), or a polygon in the mover's frame. ``wall``: a
    polygon, or a round (``round_wall``: x, y, radius).
    """

    swings: bool
    start: float
    travel: float
    arm: float
    radius: float
    tip: list[tuple[float, float]]
    wall: list[tuple[float, float]]
    round_wall: tuple[float, float, float] | None


def random_run(random: np.random.Generator) -> Run:
    """Round, pointed and thin tips against walls, ends of bars, corners and rounds."""
    swings = bool(random.random() < 0.6)
    arm = float(random.uniform(30, 150))
    radius = float(10 ** random.uniform(-0.7, 1.0))
    kind = str(random.choice(["round", "pointed", "thin", "block"]))
    tip: list[tuple[float, float]] = []
    if kind == "pointed":
        tip = [(arm, 0.0), (arm - 3 * radius, radius), (arm - 3 * radius, -radius)]
    elif kind == "thin":
        tip = [
            (arm - 2 * radius, -0.05 * radius),
            (arm, -0.05 * radius),
            (arm, 0.05 * radius),
            (arm - 2 * radius, 0.05 * radius),
        ]
    elif kind == "block":
        tip = [
            (arm - radius, -radius),
            (arm + radius, -radius),
            (arm + radius, radius),
            (arm - radius, radius),
        ]
    if tip:
        radius = 0.0
        turn = float(random.uniform(-0.6, 0.6))
        cx, cy = arm, 0.0
        c, s = math.cos(turn), math.sin(turn)
        tip = [(cx + c * (x - cx) - s * (y - cy), cy + s * (x - cx) + c * (y - cy)) for x, y in tip]
    start = float(random.uniform(-math.pi, math.pi))
    travel = float(random.choice([-1, 1])) * float(random.uniform(0.3, 2 * math.pi))
    if not swings:
        start, travel = 0.0, float(random.choice([-1, 1])) * float(random.uniform(20, 300))
    # An obstacle somewhere about the way of the tip, often only grazed.
    share = float(random.uniform(0.15, 0.9))
    size = float(10 ** random.uniform(-0.3, 1.3))
    off = float(random.normal(0.0, 1.0)) * (size + max(radius, 2.0))
    if swings:
        at = start + share * travel
        reach = arm + off
        x, y = reach * math.cos(at), reach * math.sin(at)
    else:
        x, y = arm + share * travel, off
    thick = size * float(random.choice([1.0, 0.3, 0.03]))
    lean = float(random.uniform(0, 2 * math.pi))
    c, s = math.cos(lean), math.sin(lean)
    corners = ((-size, -thick), (size, -thick), (size, thick), (-size, thick))
    wall = [(x + c * u - s * v, y + s * u + c * v) for u, v in corners]
    if random.random() < 0.2:
        wall = wall[:3]
    round_wall = (x, y, size) if random.random() < 0.2 else None
    return Run(swings, start, travel, arm, radius, tip, wall, round_wall)


def document(run: Run, count: int, stages: int, far: float) -> m.Document:
    """The run as a document; ``far``: an unrelated joint stands so far away."""
    mover = slab(run.tip) if run.tip else disc(run.arm, 0.0, run.radius)
    wall = slab(run.wall) if run.round_wall is None else disc(*run.round_wall)
    frame = build.part("frame", o=(0.0, 0.0), far=(far, 0.0)).model_copy(update={"slabs": (wall,)})
    place = (0.0, 0.0)
    at = {"angle": run.start} if run.swings else {"x": run.start}
    kind = "revolute" if run.swings else "prismatic"
    doc = build.document(
        [frame, solid("mover", mover, o=place), build.part("idle", o=(0.0, 0.0))],
        [build.body("frame", fixed=True), build.body("mover", **at), build.body("idle", far)],
        [
            build.joint("drive", kind, "frame.o", "mover.o"),
            build.joint("idle", "revolute", "frame.far", "idle.o"),
        ],
        contacts=(touch("stop", "mover", "frame"),),
    )
    cuts = np.linspace(0.0, run.travel, stages + 1)[1:]
    program = m.Program(
        drivers=(m.Driver(id="d", joint="drive", start=run.start, rate=1.0),),
        stages=tuple(
            m.Stage(moves=(m.Move(driver="d", to=run.start + float(c)),), count=count) for c in cuts
        ),
    )
    return doc.model_copy(update={"program": program})


class Truth:
    """Distances and overlaps of a run, and where it first touches."""

    def __init__(self, run: Run) -> None:
        self.run = run
        self.tip = np.array(run.tip or [(run.arm, 0.0)], dtype=float)
        self.wall = _anticlockwise(np.array(run.wall, dtype=float))
        self.fastest = 1.0
        if run.swings:
            self.fastest = float(np.hypot(*self.tip.T).max()) + run.radius

    def at(self, x: float) -> tuple[float, bool]:
        """Distance (mm) at a driver value, and whether they overlap."""
        run = self.run
        tip = self.tip + np.array([x, 0.0])
        if run.swings:
            c, s = math.cos(x), math.sin(x)
            tip = self.tip @ np.array([[c, s], [-s, c]])
        if run.round_wall is not None:
            centre, size = np.array(run.round_wall[:2]), run.round_wall[2]
            away = self._to_shape(tip, centre[None])
            return max(0.0, away - size - run.radius), away < size + run.radius
        if not run.tip:
            away = _from_point(self.wall, tip[0])
            inside = _holds(self.wall, tip[0])
            return (0.0 if inside else max(0.0, away - run.radius), inside or away < run.radius)
        crosses = _cross(tip, self.wall)
        if crosses or _holds(self.wall, tip[0]) or _holds(_anticlockwise(tip), self.wall[0]):
            return 0.0, True
        return (
            min(
                min(_from_point(self.wall, p) for p in tip),
                min(_from_point(tip, p) for p in self.wall),
            ),
            False,
        )

    def _to_shape(self, tip: Floats, points: Floats) -> float:
        if not self.run.tip:
            return float(np.hypot(*(tip[0] - points[0])))
        if _holds(_anticlockwise(tip), points[0]):
            return 0.0
        return _from_point(tip, points[0])

    def first(self) -> tuple[float | None, bool]:
        """The driver value of the first touch, None if there is none; whether all is plain.

        It is not where they only graze, or are nearer than a hair somewhere without meeting.
        """
        run = self.run
        sign = math.copysign(1.0, run.travel)
        gone, long, plain = 0.0, abs(run.travel), True
        while gone <= long:
            d, over = self.at(run.start + sign * gone)
            if over:
                return run.start + sign * gone, plain
            if d > HAIR:
                gone += d / self.fastest
                continue
            ahead = np.linspace(0.0, 2e-3 * long, 400)[1:]
            hit = next((a for a in ahead if self.at(run.start + sign * (gone + a))[1]), None)
            if hit is None or gone + hit > long:
                plain = False
                gone += 2 * HAIR / self.fastest
                continue
            low, high = 0.0, float(hit)
            for _ in range(60):
                middle = (low + high) / 2
                if self.at(run.start + sign * (gone + middle))[1]:
                    high = middle
                else:
                    low = middle
            return run.start + sign * (gone + high), plain
        return None, plain


HAIR = 1e-6
"""mm"""


def _anticlockwise(points: Floats) -> Floats:
    x, y = points.T
    area = float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))
    return points if area > 0 else points[::-1]


def _from_point(polygon: Floats, point: Floats) -> float:
    """Distance of a point from the rim of a polygon."""
    a, b = polygon, np.roll(polygon, -1, axis=0)
    along = b - a
    share = np.clip(np.sum((point - a) * along, axis=1) / np.sum(along * along, axis=1), 0.0, 1.0)
    off = point - a - share[:, None] * along
    return float(np.hypot(off[:, 0], off[:, 1]).min())


def _holds(convex: Floats, point: Floats) -> bool:
    """Whether a convex anticlockwise polygon holds a point."""
    a, b = convex, np.roll(convex, -1, axis=0)
    cross = (b - a)[:, 0] * (point - a)[:, 1] - (b - a)[:, 1] * (point - a)[:, 0]
    return bool((cross > 0).all())


def _cross(one: Floats, two: Floats) -> bool:
    """Whether edges of two polygons cross."""
    p, r = one[:, None], (np.roll(one, -1, axis=0) - one)[:, None]
    q, s = two[None], (np.roll(two, -1, axis=0) - two)[None]
    cross = r[..., 0] * s[..., 1] - r[..., 1] * s[..., 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = ((q - p)[..., 0] * s[..., 1] - (q - p)[..., 1] * s[..., 0]) / cross
        u = ((q - p)[..., 0] * r[..., 1] - (q - p)[..., 1] * r[..., 0]) / cross
    return bool(((t > 0) & (t < 1) & (u > 0) & (u < 1)).any())
