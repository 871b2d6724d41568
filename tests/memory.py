"""Temporary files in memory, where the machine has room: databases and directory servers of the
tests are copied hundreds of times.
"""

from __future__ import annotations

import os
import shutil
import tempfile
from pathlib import Path

MEMORY = Path("/dev/shm")  # noqa: S108 - files that others cannot read are made in it
_ROOM = 4 * 10**9
"""Free bytes below which the disk is used: what two workers of a run leave there at most."""


def use_memory() -> None:
    """Have temporary files made in memory from now on, here and in the processes begun from here.
    Whoever sets TMPDIR has chosen another place.
    """
    if "TMPDIR" in os.environ or not MEMORY.is_dir() or not os.access(MEMORY, os.W_OK):
        return
    runs_nothing = os.statvfs(MEMORY).f_flag & os.ST_NOEXEC
    if runs_nothing or shutil.disk_usage(MEMORY).free < _ROOM:
        return
    os.environ["TMPDIR"] = str(MEMORY)
    tempfile.tempdir = None
