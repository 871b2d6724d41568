"""Passwords of accounts that Hornfels itself signs in with: in the environment or in files that
nobody else may read, never in the database.
"""

from __future__ import annotations

import os
import re
from pathlib import Path

from hornfels.refusals import ConflictError
from hornfels.settings import PREFIX

NAME = re.compile(r"[a-z0-9][a-z0-9.-]{0,63}")
"""What a secret may be called. People choose among names, never among files of the machine."""


def kept(name: str, folder: Path) -> str:
    """The secret of that name: `HORNFELS_SECRET_…` of the environment, else the file of that name
    in `folder`. Raises `ConflictError` where it is not there or others could read it.
    """
    variable = f"{PREFIX}SECRET_{re.sub('[.-]', '_', name).upper()}"
    if found := os.environ.get(variable):
        return found
    file = folder / name
    if NAME.fullmatch(name) is None or not file.is_file():
        raise ConflictError(
            f"The secret “{name[:64]}” is not kept here. On the machine, put it into the file "
            f"{file} (mode 0600) or into {variable}."
        )
    if file.stat().st_mode & 0o077:
        raise ConflictError(f"Others may read {file}. Give it mode 0600.")
    try:
        return file.read_text("utf-8").rstrip("\r\n")
    except (OSError, UnicodeDecodeError):
        raise ConflictError(f"{file} cannot be read as text by the account of Hornfels.") from None
