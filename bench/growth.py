"""How processor time and memory grow with the number of moving bodies, for four families."""

from __future__ import annotations

import gc
import math
import statistics
import time
import tracemalloc
from collections.abc import Callable

from tests import mechanisms as build

from anakinema.analysis.approaching import InPlane
from anakinema.analysis.clearance import smallest_gap
from anakinema.document import model as m
from anakinema.mechanism.slab_pairs import slab_pairs
from anakinema.motion.bounded import bounded_samples
from anakinema.motion.sweep import sweep

STEPS = 180


def dyads(count: int, steps: int = STEPS) -> m.Document:
    """A crank and as many dyads in a row as make ``count`` moving bodies (an odd number)."""
    points = {"a": (0.0, 0.0), "b": (40.0, 0.0)}
    links, ground, last = [("a", "b")], ["a"], "b"
    for k in range((count - 1) // 2):
        top, foot = f"t{k}", f"f{k}"
        points[top] = (130.0 + 110.0 * k, 75.0 if k % 2 == 0 else 90.0)
        points[foot] = (150.0 + 110.0 * k, -12.0)
        links += [(last, top), (foot, top)]
        ground.append(foot)
        last = top
    return build.driven(_barred(points, links, ground), ("pin_a", 0.0, 0.4), count=steps)


def _barred(
    points: dict[str, tuple[float, float]], links: list[tuple[str, str]], ground: list[str]
) -> m.Document:
    """Bars between named points, each point a pin of two bars or of one and the base."""
    parts = [build.part("base", **{p: points[p] for p in ground})]
    bodies = [build.body("base", fixed=True)]
    ends: dict[str, list[str]] = {p: [f"base.{p}"] for p in ground}
    for k, (one, other) in enumerate(links):
        (x0, y0), (x1, y1) = points[one], points[other]
        length, angle = math.hypot(x1 - x0, y1 - y0), math.atan2(y1 - y0, x1 - x0)
        parts.append(build.part(f"l{k}", **{one: (0, 0), other: (length, 0)}))
        bodies.append(build.body(f"l{k}", x0, y0, angle))
        for p in (one, other):
            ends.setdefault(p, []).append(f"l{k}.{p}")
    joints = []
    for p, sides in ends.items():
        for k in range(1, len(sides)):
            name = f"pin_{p}" if k == 1 else f"pin_{p}_{k}"
            joints.append(build.joint(name, "revolute", sides[k - 1], sides[k]))
    return build.document(parts, bodies, joints)


def four_bars(count: int) -> m.Document:
    """Four-bars side by side, each with a driver of its own: three moving bodies each."""
    points: dict[str, tuple[float, float]] = {}
    links, ground, moves = [], [], []
    a, b, c, d = 40.0, 120.0, 80.0, 100.0
    for k in range(count // 3):
        x = 260.0 * k
        turn, _ = build.four_bar_angles(a, b, c, d, 0.5)
        knee = (x + a * math.cos(0.5), a * math.sin(0.5))
        points |= {
            f"a{k}": (x, 0.0),
            f"b{k}": knee,
            f"c{k}": (knee[0] + b * math.cos(turn), knee[1] + b * math.sin(turn)),
            f"d{k}": (x + d, 0.0),
        }
        links += [(f"a{k}", f"b{k}"), (f"b{k}", f"c{k}"), (f"d{k}", f"c{k}")]
        ground += [f"a{k}", f"d{k}"]
        moves.append((f"pin_a{k}", 0.5, 0.9))
    return build.driven(_barred(points, links, ground), *moves, count=STEPS)


def wheels(count: int) -> m.Document:
    """Wheels in mesh, one after the other, the first driven."""
    document = build.wheels(*[(40.0 * k, 0.0) for k in range(count)])
    gears = tuple(
        m.Coupling(
            id=f"g{k}",
            kind="gears",
            first=f"j{k}",
            second=f"j{k + 1}",
            first_size=20 + k % 2,
            second_size=20 + (k + 1) % 2,
        )
        for k in range(count - 1)
    )
    document = document.model_copy(update={"couplings": gears})
    return build.driven(document, ("j0", 0.0, 1.0), count=STEPS)


def scissor(count: int) -> m.Document:
    """A lift of crossed bars, two to a storey, the foot of the second in a slot of the base."""
    half, lean = 60.0, 0.5
    wide, high = 2 * half * math.cos(lean), 2 * half * math.sin(lean)
    slab = m.Slab(
        id="bar",
        bottom=0,
        top=4,
        outline=m.Hull(
            shape="hull", rounds=(m.Round(x=-half, radius=6), m.Round(x=half, radius=6))
        ),
    )
    link = m.Part(
        id="link",
        places=(m.Place(id="low", x=-half), m.Place(id="mid", x=0.0), m.Place(id="top", x=half)),
        slabs=(slab,),
    )
    bodies = [build.body("base", fixed=True)]
    joints = []
    for k in range(count // 2):
        middle = wide / 2, high * (k + 0.5)
        # Storeys keep to layers of their own, so that they may fold.
        for name, angle, level in (("r", lean, 0.0), ("l", math.pi - lean, 5.0)):
            bodies.append(
                build.body(f"{name}{k}", *middle, angle, part="link", height=level + 10 * (k % 2))
            )
        joints.append(build.joint(f"mid{k}", "revolute", f"r{k}.mid", f"l{k}.mid"))
        if k:
            joints.append(build.joint(f"low{k}", "revolute", f"l{k - 1}.top", f"r{k}.low"))
            joints.append(build.joint(f"high{k}", "revolute", f"r{k - 1}.top", f"l{k}.low"))
    joints.insert(0, build.joint("foot", "revolute", "base.pin", "r0.low"))
    joints.insert(1, build.joint("slide", "pin_in_slot", "base.way", "l0.low"))
    base = build.part("base", pin=(0.0, 0.0), way=(0.0, 0.0, 0.0))
    return build.driven(
        build.document([base, link], bodies, joints), ("foot", lean, 1.0), count=STEPS
    )


FAMILIES: dict[str, Callable[[int], m.Document]] = {
    "chain of dyads": dyads,
    "array of four-bars": four_bars,
    "gear train": wheels,
    "scissor lift": scissor,
}
SIZES = {
    "chain of dyads": (21, 201),
    "array of four-bars": (18, 180),
    "gear train": (20, 200),
    "scissor lift": (20, 200),
}
WITH_CLEARANCE = "scissor lift"


def _run(family: str, count: int) -> Callable[[], object]:
    mechanism = build.mechanism(FAMILIES[family](count))
    if family != WITH_CLEARANCE:
        return lambda: sweep(mechanism)
    pairs = list(slab_pairs(mechanism.resolved))
    return lambda: smallest_gap(sweep(mechanism), pairs, InPlane())


def processor_seconds(run: Callable[[], object]) -> float:
    """Processor time (s) of a run."""
    gc.collect()
    begin = time.process_time()
    run()
    return time.process_time() - begin


def growth_with_bodies() -> list[str]:
    """Processor time of a sweep of 180 steps for about 20 and 200 moving bodies; of the scissor
    lift with its certified clearance. Both sizes in turns, since the machine changes its pace."""
    lines = []
    for family, (few, many) in SIZES.items():
        run_few, run_many = _run(family, few), _run(family, many)
        rounds = [
            (min(processor_seconds(run_few) for _ in range(3)), processor_seconds(run_many))
            for _ in range(ROUNDS)
        ]
        small, large = (statistics.median(each) for each in zip(*rounds, strict=True))
        ratio = statistics.median(large / small for small, large in rounds)
        power = math.log(ratio) / math.log(many / few)
        lines.append(
            f"{family}, {few} and {many} bodies: {small * 1e3:.0f} and {large * 1e3:.0f} ms of"
            f" processor time, grows with power {power:.2f} (at most 1.4, aim 1.1)"
        )
    return lines


ROUNDS = 7
MEMORY = 250.0


def memory_of_a_chain() -> list[str]:
    """Most memory (MB) taken while a chain of 99 bodies is swept over 720 steps and its speeds are
    bounded all along, as a clearance asks for."""
    mechanism = build.mechanism(dyads(99, 720))
    tracemalloc.start()
    bounded_samples(sweep(mechanism))
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    return [f"chain of 99 bodies, 720 steps: {most / 1e6:.0f} MB (at most {MEMORY:.0f}, aim 170)"]
