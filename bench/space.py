"""Mechanisms on several planes: edits to the exact verdict, and distances against a dense look."""

from __future__ import annotations

import itertools

import numpy as np

from anakinema.edits.values import SetParameter
from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate, first_look
from anakinema.geometry.apart import Between, apart
from anakinema.resources import demo_path
from bench.timing import duel, median_ms


def edits_on_the_boom() -> list[str]:
    """A length typed, until the verdict: 12 bodies on three planes, 269 pairs of slabs."""
    document = read_document(demo_path("potting-boom"))
    earlier = evaluate(document)
    reach = document.parameters[0]
    base = float(str(reach.value).split()[0])
    lengths = (f"{base + 0.05 * k:.2f} mm" for k in itertools.count(1))

    def changed():  # type: ignore[no-untyped-def]
        return SetParameter(reach.id, next(lengths)).apply(document)

    exact, _ = median_ms(lambda: evaluate(changed(), earlier=earlier), 20)
    first, _ = median_ms(lambda: first_look(changed(), earlier), 20)
    return [
        f"potting boom, an edit: exact {exact:.0f} ms (at most 400), first look {first:.0f} ms"
        " (at most 60)",
        *_against_every_pose(earlier),
    ]


def _against_every_pose(evaluation) -> list[str]:  # type: ignore[no-untyped-def]
    """The certified search against wraps alone at every sample, which certify nothing between."""
    gaps, poses = evaluation.gaps, evaluation.motion.poses
    pairs = gaps.compared.in_space

    def every() -> float:
        asked = []
        for pair in pairs:
            one, two = pair.first.standing(poses), pair.second.standing(poses)
            back = np.swapaxes(one[:, :, :3], 1, 2)
            place = back @ two
            place[:, :, 3] -= (back @ one[:, :, 3:])[:, :, 0]
            asked.append(Between(pair.first.solid.wrap, pair.second.solid.wrap, place))
        return float(min(found.distance.min() for found in apart(asked)))

    def certified() -> object:
        return evaluate(evaluation.source, earlier=None)

    ours, peer, ratio = duel(certified, every, 3)
    count = len(pairs) * len(poses)
    return [
        f"all of it anew {ours:.0f} ms; only distances of wraps at all {count} pairs and samples"
        f" {peer:.0f} ms: {ratio:.1f}x"
    ]
