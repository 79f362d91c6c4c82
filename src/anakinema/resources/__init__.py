"""Files that ship with the program: demo mechanisms, fonts, icons, the file schema."""

from __future__ import annotations

import os
import shutil
import subprocess
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from anakinema.errors import FileFormatError

FOLDER = Path(__file__).parent
_LINES = {
    "cam-dibber": ("Cam dibber", "A cam lifts, rests and sets down without a jolt."),
    "carrier-gears": ("Carrier gears", "Sun, planets and ring: three and a half to one."),
    "chain-take-up": ("Chain take-up", "An arm on a spindle keeps a chain tight."),
    "geared-vent": ("Geared vent", "A pinion meshes with a wheel that moves a bar."),
    "geneva-feeder": ("Geneva feeder", "An even turn in, a quarter turn and a rest out."),
    "head-belt": ("Head belt", "A belt of fixed length with a swinging idler."),
    "lid-latch": ("Lid latch", "A sprung catch is pushed aside and drops in."),
    "offset-coupling": ("Offset coupling", "Two shafts apart turn alike, over crossed slots."),
    "potting-boom": ("Potting boom", "A turntable carries a boom, its end a gripper."),
    "seed-bin": ("Seed bin", "A hinged lid, and a level arm whose axis crosses its hinge."),
    "rake-rocker": ("Rake rocker", "A ball-ended rod between shafts that cross."),
    "bevel-drive": ("Bevel hand drive", "A bevel pinion turns the vent's shaft square to it."),
    "dibber-axle": ("Dibber axle", "Round, polygon and pear cams lift three followers."),
    "plug-press": ("Plug press", "Crank, rod and plunger, every pin a screw."),
    "side-rods": ("Side rods", "Three equal cranks pass their change points."),
    "sluice-lever": ("Sluice lever", "Two bearings, spacers and a collar on a pin."),
    "tip-out-carrier": ("Tip-out carrier", "Two cylinders lift a tray and tip it out."),
    "transfer-arm": ("Transfer arm", "Two drivers, in stages; a tray that hangs free."),
    "transfer-head": ("Transfer head", "Grips a tray, lifts it and sets it down: two drivers."),
    "tray-indexer": ("Tray indexer", "Two pawls: one pushes a tooth on, one holds."),
    "tray-shuttle": ("Tray shuttle", "Slow push, quick return; one check fails."),
    "vent-opener": ("Vent opener", "A motor arm, a link and a lever, within limits."),
    "water-pump": ("Water pump", "Crank, connecting rod and plunger."),
}


@cache
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


def demo_lines() -> tuple[tuple[str, str, str], ...]:
    """Name, title and a line of what it shows of every ready mechanism."""
    return tuple((name, *_LINES[name]) for name in demo_names())


@dataclass(frozen=True, slots=True)
class GuidePage:
    """A page of the guide: its name, its title and its text in Markdown."""

    name: str
    title: str
    text: str


_PAGES = (
    "start", "build", "depth", "planes", "cams", "drive", "check", "record", "numbers", "words",
    "work", "safety", "keys",
)  # fmt: skip


def guide_pages() -> tuple[GuidePage, ...]:
    """The pages of the guide in the order of the work."""
    pages = []
    for name in _PAGES:
        text = (FOLDER / "guide" / f"{name}.md").read_text("utf-8")
        pages.append(GuidePage(name, text.partition("\n")[0].removeprefix("# "), text))
    return tuple(pages)


def install_for_user() -> Path:
    """Put entry, icon and kind of file where this user's desktop looks; gives the entry's file.

    Raises a `FileFormatError` if that cannot be written.
    """
    data = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    entry = data / "applications" / "anakinema.desktop"
    program = shutil.which("anakinema") or "anakinema"
    text = (FOLDER / "desktop" / "anakinema.desktop").read_text("utf-8")
    files = {
        entry: text.replace("Exec=anakinema", f"Exec={program}"),
        data / "icons/hicolor/scalable/apps/anakinema.svg": application_icon().read_text("utf-8"),
        data / "mime/packages/anakinema.xml": (FOLDER / "desktop/anakinema.xml").read_text("utf-8"),
    }
    try:
        for path, content in files.items():
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(content, "utf-8")
    except OSError as error:
        raise FileFormatError(
            f"it cannot be written: {error.strerror}.",
            where=str(error.filename),
            remedy="Check the rights of that folder.",
        ) from error
    for tool, folder in (
        ("update-mime-database", data / "mime"),
        ("update-desktop-database", entry.parent),
    ):
        found = shutil.which(tool)
        if found:
            subprocess.run([found, str(folder)], check=False, capture_output=True, timeout=20)
    return entry


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
