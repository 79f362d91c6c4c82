"""Reading and writing: saved bytes are stable, and no file can do worse than one clear error."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import jsonschema
import numpy as np
import pytest

from anakinema.document.model import Document
from anakinema.errors import AnakinemaError, FileFormatError
from anakinema.files.native import (
    MOST_BYTES,
    document_text,
    parse_document,
    read_document,
    write_document,
)
from anakinema.findings.evaluate import evaluate
from anakinema.resources import demo_names, demo_path, schema_path
from tests.conftest import share

ROOT = Path(__file__).parents[2]


@pytest.mark.parametrize("name", demo_names())
def test_save_load_save_is_byte_equal_and_fits_the_schema(name: str, tmp_path: Path) -> None:
    document = read_document(demo_path(name))
    assert demo_path(name).read_text("utf-8") == document_text(document)
    path = tmp_path / "again.anakinema"
    write_document(document, path)
    again = read_document(path)
    assert again == document
    assert document_text(again) == document_text(document)
    schema = json.loads(schema_path().read_text("utf-8"))
    jsonschema.validate(json.loads(document_text(document)), schema)
    assert list(tmp_path.iterdir()) == [path]


def test_shipped_schema_is_the_models_own() -> None:
    made = subprocess.run(
        [
            sys.executable,
            "-c",
            "import sys; sys.path.insert(0, 'tools'); from make_schema import schema_text;"
            " print(schema_text(), end='')",
        ],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=True,
    )
    assert made.stdout == schema_path().read_text("utf-8")


@pytest.mark.parametrize(
    ("content", "where", "what"),
    [
        (b"", "file x", "empty"),
        (b"  \n ", "file x", "empty"),
        (b"\x00\xff\xfe binary", "file x", "not text"),
        (b"{", "line 1, column 2", "not valid JSON"),
        (b"[1, 2]", "file x", "not a mechanism"),
        (b'{"format": "other"}', "file x", "not a mechanism"),
        (b'{"format": "anakinema-mechanism"}', "version", "version"),
        (b'{"format": "anakinema-mechanism", "version": 99}', "version", "reads up to version"),
        (b'{"format": "anakinema-mechanism", "version": true}', "version", "whole number"),
        (b'{"format": "anakinema-mechanism", "version": 1, "x": NaN}', "file x", "NaN"),
        (b"[" * 200_000, "file x", "nested too deeply"),
        (b'{"format": "anakinema-mechanism", "version": 1, "colour": 3}', "colour", "not known"),
        (
            b'{"format": "anakinema-mechanism", "version": 1, "parts": [{"id": "arm", "slabs": ['
            b'{"id": "s", "top": 4, "outline": {"shape": "circle", "radius": "3 +"}}]}]}',
            "parts 'arm' slabs 's' outline radius",
            "expected",
        ),
    ],
)
def test_what_is_no_document_gives_one_error_that_names_the_place(
    content: bytes, where: str, what: str
) -> None:
    with pytest.raises(FileFormatError) as caught:
        parse_document(content, "x")
    assert where in caught.value.where
    assert what in caught.value.what
    assert caught.value.remedy


def test_huge_missing_and_forbidden_files(tmp_path: Path) -> None:
    huge = tmp_path / "huge.anakinema"
    with huge.open("wb") as file:
        file.truncate(100_000_000)
    assert huge.stat().st_size > MOST_BYTES
    with pytest.raises(FileFormatError, match="100 MB"):
        read_document(huge)
    with pytest.raises(FileFormatError, match="no such file"):
        read_document(tmp_path / "none.anakinema")
    with pytest.raises(FileFormatError, match="directory"):
        read_document(tmp_path)
    with pytest.raises(FileFormatError, match="cannot be written"):
        write_document(Document(), tmp_path / "no" / "folder.anakinema")


def test_a_write_that_fails_leaves_the_old_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "a.anakinema"
    write_document(Document(name="old"), path)

    def full(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileFormatError, match="no space left"):
        write_document(Document(name="new"), path)
    assert read_document(path).name == "old"
    assert [item.name for item in tmp_path.iterdir()] == ["a.anakinema"]


def mutated(data: Any, random: np.random.Generator) -> Any:
    """A document's data with one thing changed, dropped, doubled or of the wrong kind."""
    nodes: list[tuple[Any, Any]] = []

    def collect(node: Any) -> None:
        items = node.items() if isinstance(node, dict) else enumerate(node)
        for key, value in list(items):
            nodes.append((node, key))
            if isinstance(value, (dict, list)):
                collect(value)

    collect(data)
    node, key = nodes[int(random.integers(len(nodes)))]
    strange: list[Any] = [
        None,
        True,
        -1,
        0,
        1e300,
        -1e-300,
        "",
        "crank",
        "1/0",
        "9 deg",
        "5 mm",
        "ö\u0000",
        [],
        {},
        [[]],
        {"id": 1},
        "x" * 500,
        2**70,
        "circle",
        "-",
        "nan",
        "3*rod",
        "pin.diameter",
    ]
    choice = int(random.integers(4))
    if choice == 0 and isinstance(node, dict):
        del node[key]
    elif choice == 1 and isinstance(node, list):
        node.append(node[key])
    elif choice == 2 and isinstance(node, dict):
        node[f"{key}x"] = node.pop(key)
    else:
        node[key] = strange[int(random.integers(len(strange)))]
    return data


def damaged(text: str, random: np.random.Generator) -> bytes:
    """A document's bytes, cut, overwritten or mixed up."""
    content = bytearray(text.encode())
    choice = int(random.integers(3))
    at = int(random.integers(len(content)))
    if choice == 0:
        return bytes(content[:at])
    if choice == 1:
        for k in range(int(random.integers(1, 8))):
            content[(at + 7 * k) % len(content)] = int(random.integers(256))
        return bytes(content)
    return bytes(content[at:] + content[:at])


def assert_one_clear(error: AnakinemaError) -> None:
    assert error.where
    assert error.what
    assert len(str(error)) < 1500


@pytest.mark.campaign
def test_damaged_files_open_or_give_one_error_with_its_place() -> None:
    """2,000 mutated files (`make prove`): each opens, or gives one error naming the place."""
    random = np.random.default_rng(11)
    texts = [demo_path(name).read_text("utf-8") for name in demo_names()]
    total = share(2000, 50)
    opened = refused = evaluated = 0
    for k in range(total):
        text = texts[k % len(texts)]
        if k % 4 == 0:
            content = damaged(text, random)
        else:
            content = json.dumps(mutated(json.loads(text), random)).encode()
        try:
            document = parse_document(content, f"case {k}")
        except AnakinemaError as error:
            refused += 1
            assert_one_clear(error)
            continue
        opened += 1
        try:
            evaluate(document)
            evaluated += 1
        except AnakinemaError as error:
            assert_one_clear(error)
    print(f"damaged files: {total}, {refused} refused, {opened} opened, {evaluated} of them run")
    assert opened + refused == total
    assert refused > total / 4


def test_names_of_version_1_are_read_as_those_of_today() -> None:
    """Belts were loops, instances of subassemblies uses of units, inside subassemblies too."""
    wheel = {"joint": "j", "radius": 10.0}
    belt = {"id": "b", "wheels": [wheel, {**wheel, "joint": "k"}]}
    inner = {"id": "inner", "loops": [belt]}
    outer = {"id": "outer", "uses": [{"id": "one", "unit": "inner"}]}
    data = {
        "format": "anakinema-mechanism",
        "version": 1,
        "subassemblies": [inner, outer],
        "uses": [{"id": "two", "unit": "outer"}],
        "loops": [belt],
    }
    document = parse_document(json.dumps(data).encode(), "x")
    assert [each.id for each in document.belts] == ["b"]
    assert [each.id for each in document.subassemblies[0].belts] == ["b"]
    assert document.subassemblies[1].instances[0].subassembly == "inner"
    assert document.instances[0].subassembly == "outer"
    again = json.loads(document_text(document))
    assert again["version"] == 2
    assert not {"uses", "loops"} & again.keys()
    assert parse_document(document_text(document).encode(), "x") == document
    with pytest.raises(FileFormatError, match="not known"):
        parse_document(json.dumps({**data, "belts": []}).encode(), "x")


def test_a_part_that_is_gone_is_named_though_a_check_looks_at_its_places() -> None:
    """The measure of a check names a place on the body, which needs its part."""
    data = json.loads(demo_path("side-rods").read_text("utf-8"))
    (part,) = (each for each in data["parts"] if each["id"] == "crank")
    part["id"] = "cranky"
    document = parse_document(json.dumps(data).encode(), "file")
    with pytest.raises(AnakinemaError, match="there is no part 'crank'") as caught:
        evaluate(document)
    assert "crank" in caught.value.where
