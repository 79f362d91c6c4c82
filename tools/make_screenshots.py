"""Take the pictures in docs/screenshots from the ready mechanisms: ``make screenshots``."""

from __future__ import annotations

from pathlib import Path

import look

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
VIEWS = {
    "check": ("tray-shuttle", "Check", "finding:post_gap", "", ""),
    "check-travel": ("tray-shuttle", "Check", "finding:stroke", "0.55", ""),
    "drive": ("vent-opener", "Drive", "joint:hinge", "0.5", ""),
    "assemble": ("side-rods", "Assemble", "body:bar", "0.17", ""),
    "record": ("water-pump", "Record", "", "0.2", ""),
    "transfer-arm": ("transfer-arm", "Check", "finding:rack_gap", "", ""),
    "dark": ("vent-opener", "Check", "", "0.26", "dark"),
    "start": ("", "", "", "", ""),
}


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name, view in VIEWS.items():
        look.main([str(FOLDER / f"{name}.png"), *view])


if __name__ == "__main__":
    main()
