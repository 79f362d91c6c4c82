"""Moving pictures: frames as an animated GIF."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

COLOURS = 64
"""In the one palette of all frames."""


@dataclass(frozen=True, slots=True)
class Frame:
    """A picture: width and height in pixels, rows of red, green, blue bytes."""

    width: int
    height: int
    rows: bytes


def gif(frames: Sequence[Frame], milliseconds: int) -> bytes:
    """An endless animation, each frame shown so long; the palette is that of the first frame."""
    from PIL import Image  # slow to import, so not at start

    pictures = [Image.frombytes("RGB", (f.width, f.height), f.rows) for f in frames]
    palette = pictures[0].quantize(COLOURS, dither=Image.Dither.NONE)
    drawn = [each.quantize(palette=palette, dither=Image.Dither.NONE) for each in pictures]
    out = io.BytesIO()
    drawn[0].save(out, "GIF", save_all=True, append_images=drawn[1:], duration=milliseconds, loop=0)
    return out.getvalue()
