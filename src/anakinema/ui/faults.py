"""Where a mistake of the program's own ends: stated in one line, written to a report, work kept."""

from __future__ import annotations

import platform
import sys
import threading
import time
import traceback
from pathlib import Path
from types import TracebackType

import PySide6

from anakinema import __version__
from anakinema.errors import AnakinemaError
from anakinema.ui.workbench import Workbench
from anakinema.writing import write_text

MOST_REPORTS = 50


class Faults:
    """Catches what nothing else has caught, for one window."""

    def __init__(self, workbench: Workbench) -> None:
        self._workbench = workbench
        self._folder = workbench.desk.folder / "reports"
        self._busy = False
        workbench.broke.connect(self.tell)

    def install(self) -> None:
        """From now on all that escapes comes here."""
        sys.excepthook = self._caught
        threading.excepthook = lambda args: self._caught(
            args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback
        )

    def _caught(
        self, kind: type[BaseException], error: BaseException, trace: TracebackType | None
    ) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        # Signals, because this may be another thread; and a fault in telling must not tell itself.
        if not self._busy:
            self._busy = True
            try:
                self._workbench.broke.emit(error)
            finally:
                self._busy = False

    def tell(self, error: BaseException) -> None:
        """Tell the user in one line; the rest goes to a report."""
        if isinstance(error, AnakinemaError):
            self._workbench.report(error)
            return
        kept = self._report(error)
        where = f" A report is in {kept}." if kept is not None else ""
        self._workbench.report(
            f"The program made a mistake ({type(error).__name__}: {str(error)[:120]})."
            f" Your work is kept.{where}"
        )

    def _report(self, error: BaseException) -> Path | None:
        words = "".join(traceback.format_exception(error))
        text = (
            f"Anakinema {__version__}, Python {platform.python_version()},"
            f" Qt {PySide6.__version__}, {platform.platform()}\n\n{words}"
        )
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            for old in sorted(self._folder.glob("*.txt"))[: -MOST_REPORTS + 1]:
                old.unlink()
            path = self._folder / f"{time.strftime('%Y%m%d-%H%M%S')}-{id(error):x}.txt"
            write_text(text, path)
        except (OSError, AnakinemaError):
            return None
        return path
