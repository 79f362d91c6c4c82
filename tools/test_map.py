"""Which tests reach a module: ``python tools/test_map.py [module ...]``.

A test file reaches what it imports itself, names followed through the faces of packages; what no
test imports is stated with the nearest modules through which tests come to it.
"""

from __future__ import annotations

import ast
import sys
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
PACKAGE = "anakinema"


def name_of(path: Path, base: Path) -> str:
    """The dotted name of a source file."""
    return ".".join(path.relative_to(base).with_suffix("").parts).removesuffix(".__init__")


def imports(path: Path, known: set[str]) -> Iterator[tuple[str, str]]:
    """(module, name) of everything that a file takes from the program's own modules."""
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom) and node.module and node.level == 0:
            for each in node.names:
                whole = f"{node.module}.{each.name}"
                if whole in known:
                    yield whole, ""
                elif node.module in known:
                    yield node.module, each.name
        elif isinstance(node, ast.Import):
            yield from ((each.name, "") for each in node.names if each.name in known)


def main() -> int:
    """Print the map of all modules, or of those asked for."""
    sources = {name_of(p, ROOT / "src"): p for p in (ROOT / "src" / PACKAGE).rglob("*.py")}
    known = set(sources)
    taken = {name: list(imports(path, known)) for name, path in sources.items()}
    faces = {
        (face, name): module
        for face, found in taken.items()
        if sources[face].name == "__init__.py"
        for module, name in found
        if name
    }

    def owner(module: str, name: str) -> str:
        while (module, name) in faces:
            module = faces[module, name]
        return module

    tests: dict[str, set[str]] = {name: set() for name in known}
    for path in sorted((ROOT / "tests").rglob("*.py")):
        for module, name in imports(path, known):
            tests[owner(module, name)].add(path.relative_to(ROOT / "tests").as_posix())
    users: dict[str, set[str]] = {name: set() for name in known}
    for name, found in taken.items():
        for module, what in found:
            users[owner(module, what)].add(name)
    asked = set(sys.argv[1:]) or known
    bare = 0
    for name in sorted(asked & known):
        if tests[name]:
            print(f"{name}: {', '.join(sorted(tests[name]))}")
            continue
        bare += 1
        near = sorted(user for user in users[name] if tests[user])
        print(f"{name}: by way of {', '.join(near[:4]) or 'what uses it'}")
    print(f"{bare} of {len(asked & known)} modules are imported by no test itself")
    return 0


if __name__ == "__main__":
    sys.exit(main())
