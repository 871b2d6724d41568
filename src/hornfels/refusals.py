"""Why something was not done, and what to do instead: told to a browser and to a terminal alike."""

from __future__ import annotations


class RefusalError(Exception):
    """Something was not done; the message says why and what to do instead."""


class NotFoundError(RefusalError, LookupError):
    """What was named is not there, or is no longer."""


class ConflictError(RefusalError):
    """It cannot be done as things stand."""


class ChangedMeanwhileError(ConflictError):
    """Somebody else has changed what this was to change."""


class ForbiddenError(RefusalError):
    """This person may not do it."""


class FieldsError(RefusalError):
    """Fields of what was asked are wrong: each with what is wrong, and "" for the whole."""

    def __init__(self, *problems: tuple[str, str]) -> None:
        super().__init__(" ".join(message for _, message in problems))
        self.problems = problems


class NotYetError(RefusalError):
    """It cannot be told yet; ask again after so many seconds."""

    def __init__(self, message: str, retry_after: int) -> None:
        super().__init__(message)
        self.retry_after = retry_after


class TooManyTriesError(NotYetError):
    """Too many wrong tries; none is taken until so many seconds have passed."""


class ProofNeededError(ForbiddenError):
    """Whoever is signed in has to give the password once more before this is done."""
