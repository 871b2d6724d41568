"""Policies as text against a large dump, and recommendations against everybody: all told, as
scripts call them.
"""

from __future__ import annotations

import tempfile
from functools import partial
from pathlib import Path

from benchmarks.estates import make
from benchmarks.reading import dump_of, seconds
from command import run
from hornfels.core.baselines.assessing import assess
from hornfels.core.resolution.engine import resolve
from hornfels.formats.baselines.reading import SHIPPED, shipped
from hornfels.formats.ldif import write
from worlds import policy_values

POLICIES = 200
ACCOUNTS = 100_000


def planning() -> None:
    print(f"\n{POLICIES} policies as text, a dump of {ACCOUNTS:,} accounts, each time a command")
    with tempfile.TemporaryDirectory(prefix="hornfels-bench-") as folder:
        dump, file = Path(folder, "dump.ldif"), Path(folder, "policies.yaml")
        dump.write_bytes(dump_of(ACCOUNTS) + _policies())
        plain = seconds(lambda: dump.read_bytes().count(b"\n"))
        exported = run("export", dump)
        assert exported.returncode == 0, exported.stderr
        file.write_text(exported.stdout.replace("min_length: 12\n", "min_length: 13\n"))
        size = dump.stat().st_size / 1_000_000
        print(f"  {f'reading its {size:.0f} MB and counting lines':<58}{plain * 1000:>12,.0f} ms")
        for what in ((), ("--json",), ("--ldif",)):
            took = seconds(partial(_plan, file, dump, *what))
            name = " ".join(("plan", *what))
            print(f"  {name:<58}{took * 1000:>12,.0f} ms  {took / plain:.0f} × reading")
    estate = make(1_000_000)
    resolution = resolve(estate)
    for name in SHIPPED:
        took = seconds(partial(assess, shipped(name), estate, resolution))
        print(f"  {f'baseline {name}, 1,000,000 accounts':<58}{took * 1000:>12,.0f} ms")


def _plan(file: Path, dump: Path, *how: str) -> None:
    done = run("plan", file, "--against", dump, *how)
    assert done.returncode == 1, done.stderr


def _policies() -> bytes:
    domain = "DC=big,DC=example"

    def entry(n: int) -> tuple[str, list[tuple[str, str | bytes]]]:
        link = ("msDS-PSOAppliesTo", f"CN=Group {n},OU=Groups,{domain}")
        values = policy_values(f"Policy {n}", n + 1, n.to_bytes(16, "big"))
        place = f"CN=Policy {n},CN=Password Settings Container,CN=System,{domain}"
        return place, [*values, link]

    # Behind another dump: its first line says which version it is.
    return b"\n" + b"".join(write(map(entry, range(POLICIES)))).partition(b"\n")[2]


if __name__ == "__main__":
    planning()
