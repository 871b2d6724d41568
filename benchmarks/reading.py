"""Reading dumps: beside a plain parser, and whether time per byte stays the same however long a
line is.
"""

from __future__ import annotations

import io
import time
from collections.abc import Callable, Iterator
from functools import partial

import ldif3

from benchmarks.estates import make
from hornfels.formats.dump import DumpError, LdifError, load_dump
from hornfels.formats.ldif import read, write

MB = 1_000_000


def dump_of(accounts: int) -> bytes:
    """An LDIF dump of an estate, its entries as broad as a directory's."""
    estate = make(accounts)
    groups_of, group_dn = estate.memberships.groups_of_account, list(estate.groups.dn)

    def records() -> Iterator[tuple[str, list[tuple[str, str | bytes]]]]:
        yield "DC=big,DC=example", [("objectClass", "domainDNS"), ("objectSid", "S-1-5-21-1-2-3")]
        for dn, name in zip(estate.groups.dn, estate.groups.name, strict=True):
            yield (
                dn,
                [("objectClass", "group"), ("sAMAccountName", name), ("groupType", "-2147483646")],
            )
        filler = [(f"unknownAttribute{n}", "x" * 30) for n in range(14)]
        for number, (dn, name) in enumerate(
            zip(estate.accounts.dn, estate.accounts.name, strict=True)
        ):
            inside = [("memberOf", group_dn[g]) for g in groups_of.of(number)]
            yield (
                dn,
                [
                    ("objectClass", "user"),
                    ("sAMAccountName", name),
                    ("userAccountControl", "512"),
                    *filler,
                    *inside,
                ],
            )

    return b"".join(write(records()))


def seconds(act: Callable[[], object], runs: int = 3) -> float:
    """The best of some runs."""
    times = []
    for _ in range(runs):
        begun = time.perf_counter()
        act()
        times.append(time.perf_counter() - begun)
    return min(times)


def _refused(data: bytes) -> None:
    try:
        load_dump(io.BytesIO(data))
    except (LdifError, DumpError):
        return


def _plain(data: bytes) -> None:
    for _dn, _entry in ldif3.LDIFParser(io.BytesIO(data), strict=False).parse():
        pass


def reading() -> None:
    data = dump_of(100_000)
    print(f"\nLDIF dump of 100,000 accounts, {len(data) / MB:.0f} MB")
    whole = seconds(lambda: load_dump(io.BytesIO(data)))
    print(
        f"  {'read into an estate':<58}{whole * 1000:>12,.0f} ms  {len(data) / MB / whole:.0f} MB/s"
    )
    small = data[: data.rfind(b"\n\n", 0, 10 * MB) + 2]
    ours = seconds(
        lambda: sum(
            1 for _ in read(io.BytesIO(small), {"objectclass", "memberof", "samaccountname"})
        )
    )
    estate = seconds(lambda: _refused(small))
    theirs = seconds(lambda: _plain(small), runs=1)
    print(
        "  "
        f"{'10 MB of it: entries; an estate; a plain LDIF parser':<58}{ours * 1000:>12,.0f} "
        f"ms  {estate * 1000:,.0f} ms; {theirs * 1000:,.0f} ms"
    )
    print("  time per byte of one line, by its length:")
    for name, line in (
        ("no end", lambda n: b"dn: DC=x\ndescription: " + b"x" * n),
        (
            "folded",
            lambda n: b"dn: DC=x\ndescription: " + b"\n ".join([b"x" * 76] * (n // 78)) + b"\n\n",
        ),
        ("base64", lambda n: b"dn: DC=x\ndisplayName:: " + b"QUJD" * (n // 4) + b"\n\n"),
        ("comment", lambda n: b"# " + b"x" * n + b"\ndn: DC=x\n\n"),
        (
            "gPLink",
            lambda n: (
                b"dn: DC=x\nobjectClass: organizationalUnit\ngPLink: "
                + b"[LDAP://" * (n // 8)
                + b"\n\n"
            ),
        ),
    ):
        sizes = (1, 10, 200) if name != "gPLink" else (0.16, 1)
        costs = [seconds(partial(_refused, line(int(size * MB))), runs=1) / size for size in sizes]
        told = ", ".join(
            f"{cost:,.1f} ns at {size} MB"
            for size, cost in zip(sizes, (c * 1000 for c in costs), strict=True)
        )
        print(f"    {name:<10} {told}")


if __name__ == "__main__":
    reading()
