"""The command line: open the window, or have a file answered without one."""

from __future__ import annotations

import io
import json
import os
import sys
from pathlib import Path

from anakinema.command_line import commands_of, completion, parser
from anakinema.errors import AnakinemaError
from anakinema.loading import loading
from anakinema.resources import demo_path, install_for_user

UNREADABLE = 2
STOPPED = 130
"""As shells tell a program ended by Ctrl+C."""
UNREAD = 141
"""As shells tell a program whose output nobody reads to its end."""


def main(arguments: list[str] | None = None) -> int:
    """Run a command; gives the exit status.

    0 pass or warn, 1 a requirement fails or cannot be judged, 2 the file is unreadable or has
    no assembled start pose.
    """
    known = parser()
    given = sys.argv[1:] if arguments is None else arguments
    if not given or (given[0] not in commands_of(known) and not given[0].startswith("-")):
        given = ["open", *given]
    options = known.parse_args(given)
    for stream in (sys.stdout, sys.stderr):
        # Names in a file may hold what no terminal can show.
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    at = ["reading the file"]
    try:
        if options.command == "open":
            return _open(options.file, options.demo)
        if options.command == "completion":
            print(completion(options.shell))
            return 0
        if options.command == "desktop":
            print(f"Written: {install_for_user()}")
            return 0
        with loading():
            from anakinema.headless import answer
        return answer(options, lambda words: at.__setitem__(0, words))
    except AnakinemaError as error:
        if getattr(options, "json", False):
            print(json.dumps({"error": error.what, "where": error.where, "remedy": error.remedy}))
        print(f"anakinema: {error}", file=sys.stderr)
        return UNREADABLE
    except BrokenPipeError:
        # Whoever read the output has enough of it, as ``head`` has.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return UNREAD
    except KeyboardInterrupt:
        print(f"anakinema: stopped while {at[0]}", file=sys.stderr)
        return STOPPED


def _open(file: str | None, demo: str | None) -> int:
    with loading():
        from anakinema.ui.app import run

    return run(demo_path(demo) if demo else Path(file) if file else None)
