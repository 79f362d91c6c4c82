"""Ball-ended rods between planes: how the two planes stand against one another."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anakinema.document.planes import Link
from anakinema.document.resolve import Resolved
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.mechanism.fields import Rod


def rod_between(resolved: Resolved, joint: int) -> Rod | None:
    """The rod of a joint of a document, None if it has none.

    Raises a `ValueOutOfRangeError` if its two planes move against one another.
    """
    rod = resolved.joints[joint].rod
    if rod is None:
        return None
    document = resolved.document
    index = {body.id: k for k, body in enumerate(document.bodies)}
    one, two = (
        index[side.body] for side in (document.joints[joint].first, document.joints[joint].second)
    )
    links = resolved.planes.links(one, two, resolved.heights)
    if not all(_stands(resolved, way) for way in links):
        titles = [document.bodies[k].title for k in (one, two)]
        raise ValueOutOfRangeError(
            f"the planes of {titles[0]} and {titles[1]} move against one another, and a rod needs"
            " two that stand still.",
            where=f"joint '{document.joints[joint].title}'",
            remedy="Let both planes stand, or let one body carry both.",
        )
    first, second = (_frame(resolved, way) for way in links)
    turned = first[:, :3].T @ second
    turned[:, 3] -= first[:, :3].T @ first[:, 3]
    low = np.array([0.0, 0.0, resolved.heights[one] + rod.first_height])
    high = turned[:, 2] * (resolved.heights[two] + rod.second_height)
    offset = turned[:, 3] + high - low
    rows = [(float(row[0]), float(row[1])) for row in turned]
    x, y, z = offset.tolist()
    return Rod(rod.length, (rows[0], rows[1], rows[2]), (x, y, z))


def _stands(resolved: Resolved, way: Sequence[Link]) -> bool:
    """Whether what carries a body of a way to it stands still."""
    bodies = resolved.document.bodies
    return bool(way) and all(bodies[link.body].fixed for link in way[:-1])


def _frame(resolved: Resolved, way: Sequence[Link]) -> Floats:
    """(3, 4) of the plane that the last body of a way moves in, all before it as drawn."""
    frame = np.eye(4)
    for link in way:
        frame = frame @ np.vstack([link.frame, [0.0, 0.0, 0.0, 1.0]])
        if link is not way[-1]:
            x, y, turn = resolved.poses[link.body]
            c, s = np.cos(turn), np.sin(turn)
            frame = frame @ np.array([[c, -s, 0, x], [s, c, 0, y], [0, 0, 1, 0], [0, 0, 0, 1.0]])
    return np.asarray(frame[:3])
