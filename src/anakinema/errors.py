"""Errors that say what failed, where, and what to do about it."""

from __future__ import annotations


class AnakinemaError(Exception):
    """Base of all errors shown to a user.

    Parameters
    ----------
    what : what is wrong, as a sentence.
    where : the place in the user's words (a part, a joint, a line of a file).
    remedy : what the user can do about it.
    """

    def __init__(self, what: str, *, where: str, remedy: str = "") -> None:
        super().__init__(f"{where}: {what} {remedy}".strip())
        self.what = what
        self.where = where
        self.remedy = remedy

    def __reduce__(self) -> tuple[object, ...]:
        # Between our own processes: made as it was, though it takes its words by name.
        return _again, (type(self), self.args), self.__dict__

    @property
    def advice(self) -> str:
        """What is wrong and what to do, for where the place is plain to see."""
        return f"{self.what[:1].upper()}{self.what[1:]} {self.remedy}"


class ValueOutOfRangeError(AnakinemaError, ValueError):
    """A number lies outside what its place allows."""


class ExpressionError(AnakinemaError, ValueError):
    """An expression cannot be read or evaluated."""


class GeometryError(AnakinemaError, ValueError):
    """An outline is impossible: it folds, crosses itself or has no area."""


class MissingNameError(AnakinemaError, LookupError):
    """Something names a body, part, place or joint that does not exist."""


class EditRefusedError(AnakinemaError, ValueError):
    """An edit cannot be made: what it is about is gone, or no file could hold what would come."""


class FileFormatError(AnakinemaError, ValueError):
    """A file is not a readable mechanism document."""


class AssemblyError(AnakinemaError, ArithmeticError):
    """The start pose cannot be assembled: a loop does not close."""


class Cancelled(Exception):
    """A newer request made this work pointless."""


def _again(kind: type[AnakinemaError], args: tuple[object, ...]) -> AnakinemaError:
    return kind.__new__(kind, *args)
