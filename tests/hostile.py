"""Files from strangers that mean no good, or come from programs that went wrong: made by number."""

from __future__ import annotations

import json
import random
from collections.abc import Callable
from typing import Any

from anakinema.resources import demo_names, demo_path

SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"{}>{}</svg>'
)
NUMBERS = (
    "nan",
    "inf",
    "-inf",
    "1e308",
    "-1e309",
    "1e-320",
    "1em",
    "50%",
    "1e12",
    "",
    "a",
    "1e9",
    "0",
    "-5",
    "\u0661",
    "1" * 400,
    "0x10",
    "1,5",
)


def svg_bomb(rng: random.Random) -> str:
    """References that stand for up to 10^40 shapes, or for one another."""
    wide, deep = rng.choice((2, 10, 100)), rng.randrange(2, 40)
    groups = ['<g id="l0"><rect width="3" height="2"/></g>']
    for k in range(1, deep):
        instances = f'<use xlink:href="#l{k - 1}"/>' * wide
        groups.append(f'<g id="l{k}">{instances}</g>')
    if rng.random() < 0.2:
        groups.append('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>')
    inside = "".join(groups)
    return (
        SVG.format("", f"<defs>{inside}</defs>" if rng.random() < 0.5 else inside)
        if (rng.random() < 0.5)
        else SVG.format("", f'<defs>{inside}</defs><use href="#l{deep - 1}"/>')
    )


def svg_numbers(rng: random.Random) -> str:
    """Shapes with numbers that are none, or far too large."""

    def number() -> str:
        return rng.choice(NUMBERS) if rng.random() < 0.5 else f"{rng.uniform(-50, 50):.3f}"

    shapes = []
    for _ in range(rng.randrange(1, 6)):
        kind = rng.randrange(6)
        n = [number() for _ in range(6)]
        shapes.append(
            (
                f'<rect x="{n[0]}" y="{n[1]}" width="{n[2]}" height="{n[3]}" rx="{n[4]}"/>',
                f'<circle cx="{n[0]}" cy="{n[1]}" r="{n[2]}"/>',
                f'<ellipse cx="{n[0]}" cy="{n[1]}" rx="{n[2]}" ry="{n[3]}"/>',
                f'<polygon points="{" ".join(n)}"/>',
                f'<path d="M {n[0]} {n[1]} L {n[2]} {n[3]}'
                f' A {n[4]} {n[5]} 0 1 0 {n[0]} {n[1]} Z"/>',
                f'<g transform="scale({n[0]}) rotate({n[1]}) matrix({" ".join(n)})">'
                f'<rect width="{n[2]}" height="9"/></g>',
            )[kind]
        )
    box = f' viewBox="0 0 {number()} {number()}" width="{number()}"' if rng.random() < 0.5 else ""
    return SVG.format(box, "".join(shapes))


def svg_strange(rng: random.Random) -> str:
    """Deep trees, entities, styles, scripts, long paths, broken text."""
    way = rng.randrange(8)
    if way == 0:
        deep = rng.choice((200, 5000, 60_000))
        return SVG.format("", "<g>" * deep + '<rect width="3" height="2"/>' + "</g>" * deep)
    if way == 1:
        return '<!DOCTYPE svg [<!ENTITY a SYSTEM "file:///etc/passwd">]>' + SVG.format("", "&a;")
    if way == 2:
        corners = rng.choice((1999, 2500, 15_000, 60_000))
        points = " ".join(f"{k},{(k * 37) % 101}" for k in range(corners))
        return SVG.format("", f'<polygon points="{points}"/>')
    if way == 3:
        return SVG.format("", '<image href="file:///dev/zero"/><rect width="3" height="2"/>')
    if way == 4:
        return SVG.format("", "<style>*{fill:url(http://example.org/x)}</style>" * 200)
    if way == 5:
        return SVG.format("", f'<path d="{"M0 0L" + "9" * 100_000} 1Z"/>')
    if way == 6:
        arcs = "".join(f"a {k} {k} 0 1 1 1 {k}" for k in range(3000))
        return SVG.format("", f'<path d="M0 0 {arcs} Z"/>')
    return SVG.format("", '<rect width="3" height="2"/>')[: rng.randrange(5, 90)]


def _dxf(*pairs: tuple[int, object]) -> str:
    return "".join(f"{code}\n{value}\n" for code, value in pairs)


def _entity(kind: str, layer: str, *pairs: tuple[int, object]) -> tuple[tuple[int, object], ...]:
    return ((0, kind), (8, layer), *pairs)


def _drawing(blocks: str, entities: str) -> str:
    return (
        _dxf((0, "SECTION"), (2, "BLOCKS"))
        + blocks
        + _dxf((0, "ENDSEC"))
        + _dxf((0, "SECTION"), (2, "ENTITIES"))
        + entities
        + _dxf((0, "ENDSEC"), (0, "EOF"))
    )


def dxf_bomb(rng: random.Random) -> str:
    """Blocks within blocks, many times over, with arrays of them."""
    wide, deep = rng.choice((2, 20, 200)), rng.randrange(2, 12)
    blocks = ""
    for k in range(deep):
        inside = _dxf(*_entity("CIRCLE", "0", (10, 0), (20, 0), (40, 3)))
        if k:
            array = (70, rng.choice((1, 1, 1000))), (71, rng.choice((1, 30_000)))
            one = _dxf(*_entity("INSERT", "0", (2, f"B{k - 1}"), (10, 1), (20, 0), *array))
            inside = one * wide
        if rng.random() < 0.1:
            inside += _dxf(*_entity("INSERT", "0", (2, f"B{deep - 1}"), (10, 0), (20, 0)))
        blocks += _dxf((0, "BLOCK"), (8, "0"), (2, f"B{k}"), (70, 0), (10, 0), (20, 0)) + inside
        blocks += _dxf((0, "ENDBLK"), (8, "0"))
    return _drawing(blocks, _dxf(*_entity("INSERT", "0", (2, f"B{deep - 1}"), (10, 0), (20, 0))))


def dxf_numbers(rng: random.Random) -> str:
    """Entities with numbers that are none, or far too large."""

    def number() -> str:
        return rng.choice(NUMBERS) if rng.random() < 0.4 else f"{rng.uniform(-50, 50):.3f}"

    out = ""
    for _ in range(rng.randrange(1, 8)):
        layer = rng.choice(("0", "cut", "x" * 300, "l\u0000", "\ud83d"))
        n = [number() for _ in range(8)]
        kind = rng.randrange(6)
        out += _dxf(
            *(
                _entity("LINE", layer, (10, n[0]), (20, n[1]), (11, n[2]), (21, n[3])),
                _entity("CIRCLE", layer, (10, n[0]), (20, n[1]), (40, n[2])),
                _entity("ARC", layer, (10, n[0]), (20, n[1]), (40, n[2]), (50, n[3]), (51, n[4])),
                _entity(
                    "ELLIPSE",
                    layer,
                    (100, "AcDbEntity"),
                    (100, "AcDbEllipse"),
                    (10, n[0]),
                    (20, n[1]),
                    (11, n[2]),
                    (21, n[3]),
                    (40, n[4]),
                    (41, n[5]),
                    (42, n[6]),
                ),
                _entity(
                    "LWPOLYLINE",
                    layer,
                    (100, "AcDbEntity"),
                    (100, "AcDbPolyline"),
                    (90, 3),
                    (70, 1),
                    (10, n[0]),
                    (20, n[1]),
                    (42, n[2]),
                    (10, n[3]),
                    (20, n[4]),
                    (10, n[5]),
                    (20, n[6]),
                ),
                _entity(
                    "SPLINE",
                    layer,
                    (100, "AcDbEntity"),
                    (100, "AcDbSpline"),
                    (70, 8),
                    (71, rng.choice((3, 500))),
                    (72, 8),
                    (73, 4),
                    (74, 0),
                    *((40, rng.choice((0, 1, n[7]))) for _ in range(8)),
                    *(pair for k in range(4) for pair in ((10, n[k]), (20, n[k + 1]))),
                ),
            )[kind]
        )
    return _drawing("", out)


def dxf_many(rng: random.Random) -> str:
    """Very many entities, layers or corners."""
    way, count = rng.randrange(3), rng.choice((2500, 18_000, 40_000))
    if way == 0:
        lines = (
            _dxf(*_entity("LINE", f"layer {k}", (10, k), (20, 0), (11, k + 1), (21, 1)))
            for k in range(count)
        )
        return _drawing("", "".join(lines))
    if way == 1:
        corners = "".join(_dxf((10, k), (20, (k * 37) % 101)) for k in range(count))
        return _drawing("", _dxf(*_entity("LWPOLYLINE", "0", (90, count), (70, 1))) + corners)
    star = (_dxf(*_entity("LINE", "0", (10, 0), (20, 0), (11, k), (21, 1))) for k in range(count))
    return _drawing("", "".join(star))


def mutated(content: bytes, rng: random.Random) -> bytes:
    """A file with some bytes changed, lost or doubled."""
    broken = bytearray(content)
    for _ in range(rng.randrange(1, 7)):
        at = rng.randrange(len(broken))
        way = rng.randrange(3)
        if way == 0:
            broken[at] = rng.randrange(256)
        elif way == 1:
            del broken[at : at + rng.randrange(1, 300)]
        else:
            broken[at:at] = broken[at : at + rng.randrange(1, 80)]
        if not broken:
            broken += b" "
    return bytes(broken)


STRANGE: tuple[Any, ...] = (
    None,
    True,
    [],
    {},
    "",
    "\x00",
    "\ud800",
    "x" * 100_000,
    -1,
    0,
    1e308,
    10**400,
    "1e308 mm",
    "((((((1))))))",
    "1/0",
    "-" * 3000 + "1",
    "9**9**9",
    "nan",
    [[]] * 50,
    {"a": {"a": {}}},
)


def document_mutated(rng: random.Random) -> bytes:
    """A ready mechanism with values anywhere replaced by strange ones."""
    data = json.loads(demo_path(rng.choice(demo_names())).read_text("utf-8"))
    for _ in range(rng.randrange(1, 4)):
        node: Any = data
        while True:
            keys = list(node) if isinstance(node, dict) else list(range(len(node)))
            if not keys:
                break
            key = rng.choice(keys)
            if isinstance(node[key], (dict, list)) and rng.random() < 0.85:
                node = node[key]
                continue
            node[key] = rng.choice(STRANGE)
            break
    text = json.dumps(data)
    return text.encode("utf-8", "surrogatepass")


def document_absurd(rng: random.Random) -> bytes:
    """Documents that say much with few words: units of units, stacks of slabs, many teeth."""
    way = rng.randrange(6)
    data: dict[str, Any] = {"format": "anakinema-mechanism", "version": 1}
    part = {
        "id": "p",
        "places": [{"id": "o"}],
        "slabs": [{"id": "s", "top": 6, "outline": {"shape": "circle", "radius": 5}}],
    }
    data["parts"] = [part]
    if way == 0:
        deep, wide = rng.randrange(3, 14), rng.choice((3, 40))
        first: dict[str, Any] = {"id": "u0"}
        if rng.random() < 0.5:
            first["bodies"] = [{"id": "b", "part": "p"}]
        data["subassemblies"] = [first] + [
            {
                "id": f"u{k}",
                "instances": [{"id": f"x{n}", "subassembly": f"u{k - 1}"} for n in range(wide)],
            }
            for k in range(1, deep)
        ]
        data["instances"] = [{"id": "all", "subassembly": f"u{deep - 1}"}]
    elif way == 1:
        count = rng.choice((300, 2000))
        data["bodies"] = [{"id": f"b{k}", "part": "p", "pose": {"x": 20 * k}} for k in range(count)]
        if rng.random() < 0.5:
            data["joints"] = [
                {
                    "id": f"j{k}",
                    "kind": "revolute",
                    "first": {"body": f"b{k}", "place": "o"},
                    "second": {"body": f"b{k + 1}", "place": "o"},
                }
                for k in range(count - 1)
            ]
    elif way == 2:
        teeth = {"shape": "toothed_wheel", "module": 0.01, "teeth": rng.choice((500, 100_000))}
        part["slabs"] = [
            {"id": f"s{k}", "bottom": k, "top": k + 0.5, "outline": teeth}
            for k in range(rng.choice((1, 40)))
        ]
        data["bodies"] = [{"id": f"b{k}", "part": "p"} for k in range(20)]
    elif way == 3:
        corners = [{"x": k, "y": (k * 37) % 1999} for k in range(2000)]
        ring = {"shape": "path", "vertices": corners}
        part["slabs"] = [{"id": f"s{k}", "top": 6, "outline": ring} for k in range(30)]
        data["bodies"] = [{"id": f"b{k}", "part": "p"} for k in range(60)]
    elif way == 4:
        names = [{"id": f"p{k}", "value": f"p{k + 1} + p{k + 1}"} for k in range(1500)]
        data["parameters"] = [*names, {"id": "p1500", "value": "1 mm"}]
        part["slabs"][0]["top"] = "p0"  # type: ignore[index]
        data["bodies"] = [{"id": "b", "part": "p"}]
    else:
        square = [{"x": 0, "y": 0}, {"x": 9, "y": 0}, {"x": 9, "y": 9}, {"x": 0, "y": 9}]
        slab = {"id": "s", "top": 6, "outline": {"shape": "path", "vertices": square}}
        part["slabs"] = [{**slab, "id": f"s{k}"} for k in range(1500)]
        data["bodies"] = [{"id": f"b{k}", "part": "p", "pose": {"x": 3 * k}} for k in range(40)]
    return json.dumps(data).encode()


def text(make: Callable[[random.Random], str]) -> Callable[[random.Random], bytes]:
    """The bytes of what is made as text."""
    return lambda rng: make(rng).encode("utf-8", "surrogatepass")


KINDS: tuple[tuple[str, Callable[[random.Random], bytes]], ...] = (
    ("svg", text(svg_bomb)),
    ("svg", text(svg_numbers)),
    ("svg", text(svg_strange)),
    ("dxf", text(dxf_bomb)),
    ("dxf", text(dxf_numbers)),
    ("dxf", text(dxf_many)),
    ("svg", lambda rng: mutated(svg_numbers(rng).encode("utf-8", "surrogatepass"), rng)),
    ("dxf", lambda rng: mutated(dxf_numbers(rng).encode("utf-8", "surrogatepass"), rng)),
    ("anakinema", document_mutated),
    ("anakinema", document_absurd),
    ("anakinema", lambda rng: mutated(demo_path(rng.choice(demo_names())).read_bytes(), rng)),
)


def hostile(number: int) -> tuple[str, bytes]:
    """The kind and bytes of a file by its number."""
    rng = random.Random(number)
    kind, make = KINDS[number % len(KINDS)]
    return kind, make(rng)
