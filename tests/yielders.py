"""Random detents, pawls and latches, and what they do by brute force on polygons.

The brute force shares no code with the program: outlines are flattened here, bodies are placed
with shapely, and the yielding body is stepped: pushed out of what it overlaps, then let down
towards its rest until it meets something. Where no small push frees it, it is jammed.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import Polygon
from shapely.prepared import prep

from anakinema.document import model as m
from tests import mechanisms as build
from tests.contacts import slab, solid, touch

Corners = list[tuple[float, ...]]
"""Vertices (x, y, bulge)."""


@dataclass
class Case:
    """A driver (turned or slid) and a body that yields (slides up and down, or swings)."""

    name: str
    driver: Corners
    follower: Corners
    slides: bool
    """Whether the driver slides along x; else it turns about the origin."""
    swings: bool
    """Whether the follower swings about ``pivot``; else it slides along y at x = 0."""
    pivot: tuple[float, float]
    start: float
    travel: float
    high: float
    """The follower's value as drawn, clear of everything."""
    rest: float
    reach: float
    """How far the follower's tip lies from its pivot, 1 for one that slides."""
    small: float
    """mm, the smallest feature."""


def flat(corners: Corners, off: float = 2e-4) -> Polygon:
    """The polygon of vertices with bulges, chords off by at most ``off`` mm."""
    points: list[tuple[float, float]] = []
    for k, corner in enumerate(corners):
        x, y = corner[0], corner[1]
        bulge = corner[2] if len(corner) > 2 else 0.0
        nx, ny = corners[(k + 1) % len(corners)][:2]
        points.append((x, y))
        if bulge == 0.0:
            continue
        chord = math.hypot(nx - x, ny - y)
        radius = chord * (1 + bulge * bulge) / (4 * abs(bulge))
        sweep = 4 * math.atan(bulge)
        # The centre lies on the chord's left for a bulge that turns left.
        lift = (1 - bulge * bulge) / (4 * bulge)
        cx, cy = (x + nx) / 2 - lift * (ny - y), (y + ny) / 2 + lift * (nx - x)
        first = math.atan2(y - cy, x - cx)
        count = max(4, math.ceil(abs(sweep) / (2 * math.acos(max(0.0, 1 - off / radius)))))
        points += [
            (
                cx + radius * math.cos(first + sweep * i / count),
                cy + radius * math.sin(first + sweep * i / count),
            )
            for i in range(1, count)
        ]
    return Polygon(points)


def circle(radius: float, x: float = 0.0, y: float = 0.0) -> Corners:
    """Two half circles."""
    return [(x - radius, y, 1.0), (x + radius, y, 1.0)]


def document(case: Case, stages: int = 1, count: int = 60) -> m.Document:
    """The case as a document, its travel cut into stages."""
    frame = build.part("frame", o=(0.0, 0.0, 0.0), up=(0.0, 0.0, math.pi / 2), q=case.pivot)
    value = case.high
    if case.swings:
        follower = build.body("follower", *case.pivot, value)
        swing = build.joint(
            "give",
            "revolute",
            "frame.q",
            "follower.p",
            yields="spring",
            limits=m.Limits(rest=case.rest),
        )
    else:
        follower = build.body("follower", 0.0, value)
        swing = build.joint(
            "give",
            "prismatic",
            "frame.up",
            "follower.p",
            yields="spring",
            limits=m.Limits(rest=case.rest),
        )
    if case.slides:
        mover = build.body("mover", case.start, 0.0)
        drive = build.joint("drive", "prismatic", "frame.o", "mover.o")
    else:
        mover = build.body("mover", 0.0, 0.0, case.start)
        drive = build.joint("drive", "revolute", "frame.o", "mover.o")
    place = (0.0, 0.0) if case.swings else (0.0, 0.0, math.pi / 2)
    doc = build.document(
        [
            frame,
            solid("mover", slab(case.driver), o=(0.0, 0.0)),
            solid("follower", slab(case.follower), p=place),
        ],
        [build.body("frame", fixed=True), mover, follower],
        [drive, swing],
        contacts=(touch("push", "mover", "follower"),),
    )
    cuts = np.linspace(0.0, case.travel, stages + 1)[1:]
    drivers = (m.Driver(id="d", joint="drive", start=case.start, rate=1.0),)
    program = m.Program(
        drivers=drivers,
        stages=tuple(
            m.Stage(moves=(m.Move(driver="d", to=case.start + float(cut)),), count=count)
            for cut in cuts
        ),
    )
    return doc.model_copy(update={"program": program})


@dataclass
class Run:
    """Follower values at driver values, as far as it goes; where it fell and how far; the jam."""

    at: list[float] = field(default_factory=list)
    values: list[float] = field(default_factory=list)
    drops: list[tuple[float, float]] = field(default_factory=list)
    jam: float | None = None


class Force:
    """Brute force on a case."""

    def __init__(self, case: Case, steps: int = 500) -> None:
        self.case, self.steps = case, steps
        self.driver, self.follower = flat(case.driver), flat(case.follower)
        self.away = 1.0 if case.high > case.rest else -1.0
        self.fine = 1e-6 / case.reach

    def placed(self, x: float) -> Polygon:
        if self.case.slides:
            return affinity.translate(self.driver, x, 0.0)
        return affinity.rotate(self.driver, x, origin=(0, 0), use_radians=True)

    def hits(self, value: float) -> bool:
        if self.case.swings:
            body = affinity.rotate(self.follower, value, origin=(0, 0), use_radians=True)
            body = affinity.translate(body, *self.case.pivot)
        else:
            body = affinity.translate(self.follower, 0.0, value)
        if not self.now.intersects(body):
            return False
        return shapely.intersection(self.now.context, body).area > 1e-9

    def bisected(self, free: float, bad: float) -> float:
        while abs(free - bad) > self.fine:
            middle = (free + bad) / 2
            if self.hits(middle):
                bad = middle
            else:
                free = middle
        return free

    def pushed(
        self, begin: float, end: float, value: float, most: float, deep: int = 2
    ) -> float | None:
        """The follower's value when the driver comes from ``begin`` to ``end``, pushed no more than
        ``most`` at a time; None if it is jammed. Steep ramps are taken in shorter steps."""
        self.now = prep(self.placed(end))
        if not self.hits(value):
            return value
        tried = 0.0
        while tried < most:
            tried += most / 28
            free = value + self.away * tried
            if not self.hits(free):
                return self.bisected(free, free - self.away * most / 28)
        if not deep or begin == end:
            return None
        for share in np.linspace(0.0, 1.0, 17)[1:]:
            at = begin + (end - begin) * float(share)
            found = self.pushed(begin, at, value, most, deep - 1)
            if found is None:
                return None
            value = found
        self.now = prep(self.placed(end))
        return value

    def run(self) -> Run:
        case = self.case
        out = Run()
        value = case.high
        hop = 0.05 * case.small / case.reach
        push = 0.35 * case.small / case.reach
        for k in range(self.steps + 1):
            x = case.start + case.travel * k / self.steps
            pushed = self.pushed(out.at[-1] if out.at else x, x, value, push)
            if pushed is None:
                out.jam = x
                return out
            before = value = pushed
            while (value - case.rest) * self.away > 0.0:
                lower = value - self.away * hop
                lower = max(lower, case.rest) if self.away > 0 else min(lower, case.rest)
                if self.hits(lower):
                    value = self.bisected(value, lower)
                    break
                value = lower
            if k and abs(before - value) > 2.5 * push:
                out.drops.append((x, abs(before - value)))
            out.at.append(x)
            out.values.append(value)
        return out


def random_case(random: np.random.Generator) -> Case:
    """A detent, a pawl or a latch, of any proportions."""
    kind = str(random.choice(["detent", "upright", "ratchet", "latch", "rack"]))
    return {
        "detent": _detent,
        "upright": _upright,
        "ratchet": _ratchet,
        "latch": _latch,
        "rack": _rack,
    }[kind](random)


def _detent(random: np.random.Generator) -> Case:
    """A wheel with round notches under a ball on a slide."""
    notches = int(random.integers(3, 13))
    wheel = float(random.uniform(20, 60))
    room = 2 * math.pi * wheel / notches
    ball = float(random.uniform(0.06, 0.2)) * room
    notch = ball * float(random.uniform(0.6, 1.7))
    half = min(notch * float(random.uniform(0.5, 0.98)), 0.4 * room)
    half_angle = math.asin(half / wheel)
    bulge = -math.tan(math.asin(min(1.0, half / notch)) / 2)
    step = 2 * math.pi / notches
    rim: Corners = []
    for k in range(notches):
        a, b = k * step - half_angle, k * step + half_angle
        land = math.tan((step - 2 * half_angle) / 4)
        rim.append((wheel * math.cos(a), wheel * math.sin(a), bulge))
        rim.append((wheel * math.cos(b), wheel * math.sin(b), land))
    start = float(random.uniform(0, step)) if random.random() < 0.6 else math.pi / 2
    travel = float(random.choice([-1, 1])) * float(random.uniform(1.2, 3.2)) * step
    return Case(
        "detent",
        rim,
        circle(ball),
        False,
        False,
        (0.0, 0.0),
        start,
        travel,
        wheel + 2.5 * ball,
        0.0,
        1.0,
        min(ball, notch, half),
    )


def _upright(random: np.random.Generator) -> Case:
    """A bar with a notch of upright walls slid under a ball on a slide."""
    ball = float(random.uniform(2, 12))
    width = ball * float(random.uniform(0.6, 3.0))
    sits = ball - math.sqrt(max(0.0, ball**2 - min(width / 2, ball) ** 2))
    # Either plainly shallower than the ball's middle or plainly deeper.
    depth = ball * float(random.choice([random.uniform(0.2, 0.8), random.uniform(1.3, 1.8)]))
    if width > 2 * ball:
        sits = depth
    long = 6 * ball + width
    bar: Corners = [
        (-long, -depth - 5),
        (long, -depth - 5),
        (long, 0.0),
        (width / 2, 0.0),
        (width / 2, -depth),
        (-width / 2, -depth),
        (-width / 2, 0.0),
        (-long, 0.0),
    ]
    side = float(random.choice([-1, 1]))
    start = side * (width / 2 + 2 * ball)
    travel = -side * (width + 4 * ball)
    small = min(ball, depth, width / 2, max(sits, 0.5))
    return Case(
        "upright",
        bar,
        circle(ball),
        True,
        False,
        (0.0, 0.0),
        start,
        travel,
        2.2 * ball,
        -3 * ball - depth,
        1.0,
        small,
    )


def _ratchet(random: np.random.Generator) -> Case:
    """A sawtooth wheel under a pointed or round pawl that swings."""
    teeth = int(random.integers(6, 21))
    tip = float(random.uniform(30, 60))
    high = 2 * math.pi * tip / teeth * float(random.uniform(0.25, 0.6))
    step = 2 * math.pi / teeth
    under = float(random.uniform(-0.15, 0.25)) * step
    rim: Corners = []
    for k in range(teeth):
        rim.append(
            ((tip - high) * math.cos(k * step + under), (tip - high) * math.sin(k * step + under))
        )
        rim.append((tip * math.cos((k + 1) * step), tip * math.sin((k + 1) * step)))
    arm = tip * float(random.uniform(0.7, 1.3))
    nose = high * float(random.uniform(0.15, 0.35))
    pivot = (-arm * math.cos(0.25), tip + arm * math.sin(0.25))
    pawl: Corners = [(0.0, -2.0), (arm - nose, -nose), (arm - nose, nose, 0.0), (0.0, 2.0)]
    if random.random() < 0.5:
        pawl = [(0.0, -2.0), (arm - nose, -nose, 1.0), (arm - nose, nose), (0.0, 2.0)]
    else:
        pawl = [(0.0, -2.0), (arm, 0.0), (arm - 2 * nose, 2 * nose), (0.0, 2.0)]
    forward = -float(random.uniform(1.2, 2.6)) * step
    travel = forward if random.random() < 0.7 else -forward
    return Case(
        "ratchet",
        rim,
        pawl,
        False,
        True,
        pivot,
        float(random.uniform(0, step)),
        travel,
        0.15,
        -0.9,
        arm,
        min(nose, high),
    )


def _latch(random: np.random.Generator) -> Case:
    """A slide with a hook that lifts a sprung latch by its ramp, and holds it behind."""
    high = float(random.uniform(3, 12))
    ramp = math.radians(float(random.uniform(20, 70)))
    back = math.radians(
        float(random.choice([90.0, random.uniform(60, 85), random.uniform(95, 110)]))
    )
    long = high / math.tan(ramp)
    top = float(random.uniform(0.2, 1.0)) * high
    foot = -high / math.tan(back)
    hook: Corners = [
        (-80.0, -10.0),
        (80.0, -10.0),
        (80.0, 0.0),
        (long + top, 0.0),
        (top, high),
        (0.0, high),
        (foot, 0.0),
        (-80.0, 0.0),
    ]
    nose = high * float(random.uniform(0.1, 0.4))
    arm = float(random.uniform(20, 60))
    swings = bool(random.random() < 0.5)
    if swings:
        latch: Corners = [(0.0, -2.0), (arm - nose, -nose, 1.0), (arm - nose, nose), (0.0, 2.0)]
        pivot = (-arm, nose + 0.6 * high)
        start = -(long + top + 3 * nose)
        return Case(
            "latch",
            hook,
            latch,
            True,
            True,
            pivot,
            start,
            long + top + 6 * nose if random.random() < 0.8 else -(3 * nose),
            0.35,
            -0.9,
            arm,
            nose,
        )
    start = -(long + top + 3 * nose)
    travel = long + top + 6 * nose
    if random.random() < 0.3:
        start, travel = 3 * nose + max(0.0, -foot), -(long + top + 8 * nose)
    return Case(
        "latch",
        hook,
        circle(nose),
        True,
        False,
        (0.0, 0.0),
        start,
        travel,
        high + 3 * nose,
        -5.0,
        1.0,
        nose,
    )


def _rack(random: np.random.Generator) -> Case:
    """A rack of pointed teeth under a pointed or square tappet."""
    pitch = float(random.uniform(5, 20))
    high = pitch * float(random.uniform(0.3, 0.7))
    lean = float(random.uniform(0.15, 0.85)) * pitch
    rack: Corners = [(-6 * pitch, -15.0), (6 * pitch, -15.0), (6 * pitch, 0.0)]
    for k in range(5, -6, -1):
        rack += [(k * pitch + lean, high), (k * pitch, 0.0)]
    rack.append((-6 * pitch, 0.0))
    wide = pitch * float(random.uniform(0.05, 0.3))
    if random.random() < 0.5:
        foot: Corners = [
            (-wide, wide * 1.5),
            (0.0, 0.0),
            (wide, wide * 1.5),
            (wide, 30.0),
            (-wide, 30.0),
        ]
    else:
        foot = [(-wide, 0.0, 0.6), (wide, 0.0), (wide, 30.0), (-wide, 30.0)]
    travel = float(random.choice([-1, 1])) * float(random.uniform(1.2, 2.8)) * pitch
    start = float(random.uniform(0, pitch))
    return Case(
        "rack",
        rack,
        foot,
        True,
        False,
        (0.0, 0.0),
        start,
        travel,
        high + 3.0,
        -30.0,
        1.0,
        min(wide, high, pitch - lean, lean),
    )


def sound_case(random: np.random.Generator) -> Case:
    """One that is drawn clear of what it is to meet."""
    while True:
        case = random_case(random)
        force = Force(case)
        force.now = prep(force.placed(case.start))
        if not force.hits(case.high):
            return case
