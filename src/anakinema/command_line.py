"""What the command line understands: its commands, each with an example, and its completion."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Mapping
from typing import TypeAlias

from anakinema import __version__
from anakinema.resources import demo_names

SHELLS = ("bash", "zsh")
FILES, FOLDERS = ("file", "junit", "csv", "out"), ("folder",)
"""Options that a shell completes with names of files, or of folders."""
STATUS = """Exit status: 0 where all passes or only warns, 1 where a requirement fails or cannot be
judged, 2 where the file cannot be read or has no start pose that closes."""


class _Parser(argparse.ArgumentParser):
    """``listed`` ends its help; it is asked only when that is shown."""

    listed: Callable[[], str] | None = None

    def format_help(self) -> str:
        return super().format_help() + ("" if self.listed is None else f"\n{self.listed()}\n")


def parser() -> argparse.ArgumentParser:
    """All commands and their options."""
    found = _Parser(
        prog="anakinema",
        description="Build linkages and check their whole motion.",
        formatter_class=argparse.RawDescriptionHelpFormatter,
        epilog="Examples:\n"
        "  anakinema                            the window, at its start\n"
        "  anakinema shuttle.anakinema          the window with a file\n"
        "  anakinema check shuttle.anakinema    the verdict, in words\n\n"
        "Every command has an example of its own: anakinema check --help",
    )
    found.add_argument("--version", action="version", version=f"anakinema {__version__}")
    commands = found.add_subparsers(dest="command", metavar="COMMAND")
    _open(commands)
    _check(commands)
    _sweep(commands)
    _improve(commands)
    _export(commands)
    _command(
        commands, "desktop", "put an entry, icon and kind of file on this desktop",
        "anakinema desktop",
    )  # fmt: skip
    completing = _command(
        commands, "completion", "print what lets a shell complete commands and files",
        "anakinema completion bash > ~/.local/share/bash-completion/completions/anakinema",
    )  # fmt: skip
    completing.add_argument("shell", choices=SHELLS)
    return found


Commands: TypeAlias = "argparse._SubParsersAction[_Parser]"


def _command(commands: Commands, name: str, why: str, example: str, more: str = "") -> _Parser:
    return commands.add_parser(
        name,
        help=why,
        description=f"{why[0].upper()}{why[1:]}.",
        formatter_class=argparse.RawDescriptionHelpFormatter,
        epilog=f"Example:\n  {example}\n" + (f"\n{more}" if more else ""),
    )


def _file(command: argparse.ArgumentParser, *, optional: bool = False) -> None:
    command.add_argument(
        "file", nargs="?" if optional else None, help="a mechanism file (.anakinema)"
    )


def _open(commands: Commands) -> None:
    window = _command(
        commands, "open", "open the window (default)", "anakinema open --demo tray-shuttle",
        "Ready mechanisms: " + ", ".join(demo_names()),
    )  # fmt: skip
    _file(window, optional=True)
    # Whoever gives another name is told the known ones with a way out.
    window.add_argument("--demo", metavar="NAME", help="open a ready mechanism by name")


def _check(commands: Commands) -> None:
    checking = _command(
        commands, "check", "print the verdict of a file",
        "anakinema check shuttle.anakinema --changes --junit verdict.xml", STATUS,
    )  # fmt: skip
    _file(checking)
    checking.add_argument("--json", action="store_true", help="for machines")
    checking.add_argument("--junit", metavar="OUT", help="write it as JUnit XML too, - to print it")
    checking.add_argument(
        "--changes", action="store_true", help="look for changes that would let what fails pass"
    )


def _sweep(commands: Commands) -> None:
    sweeping = _command(
        commands, "sweep", "write every pose, value and rate",
        "anakinema sweep shuttle.anakinema --csv motion.csv --points", STATUS,
    )  # fmt: skip
    _file(sweeping)
    sweeping.add_argument(
        "--csv", required=True, metavar="OUT", help="file to write, - to print it"
    )
    sweeping.add_argument(
        "--points", action="store_true", help="with all places of bodies and all kept measures"
    )


def _improve(commands: Commands) -> None:
    improving = _command(
        commands, "improve", "move several numbers until one answer is as good as can be",
        "anakinema improve shuttle.anakinema --goal post_gap --change rod=200..260"
        " --out better.anakinema",
    )  # fmt: skip
    _file(improving)
    improving.add_argument("--goal", required=True, metavar="ID", help="the requirement it is of")
    improving.add_argument(
        "--sense", choices=("least", "greatest"), default="greatest", help="as small or as large"
    )
    improving.add_argument(
        "--change",
        action="append",
        required=True,
        metavar="NAME=LOW..HIGH",
        help="a parameter, or part.dimension, in its own unit; may be given again",
    )
    improving.add_argument("--processes", type=int, default=1, metavar="N", help="at once")
    improving.add_argument("--cluster", metavar="ADDRESS", help="of a dask scheduler")
    improving.add_argument("--out", metavar="FILE", help="write the best one")


def _export(commands: Commands) -> None:
    exporting = _command(
        commands, "export", "write files for the workshop and the reviewer",
        "anakinema export shuttle.anakinema --what parts.dxf,drawings.pdf --folder out",
    )  # fmt: skip
    exporting.listed = _exports
    _file(exporting)
    exporting.add_argument(
        "--what", required=True, metavar="NAME,NAME", help="names from the list below, or all"
    )
    exporting.add_argument("--folder", default=".", help="where to write; made if it is not there")
    exporting.add_argument("--pose", help="a kept pose to show bodies at, by its name")


def _exports() -> str:
    """What can be written, one a line."""
    from anakinema.record.exports import EXPORTS  # loads all of the core, so not at start

    return "What can be written:\n" + "\n".join(f"  {each.name:16} {each.why}" for each in EXPORTS)


def commands_of(known: argparse.ArgumentParser) -> Mapping[str, argparse.ArgumentParser]:
    """The commands by name."""
    return {
        name: command
        for action in known._actions
        if isinstance(action, argparse._SubParsersAction)
        for name, command in action.choices.items()
    }


def completion(shell: str) -> str:
    """The script that a shell completes by."""
    import shtab  # slow to import, so not at start

    known = parser()
    for command in commands_of(known).values():
        for action in command._actions:
            if action.dest in (*FILES, *FOLDERS):
                kind = shtab.FILE if action.dest in FILES else shtab.DIRECTORY
                action.complete = kind  # type: ignore[attr-defined]
    return str(shtab.complete(known, shell))
