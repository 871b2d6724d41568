"""Accounts held against corpora by the NT hashes of their passwords, which come as a file on this
machine and are forgotten as soon as they are compared.
"""

from __future__ import annotations

import hashlib
import os
import resource
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from weakref import WeakKeyDictionary, WeakSet

import numpy as np
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.exposure.known import KINDS, Kind, Known, still_known
from hornfels.core.exposure.watching import Hashes, on_lists, watch
from hornfels.core.values.time import moment_from_datetime
from hornfels.formats.account_hashes import HashesError, read_account_hashes
from hornfels.formats.corpus.layout import CorpusError
from hornfels.formats.corpus.reading import Corpus
from hornfels.formats.corpus.shelf import Parts
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.service.corpora import corpora
from hornfels.service.reading import BY_ITSELF
from hornfels.service.snapshots import Snapshot, Snapshots
from hornfels.settings import Settings
from hornfels.store import exposure, jobs
from hornfels.store.exposure import Exposure
from hornfels.store.models import DomainRow, ExposureRunRow

ENDING = ".hashes"
AGAIN = timedelta(days=1)
"""After which accounts are compared once more, though nothing is new."""
TRY_AGAIN = timedelta(hours=1)

Told = Callable[[str, int, int], None]


def hash_folder(where: Settings) -> Path:
    """Where files with hashes are put."""
    return where.hashes or where.home / "hashes"


def hash_file(dns_name: str, where: Settings) -> Path:
    """Where a domain's hashes come from."""
    return hash_folder(where) / f"{dns_name}{ENDING}"


def comparable(parts: Parts) -> dict[str, list[Corpus]]:
    """The corpora that accounts can be compared with, by their names: NT hashes of passwords as
    they are. Raises `ConflictError` where one of them cannot be read.
    """
    found: dict[str, list[Corpus]] = {}
    for name, files in parts.items():
        for part in files:
            if part.corpus is None:
                raise ConflictError(f"The corpus {part.file} cannot be read: {part.problem}.")
            if part.corpus.kind == "nt" and not part.corpus.layout.folded:
                found.setdefault(name, []).append(part.corpus)
    return found


def _stamp(file: Path, lists: Mapping[str, Sequence[Corpus]]) -> dict[str, Any]:
    """By which it is told whether there is anything new to compare."""
    told = file.stat()
    return {
        "file": [told.st_ino, told.st_size, told.st_mtime_ns],
        "lists": {name: [part.identity for part in parts] for name, parts in lists.items()},
    }


def begin_due(session: Session, now: datetime, where: Settings) -> None:
    """Begin to compare in the domains where a file or a corpus is new, or a day has passed."""
    if not hash_folder(where).is_dir():
        return
    for dns_name, domain_id in session.execute(select(DomainRow.dns_name, DomainRow.id)):
        file = hash_file(dns_name, where)
        if not os.path.lexists(file):
            continue
        last = jobs.last_of(session, ("exposure",), dns_name)
        if last and last.state in jobs.ACTIVE:
            continue
        key = _key_of(file)
        if (
            last
            and last.state == "failed"
            and last.key == key
            and now - last.changed_at < TRY_AGAIN
        ):
            continue
        newest = next(iter(exposure.runs(session, domain_id, 1)), None)
        if newest and now - newest.at < AGAIN and newest.stamp == _known_stamp(file):
            continue
        jobs.start(session, "exposure", BY_ITSELF, domain=dns_name, key=key)


def _known_stamp(file: Path) -> dict[str, Any] | None:
    try:
        return _stamp(file, comparable(corpora().parts()))
    except (ConflictError, OSError):
        return None


def _key_of(file: Path) -> str:
    """Which file, and which corpora: a job that failed is not tried again at once for the same."""
    told = file.lstat()
    seen = [told.st_ino, told.st_size, told.st_mtime_ns, told.st_mode]
    held = [
        (part.file, part.corpus.identity if part.corpus else part.problem)
        for parts in corpora().parts().values()
        for part in parts
    ]
    return hashlib.sha256(repr((seen, sorted(held))).encode()).hexdigest()


@dataclass(frozen=True, slots=True)
class Looked:
    """What came of comparing: accounts that were compared, names in the file that nobody has here,
    and how many accounts are exposed in one way or another.
    """

    compared: int
    unknown: int
    exposed: int


def look(engine: Engine, dns_name: str, where: Settings, now: datetime, told: Told) -> Looked:
    """Compare a domain's accounts with every corpus, or only with what is new of them where the
    file is the one that was compared last. Raises `HashesError` and `ConflictError`.
    """
    current = Snapshots(engine).of(dns_name)
    if current is None:
        raise NotFoundError(f"There is no domain '{dns_name[:200]}' here.")
    file = hash_file(dns_name, where)
    lists = comparable(corpora().parts())
    for parts in lists.values():
        for part in parts:
            _verify(part, told)
    try:
        stamp = _stamp(file, lists)
    except OSError as error:
        raise HashesError(f"{file}: {error.strerror or error}.") from None
    with Session(engine) as session:
        last = next(iter(exposure.runs(session, current.domain_id, 1)), None)
    new = _only_new(last, stamp, lists)
    written = moment_from_datetime(datetime.fromtimestamp(stamp["file"][2] / 1e9, UTC))
    with _hashes(file, current.estate, written) as (hashes, unknown):
        if new is None:
            found = _everything(current, hashes, lists, now, told)
        else:
            by_list = on_lists(hashes, {n: [p.counts for p in ps] for n, ps in new.items()})
            found = list(_listed(current.estate, by_list, now))
        compared = len(hashes.rows)
    with Session(engine) as session, session.begin():
        exposure.keep(session, current.domain_id, found, whole=new is None)
        held = exposure.of_domain(session, current.domain_id)
        counts = _present(current.estate, held).counts()
        exposure.add_run(
            session,
            current.domain_id,
            now,
            whole=new is None,
            compared=compared,
            unknown=unknown,
            found=counts,
            stamp=stamp,
        )
        session.get_one(DomainRow, current.domain_id).exposure_told = ""
    return Looked(compared, unknown, counts["exposed"])


_verified: WeakSet[Corpus] = WeakSet()


def _verify(part: Corpus, told: Told) -> None:
    """Every checksum once for a file as it lies there: what compares does not look at them."""
    if part not in _verified:
        try:
            part.verify(lambda done, whole: told("verifying", done, whole))
        except CorpusError as error:
            raise ConflictError(f"{error}.") from None
        _verified.add(part)


def _only_new(
    last: ExposureRunRow | None, stamp: Mapping[str, Any], lists: Mapping[str, Sequence[Corpus]]
) -> dict[str, list[Corpus]] | None:
    """What was added to the lists since the last run, where that compared the same file with all
    the rest; None if everything has to be compared.
    """
    if last is None or last.stamp["file"] != stamp["file"] or last.stamp == stamp:
        return None
    known: Mapping[str, Sequence[str]] = last.stamp["lists"]
    gone = (set(parts) - set(stamp["lists"].get(name, ())) for name, parts in known.items())
    if any(gone):
        return None
    new = {
        name: [part for part in parts if part.identity not in known.get(name, ())]
        for name, parts in lists.items()
    }
    return {name: parts for name, parts in new.items() if parts}


@contextmanager
def _hashes(file: Path, estate: Estate, written: int) -> Iterator[tuple[Hashes, int]]:
    """The hashes of the accounts that are here and have the same password still as when the file
    was written, and how many others there are; wiped afterwards, and never written into the remains
    of a process that breaks down.
    """
    resource.setrlimit(resource.RLIMIT_CORE, (0, resource.getrlimit(resource.RLIMIT_CORE)[1]))
    try:
        names, digests = read_account_hashes(file)
    except OSError as error:
        raise HashesError(f"{file}: {error.strerror or error}.") from None
    try:
        found = estate.accounts.name.first_rows(names)
        numbers = np.flatnonzero(found >= 0)
        rows = found[numbers]
        # A password that was set since is not the one whose hash this is.
        still = estate.accounts.password_set[rows] <= written
        hashes = Hashes(rows[still], digests[numbers[still]])
        try:
            yield hashes, len(names) - len(numbers)
        finally:
            hashes.digests.fill(0)
    finally:
        digests.fill(0)


def _everything(
    current: Snapshot,
    hashes: Hashes,
    lists: Mapping[str, Sequence[Corpus]],
    now: datetime,
    told: Told,
) -> list[Exposure]:
    estate = current.estate
    counts_of = {name: [part.counts for part in parts] for name, parts in lists.items()}
    found = watch(
        estate,
        hashes,
        counts_of,
        current.house_terms,
        now.year,
        lambda done, whole: told("comparing", done, whole),
    )
    exposures = list(_listed(estate, found.lists, now))
    kinds: tuple[tuple[Kind, Int64], ...] = (
        ("blank", found.blank),
        ("own name", found.own_name),
        ("house term", found.house),
    )
    for kind, rows in kinds:
        exposures += _exposures(estate, rows, kind, now)
    for group, rows in enumerate(found.shared, 1):
        exposures += _exposures(estate, rows, "shared", now, group=group)
    return exposures


def _listed(estate: Estate, lists: Mapping[str, Int64], now: datetime) -> Iterator[Exposure]:
    for name, rows in lists.items():
        yield from _exposures(estate, rows, "list", now, name=name)


def _exposures(
    estate: Estate, rows: Int64, kind: Kind, now: datetime, *, name: str = "", group: int = 0
) -> Iterator[Exposure]:
    accounts = estate.accounts
    for row in rows.tolist():
        yield Exposure(
            int(accounts.rid[row]), kind, name, group, now, int(accounts.password_set[row])
        )


_known: WeakKeyDictionary[Snapshot, tuple[int, Known]] = WeakKeyDictionary()


def known(session: Session, current: Snapshot) -> Known:
    """What is known of the passwords that accounts have. Kept for as long as the domain is as it
    was read and nothing was compared since.
    """
    last = next(iter(exposure.runs(session, current.domain_id, 1)), None)
    number = last.id if last else 0
    kept = _known.get(current.live)
    if kept is None or kept[0] != number:
        kept = number, _present(current.live.estate, exposure.of_domain(session, current.domain_id))
        _known[current.live] = kept
    return kept[1]


def _present(estate: Estate, held: Sequence[Exposure]) -> Known:
    def column(values: Iterable[int]) -> Int64:
        return np.fromiter(values, np.int64, len(held))

    numbers = {kind: number for number, kind in enumerate(KINDS)}
    return still_known(
        estate.accounts,
        column(one.rid for one in held),
        column(one.set_at for one in held),
        column(numbers[one.kind] for one in held).astype(np.int8),
        [one.list for one in held],
        column(one.group for one in held),
        column(moment_from_datetime(one.since) for one in held),
    )


def failed(session: Session, dns_name: str, error: str) -> None:
    """Say what was wrong until it goes well."""
    for row in session.scalars(select(DomainRow).where(DomainRow.dns_name == dns_name)):
        row.exposure_told = error
