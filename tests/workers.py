"""Workers in processes of their own, which are killed in the middle."""

from __future__ import annotations

import contextlib
import os
import subprocess
import sys
from datetime import timedelta
from pathlib import Path

from sqlalchemy import Engine, text

from hornfels.store.cluster import Cluster
from hornfels.worker.work import GONE

COMMAND = Path(sys.executable).parent / "hornfels"


def forget_heartbeats(engine: Engine) -> None:
    """As if the time had passed after which a silent worker is taken for gone."""
    with engine.begin() as connection:
        connection.execute(
            text("UPDATE procrastinate_workers SET last_heartbeat = now() - :past"),
            {"past": timedelta(seconds=2 * GONE)},
        )


def another_worker(cluster: Cluster) -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [COMMAND, "worker"], env={**os.environ, "HORNFELS_DATABASE_URL": cluster.url}
    )


def lives(worker: subprocess.Popen[bytes]) -> bool:
    """Whether a process goes on; looks for a moment, so that nobody who asks again and again takes
    the processor from it.
    """
    with contextlib.suppress(subprocess.TimeoutExpired):
        worker.wait(0.05)
    return worker.returncode is None
