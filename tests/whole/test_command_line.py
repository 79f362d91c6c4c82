"""Help with an example for every command, and completion as a shell does it."""

from __future__ import annotations

import re
import shlex
import shutil
import subprocess

import pytest

from anakinema.cli import main
from anakinema.command_line import SHELLS, commands_of, parser
from anakinema.record.exports import EXPORTS

COMMANDS = tuple(commands_of(parser()))


@pytest.mark.parametrize("command", COMMANDS)
def test_every_command_explains_itself_with_an_example_that_it_understands(
    command: str, capsys: pytest.CaptureFixture[str]
) -> None:
    with pytest.raises(SystemExit) as ended:
        main([command, "--help"])
    assert ended.value.code == 0
    words = capsys.readouterr().out
    example = re.search(r"Example:\n\s+anakinema (.+)", words)
    assert example is not None
    options = parser().parse_args(shlex.split(example[1].partition(" > ")[0]))
    assert options.command == command
    if command == "export":
        assert all(export.name in words for export in EXPORTS)
        assert set(options.what.split(",")) <= {export.name for export in EXPORTS}


def test_all_commands_are_in_the_first_help(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit):
        main(["--help"])
    words = capsys.readouterr().out
    assert all(command in words for command in COMMANDS)


@pytest.mark.parametrize("shell", SHELLS)
def test_a_script_for_every_shell(shell: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["completion", shell]) == 0
    script = capsys.readouterr().out
    assert all(command in script for command in COMMANDS) and "--pose" in script


@pytest.mark.skipif(shutil.which("bash") is None, reason="no such shell here")
def test_a_shell_completes_commands_and_options(capsys: pytest.CaptureFixture[str]) -> None:
    main(["completion", "bash"])
    script = capsys.readouterr().out

    def completed(*words: str) -> set[str]:
        asked = " ".join(shlex.quote(word) for word in words)
        call = (
            f"{script}\nCOMP_WORDS=(anakinema {asked}); COMP_CWORD={len(words)}\n"
            'COMPREPLY=(); _shtab_anakinema; printf "%s\\n" "${COMPREPLY[@]}"'
        )
        done = subprocess.run(["bash", "-c", call], capture_output=True, text=True, check=True)
        return {line.strip() for line in done.stdout.splitlines()}

    assert completed("ex") == {"export"}
    assert {"check", "sweep", "export"} <= completed("")
    assert {"--what", "--folder", "--pose"} <= completed("export", "--")
