"""Files that ship with the program: demo mechanisms, fonts, icons, the file schema."""

from __future__ import annotations

from pathlib import Path

from anakinema.errors import FileFormatError

FOLDER = Path(__file__).parent


def demo_names() -> tuple[str, ...]:
    """Names of the ready mechanisms."""
    return tuple(sorted(path.stem for path in (FOLDER / "demo").glob("*.anakinema")))


def demo_path(name: str) -> Path:
    """File of a ready mechanism; raises `FileFormatError` for an unknown name."""
    path = FOLDER / "demo" / f"{name}.anakinema"
    if name not in demo_names():
        raise FileFormatError(
            "there is no such ready mechanism.",
            where=f"demo '{name}'",
            remedy=f"Known are: {', '.join(demo_names())}.",
        )
    return path


def font_paths() -> tuple[Path, ...]:
    """Fonts of the interface."""
    return tuple(sorted((FOLDER / "fonts").glob("*.ttf")))


def icon_path(name: str) -> Path:
    """An icon of the interface."""
    return FOLDER / "icons" / f"{name}.svg"


def application_icon() -> Path:
    """The icon of the program, also named by its desktop entry."""
    return FOLDER / "desktop" / "anakinema.svg"


def schema_path() -> Path:
    """JSON Schema of the document, generated from the model."""
    return FOLDER / "schema" / "mechanism.schema.json"
