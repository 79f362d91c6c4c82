"""Read and write the mechanism document: readable JSON, written atomically.

The format is described in docs/file-format.md. Whatever a file holds, reading either gives a
valid document or raises one `FileFormatError` that names the place.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, NoReturn

from pydantic import ValidationError

from anakinema.bounded import read_regular
from anakinema.document.model import FORMAT, MOST_BYTES, VERSION, Document
from anakinema.document.refusals import refusal_words
from anakinema.errors import FileFormatError
from anakinema.writing import write_checked

LINE_WIDTH = 100
SUFFIX = ".anakinema"


@dataclass(frozen=True, slots=True)
class Stamp:
    """What a file was when it was read or written: bytes, time of change in ns, digest."""

    size: int
    time: int
    digest: str


def read_document(path: Path | str) -> Document:
    """Read a document; raises `FileFormatError` for anything that is not one."""
    return read_stamped(path)[0]


def read_stamped(path: Path | str) -> tuple[Document, Stamp]:
    """Read a document, and the stamp of its file; raises `FileFormatError`."""
    path = Path(path)
    content = read_regular(path, MOST_BYTES, "Choose a mechanism document.")
    return parse_document(content, path.name), _stamp(path, content)


def same_file(path: Path, stamp: Stamp) -> bool:
    """Whether a file still holds what it held when it was stamped."""
    try:
        now = path.stat()
        if (now.st_size, now.st_mtime_ns) == (stamp.size, stamp.time):
            return True
        content = read_regular(path, MOST_BYTES, "")
    except (OSError, ValueError, FileFormatError):
        return False
    return _digest(content) == stamp.digest


def _stamp(path: Path, content: bytes) -> Stamp:
    try:
        changed = path.stat().st_mtime_ns
    except OSError:
        changed = 0
    return Stamp(len(content), changed, _digest(content))


def _digest(content: bytes) -> str:
    return hashlib.blake2b(content, digest_size=16).hexdigest()


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
        # What earlier versions wrote otherwise, the model reads as it is written today.
        return Document.model_validate({**data, "version": VERSION})
    except ValidationError as error:
        raise FileFormatError(
            refusal_words(error),
            where=f"{where}, {_place(data, error.errors(include_url=False)[0]['loc'])}",
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
        elif isinstance(node, dict) and step not in (*_CHOICES, *_tags(node)):
            words.append(str(step))
    return " ".join(words) or "the document"


def _tags(node: dict[str, Any]) -> tuple[Any, Any]:
    """What a place in a file is known by among its alternatives."""
    return node.get("kind"), node.get("shape")


_CHOICES = ("float", "str", "function-before[_check_quantity(), union[float,str]]")
"""Steps into a choice of types, which no file names."""


def document_text(document: Document) -> str:
    """The file's text: same document, same bytes."""
    data = document.model_dump(mode="json", exclude_defaults=True)
    ordered = _plain({"format": FORMAT, "version": VERSION, **data})
    text = _pretty(ordered, 0) + "\n"
    if len(text.encode()) > MOST_BYTES:
        # Better hard to read than too large to be read.
        text = json.dumps(ordered, ensure_ascii=False, allow_nan=False, separators=(",", ":"))
    return text


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


def write_document(document: Document, path: Path | str) -> Stamp:
    """Write beside the old file, sync, read back, then take its place; gives the new stamp.

    A crash leaves the one file or the other. Raises `FileFormatError` if the folder cannot be
    written, or what was written cannot be read again; the old file then stays.
    """
    path = Path(path)

    def read_back(content: bytes) -> None:
        if parse_document(content, path.name) != document:
            raise FileFormatError(
                "what was written is not what is open; the old file is kept.",
                where=f"file {path}",
                remedy="Undo the last step and save again.",
            )

    content = document_text(document).encode()
    write_checked(content, path, read_back)
    return _stamp(path, content)
