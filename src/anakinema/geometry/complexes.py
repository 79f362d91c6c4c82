"""Points and vectors of the plane as complex numbers: arrays of pairs cost many times as much."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats

Complexes = npt.NDArray[np.complex128]


def as_complex(points: Floats) -> Complexes:
    """(...) complex numbers of points (..., 2)."""
    return np.asarray(np.ascontiguousarray(points).view(np.complex128)[..., 0])


def as_points(numbers: Complexes) -> Floats:
    """(..., 2) points of complex numbers (...)."""
    return np.ascontiguousarray(numbers).view(np.float64).reshape(*numbers.shape, 2)


def unit(angle: Floats) -> Complexes:
    """(...) unit vectors in the direction of angles (...); what turns another by them."""
    out = np.empty(angle.shape, dtype=np.complex128)
    np.cos(angle, out=out.real)
    np.sin(angle, out=out.imag)
    return out


def dot(a: Complexes, b: Complexes) -> Floats:
    """(...) scalar products."""
    return np.asarray(a.real * b.real + a.imag * b.imag)


def cross(a: Complexes, b: Complexes) -> Floats:
    """(...) how far b turns to the left of a, times both lengths."""
    return np.asarray(a.real * b.imag - a.imag * b.real)
