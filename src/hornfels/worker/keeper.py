"""Keeps a worker process beside the web server, and starts another when it ends."""

from __future__ import annotations

import contextlib
import logging
import subprocess
import sys
import threading
from collections.abc import Iterator

_log = logging.getLogger(__name__)

LONGEST_PAUSE = 30.0


@contextlib.contextmanager
def worker_beside() -> Iterator[None]:
    """A worker for as long as the block runs. It ends with this process, however that ends: a pipe
    that it reads then closes.
    """
    ending = threading.Event()
    keeper = _Keeper(ending)
    keeper.start()
    try:
        yield
    finally:
        ending.set()
        keeper.end()
        keeper.join()


class _Keeper(threading.Thread):
    def __init__(self, ending: threading.Event) -> None:
        super().__init__(name="worker keeper", daemon=True)
        self._ending = ending
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None

    def run(self) -> None:
        pause = 0.5
        while not self._ending.is_set():
            with self._lock:
                if self._ending.is_set():
                    return
                self._process = _started()
            status = self._process.wait()
            if not self._ending.is_set():
                _log.warning("The worker ended with status %d; another one is started.", status)
            self._ending.wait(pause)
            pause = min(pause * 2, LONGEST_PAUSE) if status else 0.5

    def end(self) -> None:
        with self._lock:
            if self._process and self._process.stdin:
                self._process.stdin.close()
                try:
                    self._process.wait(timeout=10)
                except subprocess.TimeoutExpired:
                    self._process.kill()


def _started() -> subprocess.Popen[bytes]:
    command = [
        sys.executable,
        "-c",
        "from hornfels.cli.main import run; run()",
        "worker",
        "--while-parent",
    ]
    # In a group of its own, so that Ctrl+C reaches the web server first, which then ends the
    # worker.
    return subprocess.Popen(command, stdin=subprocess.PIPE, start_new_session=True)
