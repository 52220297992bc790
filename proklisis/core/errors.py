"""The one error that reaches a user: what is wrong, where, and how to mend it."""

from __future__ import annotations


class InputError(ValueError):
    """Bad input, said in one plain sentence.

    Parameters
    ----------
    what : str
        What is wrong, as a sentence without its full stop.
    where : str
        The file, key or frame it was found in; may be empty.
    mend : str
        What the user can do about it; may be empty.
    """

    def __init__(self, what: str, where: str = "", mend: str = "") -> None:
        self.what, self.where, self.mend = what, where, mend
        super().__init__(str(self))

    def __str__(self) -> str:
        head = f"{self.where}: {self.what}" if self.where else self.what
        return f"{head}; {self.mend}." if self.mend else f"{head}."

    def at(self, where: str) -> InputError:
        """Return the same error with ``where`` put before its own place."""
        place = f"{where}: {self.where}" if self.where else where
        return InputError(self.what, place, self.mend)


class NotFollowed(KeyError):
    """Landmarks were asked for that these tracks do not have; ``args`` are their names."""


class Lacking(InputError):
    """Landmarks that the tracker does not follow are needed, and not marked yet."""
