"""Certified clearance against measuring every pair at every pose."""

from __future__ import annotations

import math

import numpy as np
import shapely
from tests import mechanisms as build
from tests.core.test_coupling_built import couple, moving, train

from anakinema.analysis.approaching import InPlane
from anakinema.analysis.clearance import smallest_gap
from anakinema.document import model as m
from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate
from anakinema.mechanism.slab_pairs import SlabPair, slab_pairs
from anakinema.motion.motion import Motion
from anakinema.motion.sweep import sweep
from anakinema.resources import demo_path
from bench.timing import duel, scaled_ms


def _outline(radius: float, seed: int) -> m.Path:
    """A ragged outline of 80 vertices."""
    random = np.random.default_rng(seed)
    reach = radius * random.uniform(0.85, 1.0, 80)
    angle = np.linspace(0, 2 * math.pi, 81)[:-1]
    return m.Path(
        shape="path",
        vertices=tuple(
            m.Vertex(x=float(r * math.cos(a)), y=float(r * math.sin(a)))
            for r, a in zip(reach, angle, strict=True)
        ),
    )


def _links(doc: m.Document) -> m.Document:
    """Bars with round ends on three layers, as designers draw them; few meet in one layer."""
    parts, bodies = [], []
    for k, (part, body) in enumerate(zip(doc.parts, doc.bodies, strict=True)):
        length = float(part.places[1].x)
        outline = m.Hull(shape="hull", rounds=(m.Round(radius=10), m.Round(x=length, radius=8)))
        slab = m.Slab(id="s", bottom=0, top=4, outline=outline)
        parts.append(part if part.id == "base" else part.model_copy(update={"slabs": (slab,)}))
        bodies.append(body.model_copy(update={"height": 4.0 * (k % 3)}))
    return doc.model_copy(update={"parts": tuple(parts), "bodies": tuple(bodies)})


def _ragged(doc: m.Document) -> m.Document:
    parts = []
    for k, part in enumerate(doc.parts):
        if part.id == "base":
            parts.append(part)
            continue
        slab = m.Slab(id="s", bottom=0, top=4, outline=_outline(14.0, k))
        parts.append(part.model_copy(update={"slabs": (slab,)}))
    return doc.model_copy(update={"parts": tuple(parts)})


def certified_against_naive() -> list[str]:
    """Nine moving bodies, 720 poses, and a planetary gear; naive sees the poses only, and flattened
    outlines."""
    cases = [
        (words, build.driven(dress(build.ten_bar()), ("pin_a1", 0.0, 1.2), count=719))
        for words, dress in (("round-ended bars on 3 layers", _links), ("80 vertices", _ragged))
    ]
    cases.append(("carrier gears, as ready", read_document(demo_path("carrier-gears"))))
    lines = []
    for words, doc in cases:
        mechanism = build.mechanism(doc)
        motion = sweep(mechanism)
        items = list(slab_pairs(mechanism.resolved))
        gap = smallest_gap(motion, items, InPlane())
        ours, peer, ratio = duel(
            lambda m=motion, i=items: smallest_gap(m, i, InPlane()),
            lambda m=motion, i=items: _naive(m, i),
            rounds=15,
        )
        assert gap is not None
        corners = max(len(i.first.region.polygon.exterior.coords) for i in items)
        lines.append(
            f"{words} ({corners} corners when flattened), {len(items)} pairs x"
            f" {len(motion.progress)} poses:"
            f" certified {ours:.0f} ms ({gap.evaluations} distances, gap"
            f" {gap.least:.3f} to {gap.most:.3f} mm); naive: {peer:.0f} ms"
            f" ({_naive(motion, items):.3f} mm); {ratio:.1f}x faster (at least 20x, aim 30x)"
        )
    return lines


def _naive(motion: Motion, items: list[SlabPair]) -> float:
    """All pairs at all poses with the geometry library, polygons placed by arrays."""
    placed: dict[tuple[int, int], np.ndarray] = {}
    for item in items:
        for body, slab in ((item.first_body, item.first), (item.second_body, item.second)):
            key = body, id(slab.region)
            if key in placed:
                continue
            ring = shapely.get_coordinates(slab.region.polygon)
            pose = motion.poses[:, body]
            c, s = np.cos(pose[:, 2])[:, None], np.sin(pose[:, 2])[:, None]
            x = c * ring[:, 0] - s * ring[:, 1] + pose[:, :1]
            y = s * ring[:, 0] + c * ring[:, 1] + pose[:, 1:2]
            copies = np.repeat(slab.region.polygon, len(pose))
            placed[key] = shapely.set_coordinates(copies, np.stack([x, y], axis=-1).reshape(-1, 2))
    return min(
        float(
            shapely.distance(
                placed[i.first_body, id(i.first.region)], placed[i.second_body, id(i.second.region)]
            ).min()
        )
        for i in items
    )


TYPED = "20", "30"
"""Teeth typed for a wheel that has 40."""


def wheels_out_of_mesh() -> list[str]:
    """From a number of teeth that is not that of the wheel drawn to the exact answer."""
    document = train(teeth="40")
    document = moving(couple(document, "gears").edit.apply(document))
    before = evaluate(document)
    lines = []
    for typed in TYPED:
        (coupling,) = document.couplings
        wrong = coupling.model_copy(update={"second_size": typed})
        edited = document.model_copy(update={"couplings": (wrong,)})
        taken = scaled_ms(lambda d=edited: evaluate(d, earlier=before), 3)
        lines.append(f"wheels of 20 and 40 teeth coupled as 20 to {typed}: {taken:.0f} ms")
    return lines
