"""Runs apart: reads a drawing from its input and writes what it found as JSON.

``python -m anakinema.drawings.outline_reader dxf|svg``; see `anakinema.drawings.apart`.
"""

from __future__ import annotations

import json
import sys
from dataclasses import asdict

from anakinema.drawings.apart import hold_to_limits
from anakinema.drawings.drawing import HERE, Drawing
from anakinema.drawings.dxf import read_dxf
from anakinema.drawings.svg import read_svg
from anakinema.errors import FileFormatError

READERS = {"dxf": read_dxf, "svg": read_svg}


def drawing_from(kind: str, content: bytes, where: str, name: str) -> Drawing:
    """The drawing in the bytes of a 'dxf' or 'svg' file; raises `FileFormatError`."""
    return READERS[kind](content, where).drawing(name)


def main() -> None:
    """Read, and write either what was found or what is wrong."""
    hold_to_limits()
    try:
        found = drawing_from(sys.argv[1], sys.stdin.buffer.read(), HERE, "")
    except FileFormatError as error:
        answer: dict[str, object] = {"wrong": [error.what, error.where, error.remedy]}
    else:
        answer = {"found": asdict(found)}
    json.dump(answer, sys.stdout)


if __name__ == "__main__":
    main()
