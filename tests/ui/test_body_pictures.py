"""Pictures of bodies: what lies wholly under a body's own slabs is not drawn, and not missed."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtGui import QImage, QPainter, QTransform

from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.ui.stage.bodies import BodyPainter
from anakinema.ui.theme import LIGHT
from tests import mechanisms as build

BORE = m.Hole(id="bore", outline=m.Circle(shape="circle", radius=5.0))
REACHES = (12.0, 30.0, 18.0, 24.0, 24.0)
"""mm of the slabs from low to high; the second is seen around those above it, the rest is not but
for the uppermost."""


def slab(level: int, reach: float) -> m.Slab:
    outline = m.Hull(shape="hull", rounds=(m.Round(radius=reach), m.Round(x=40.0, radius=8.0)))
    low = 4.0 * level
    return m.Slab(id=f"s{level}", bottom=low, top=low + 4.0, outline=outline, holes=(BORE,))


def stacked(levels: tuple[int, ...] = tuple(range(len(REACHES)))) -> m.Document:
    """One body of some slabs of the stack."""
    slabs = tuple(slab(k, REACHES[k]) for k in levels)
    part = build.part("wheel", o=(0, 0)).model_copy(update={"slabs": slabs})
    return build.document([part], [build.body("w", part="wheel")], [])


def apart() -> m.Document:
    """The same slabs as bodies of their own, none of which covers itself."""
    parts = [
        build.part(f"p{k}", o=(0, 0)).model_copy(update={"slabs": (slab(k, reach),)})
        for k, reach in enumerate(REACHES)
    ]
    return build.document(parts, [build.body(f"w{k}", part=f"p{k}") for k in range(len(parts))], [])


def picture(document: m.Document, opacity: float = 1.0) -> np.ndarray:
    """(H, W, 3) the bodies painted at one pose."""
    resolved = resolve(document)
    image = QImage(240, 160, QImage.Format.Format_RGB32)
    image.fill(0xFFFFFFFF)
    with QPainter(image) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setOpacity(opacity)
        view = QTransform(2.0, 0.0, 0.0, -2.0, 90.0, 80.0)
        poses = np.tile([1.3, 0.4, 0.3], (len(document.bodies), 1))
        BodyPainter(resolved).draw(painter, view, poses, LIGHT, frozenset())
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(160, 240, 4)
    return pixels[:, :, :3].astype(int)


@pytest.mark.usefixtures("qapp")
def test_a_stack_looks_as_when_all_of_its_slabs_are_drawn() -> None:
    found, every = picture(stacked()), picture(apart())
    assert (found != 255).any(axis=2).mean() > 0.3
    off = np.abs(found - every).max(axis=2)
    # Where edges lie on one another their soft pixels are darker the more of them are drawn.
    assert (off > 12).mean() < 0.02
    assert off.max() < 100


@pytest.mark.usefixtures("qapp")
def test_slabs_that_are_covered_are_drawn_where_one_sees_through() -> None:
    seen = (1, 4)
    assert (picture(stacked()) == picture(stacked(seen))).all()
    assert (picture(stacked(), 0.45) != picture(stacked(seen), 0.45)).any()
    assert (picture(stacked(), 0.45) == picture(apart(), 0.45)).all()
