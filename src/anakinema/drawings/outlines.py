"""Outlines from DXF and SVG files: closed loops of lines and arcs, the rest stated, nothing run.

A file is read in a process of its own, so that none can stop, fill or end the program.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from anakinema.bounded import read_regular
from anakinema.drawings.apart import GaveUpError, run_apart
from anakinema.drawings.drawing import HERE, Drawing, Loop
from anakinema.errors import FileFormatError

MOST_BYTES = 20_000_000
READER = "anakinema.drawings.outline_reader"
"""The module that is run apart."""


def read_drawing(path: Path) -> Drawing:
    """Read a DXF or SVG file; raises one `FileFormatError` for anything that is neither.

    Takes a second or more; asks `anakinema.wanted` whether it should go on.
    """
    where = f"file {path.name}"
    content = read_regular(path, MOST_BYTES, "Export only the part's outline.")
    if not content.strip():
        raise FileFormatError("it is empty.", where=where, remedy="Choose another file.")
    kind = "svg" if path.suffix.lower() == ".svg" else "dxf"
    try:
        answer = json.loads(run_apart(READER, kind, content))
    except GaveUpError as error:
        raise FileFormatError(
            f"it cannot be read {error}.",
            where=where,
            remedy="Export only the part's outline, as plain lines and arcs.",
        ) from error
    if "wrong" in answer:
        what, place, remedy = answer["wrong"]
        raise FileFormatError(what, where=place.replace(HERE, where, 1), remedy=remedy)
    # A name from the disk may hold bytes that are no text.
    name = path.stem.encode("utf-8", "replace").decode()
    return _stated(answer["found"], name)


def _stated(data: dict[str, Any], name: str) -> Drawing:
    loops = tuple(
        Loop(
            loop["layer"],
            tuple((x, y, bulge) for x, y, bulge in loop["vertices"]),
            None if loop["circle"] is None else tuple(loop["circle"]),
        )
        for loop in data["loops"]
    )
    return Drawing(
        name, loops, tuple(data["layers"]), data["open"], data["unit"], tuple(data["notes"])
    )
