"""Area and centre of regions of lines and arcs, exact."""

from __future__ import annotations

import numpy as np

from anakinema.geometry.contour import Contour, Floats
from anakinema.geometry.region import Region


def area_and_centre(region: Region) -> tuple[float, Floats]:
    """mm² of a region's material, and its centre (2,) mm."""
    outer, *holes = (_moments(contour) for contour in region.contours)
    area = outer[0] - sum(hole[0] for hole in holes)
    first = outer[1] - sum((hole[1] for hole in holes), start=np.zeros(2))
    return area, first / area


def _moments(contour: Contour) -> tuple[float, Floats]:
    """mm² within a contour, whichever way it runs, and its first moments (2,) mm³.

    A polygon of chords (Green's theorem) and the caps over them: of a cap with the angle t its area
    is r² (t - sin t) / 2, its centre 4 r sin³(t/2) / (3 (t - sin t)) from the middle of its circle.
    """
    a, b = contour.start, contour.end
    cross = a[:, 0] * b[:, 1] - b[:, 0] * a[:, 1]
    area, first = float(cross.sum()) / 2, (a + b).T @ cross / 6
    arcs = np.flatnonzero(contour.is_arc)
    if len(arcs):
        r, t, centre = contour.radius[arcs], contour.sweep[arcs], contour.centre[arcs]
        cap = r**2 * (t - np.sin(t)) / 2
        outward = (contour.middles()[arcs] - centre) / r[:, None]
        # Area times distance has no quotient that could vanish.
        reach = 2 * r**3 * np.sin(t / 2) ** 3 / 3
        area += float(cap.sum())
        first = first + centre.T @ cap + outward.T @ reach
    return (area, first) if area > 0 else (-area, -first)
