"""Read and write the mechanism document: readable JSON, written atomically.

The format is described in docs/file-format.md. Whatever a file holds, reading either gives a
valid document or raises one `FileFormatError` that names the place.
"""

from __future__ import annotations

import json
import os
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NoReturn

from pydantic import ValidationError

from anakinema.document.model import FORMAT, VERSION, Document
from anakinema.errors import FileFormatError

MOST_BYTES = 20_000_000
LINE_WIDTH = 100
SUFFIX = ".anakinema"


def read_document(path: Path | str) -> Document:
    """Read a document; raises `FileFormatError` for anything that is not one."""
    path = Path(path)
    try:
        size = path.stat().st_size
        if size > MOST_BYTES:
            raise FileFormatError(
                f"it is {size / 1e6:.0f} MB, more than the {MOST_BYTES / 1e6:.0f} MB a mechanism"
                " may take.",
                where=f"file {path.name}",
                remedy="Choose a mechanism document.",
            )
        content = path.read_bytes()
    except OSError as error:
        reason = (error.strerror or "it cannot be opened").lower()
        raise FileFormatError(
            f"{reason}.", where=f"file {path.name}", remedy="Check the name and the folder."
        ) from error
    return parse_document(content, path.name)


def parse_document(content: bytes, name: str) -> Document:
    """A document from the bytes of a file called ``name``."""
    where = f"file {name}"
    if not content.strip():
        raise FileFormatError("it is empty.", where=where, remedy="Choose another file.")
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileFormatError(
            f"it is not text (byte {error.start} is not UTF-8).",
            where=where,
            remedy="Choose a mechanism document.",
        ) from error
    try:
        data = json.loads(text, parse_constant=_refuse_constant)
    except json.JSONDecodeError as error:
        raise FileFormatError(
            f"it is not valid JSON: {error.msg.lower()}.",
            where=f"{where}, line {error.lineno}, column {error.colno}",
            remedy="Restore it from a copy, or correct that line.",
        ) from error
    except (RecursionError, ValueError) as error:
        reason = "it is nested too deeply" if isinstance(error, RecursionError) else str(error)
        raise FileFormatError(
            f"{reason}.", where=where, remedy="Restore it from a copy."
        ) from error
    return _validated(data, where)


def _refuse_constant(text: str) -> NoReturn:
    raise ValueError(f"{text} is not a number a mechanism can have")


def _validated(data: Any, where: str) -> Document:
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise FileFormatError(
            f'it is not a mechanism document ("format" is not "{FORMAT}").',
            where=where,
            remedy="Choose a file that Anakinema has saved.",
        )
    version = data.get("version")
    if isinstance(version, bool) or not isinstance(version, int) or version < 1:
        raise FileFormatError(
            "its version is not a whole number above zero.",
            where=f"{where}, version",
            remedy="Restore it from a copy.",
        )
    if version > VERSION:
        raise FileFormatError(
            f"it has version {version}; this program reads up to version {VERSION}.",
            where=f"{where}, version",
            remedy="Open it with a newer Anakinema.",
        )
    try:
        return Document.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        message = str(first["msg"]).removeprefix("Value error, ").rstrip(".")
        if first["type"] == "extra_forbidden":
            message = "this name is not known here"
        raise FileFormatError(
            f"{message[:1].lower()}{message[1:]}.",
            where=f"{where}, {_place(data, first['loc'])}",
            remedy="Correct it there; docs/file-format.md lists what is allowed.",
        ) from error
    except RecursionError as error:
        raise FileFormatError(
            "it is nested too deeply.", where=where, remedy="Restore it from a copy."
        ) from error


def _place(data: Any, location: Sequence[int | str]) -> str:
    """A location such as ('parts', 2, 'slabs', 0) in words, with ids where there are any."""
    words: list[str] = []
    node = data
    for step in location:
        if isinstance(node, list) and isinstance(step, int) and step < len(node):
            node = node[step]
            name = node.get("id") if isinstance(node, dict) else None
            words.append(f"'{name}'" if isinstance(name, str) else f"number {step + 1}")
        elif isinstance(node, dict) and step in node:
            node = node[step]
            words.append(str(step))
        elif isinstance(node, dict) and step not in _TAGS:
            words.append(str(step))
    return " ".join(words) or "the document"


_TAGS = frozenset(
    ("circle", "hull", "rectangle", "path", "travel", "gap", "transmission", "time_ratio",
     "reserve", "float", "str", "function-before[_check_quantity(), union[float,str]]")
)  # fmt: skip


def document_text(document: Document) -> str:
    """The file's text: same document, same bytes."""
    data = document.model_dump(mode="json", exclude_defaults=True)
    ordered = {"format": FORMAT, "version": VERSION, **data}
    return _pretty(_plain(ordered), 0) + "\n"


def _plain(node: Any) -> Any:
    """Whole numbers without a decimal point."""
    if isinstance(node, float) and node.is_integer() and abs(node) < 1e15:
        return int(node)
    if isinstance(node, dict):
        return {key: _plain(value) for key, value in node.items()}
    if isinstance(node, list):
        return [_plain(value) for value in node]
    return node


def _pretty(node: Any, indent: int) -> str:
    """JSON with everything on one line that fits there."""
    line = json.dumps(node, ensure_ascii=False, allow_nan=False)
    if len(line) + indent <= LINE_WIDTH or not isinstance(node, (dict, list)) or not node:
        return line
    inner = indent + 1
    pad, end = " " * inner, " " * indent
    if isinstance(node, dict):
        rows = [
            f"{pad}{json.dumps(k, ensure_ascii=False)}: {_pretty(v, inner)}"
            for k, v in node.items()
        ]
        return "{\n" + ",\n".join(rows) + f"\n{end}}}"
    return "[\n" + ",\n".join(pad + _pretty(v, inner) for v in node) + f"\n{end}]"


def write_document(document: Document, path: Path | str) -> None:
    """Write beside the old file, sync, then take its place: a crash leaves one or the other.

    Raises `FileFormatError` if the folder cannot be written.
    """
    write_text(document_text(document), Path(path))


def write_text(text: str, path: Path) -> None:
    """Write text atomically; raises `FileFormatError` with the place."""
    handle, temporary = -1, ""
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o644
        os.chmod(temporary, mode)
        os.replace(temporary, path)
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    except OSError as error:
        if temporary and os.path.exists(temporary):
            os.unlink(temporary)
        raise FileFormatError(
            f"it cannot be written: {(error.strerror or 'unknown reason').lower()}.",
            where=f"file {path}",
            remedy="Save under another name or folder.",
        ) from error
