"""How far a long command is, told on standard error: on a terminal in one line that is written
over, elsewhere a line every ten seconds.
"""

from __future__ import annotations

import sys
import time

_BETWEEN_ON_A_TERMINAL, _BETWEEN = 0.2, 10.0


class Teller:
    """Tells the share that is done, the rate and the time left."""

    def __init__(self) -> None:
        self._live = sys.stderr.isatty()
        self._doing = ""
        self._begun = self._told = time.monotonic()
        self._written = False

    def __call__(self, doing: str, done: int, whole: int, unit: str, size: int) -> None:
        """So much of it is done. `unit` is what the rate is told in, `size` how much makes one."""
        now = time.monotonic()
        if doing != self._doing:
            self._doing, self._begun = doing, now
        if now - self._told < (_BETWEEN_ON_A_TERMINAL if self._live else _BETWEEN):
            return
        self._told = now
        rate = done / max(now - self._begun, 0.001)
        line = (
            f"{doing} {100 * done // max(whole, 1)} %, {rate / size:,.1f} {unit}/s, "
            f"{_time((whole - done) / max(rate, 1))} left"
        )
        print(
            f"\r{line}\033[K" if self._live else line,
            end="" if self._live else "\n",
            file=sys.stderr,
            flush=True,
        )
        self._written = True

    def close(self) -> None:
        """Leave an empty line on a terminal."""
        if self._live and self._written:
            print("\r\033[K", end="", file=sys.stderr, flush=True)


def _time(seconds: float) -> str:
    minutes, left = divmod(int(seconds), 60)
    hours, minutes = divmod(minutes, 60)
    if hours:
        return f"{hours} h {minutes} min"
    return f"{minutes} min {left} s" if minutes else f"{left} s"
