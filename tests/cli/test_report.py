"""Reports and tables of accounts by script, from a dump and from what Hornfels keeps."""

from __future__ import annotations

import csv
import io
from pathlib import Path

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from command import Command
from hornfels.formats.dump import Dump
from hornfels.store.cluster import Cluster
from hornfels.store.estates import save_dump
from hornfels.store.models import EntryRow


def test_the_report_of_a_dump(command: Command, dump: Path, tmp_path: Path) -> None:
    page = tmp_path / "report.html"
    done = command("report", dump, "--baseline", "privileged", "-o", page)
    assert (done.returncode, done.stdout, done.stderr) == (0, "", "")
    text = page.read_text()
    for words in (
        "Read from tarnholt.ldif.",
        "Privileged accounts, strict",
        "Keyholders",
        "</html>",
    ):
        assert words in text
    assert "Changes" not in text, "a dump has no history"
    printed = command("report", dump)
    assert printed.stdout.startswith("<!doctype html>")


def test_the_report_of_a_domain_that_is_kept(
    command: Command, cluster: Cluster, engine: Engine, demo: Dump, tmp_path: Path
) -> None:
    with Session(engine) as session, session.begin():
        save_dump(session, demo, "tarnholt.ldif", "ann")
    here = {"HORNFELS_DATABASE_URL": cluster.url}
    name = ("--domain", "sky.tarnholt.example")
    done = command("report", *name, "--since", "2020-01-01", **here)
    assert (done.returncode, done.stderr) == (0, "")
    assert "Changes since 1 Jan 2020" in done.stdout
    assert "by ann" in done.stdout
    with Session(engine) as session:
        last = session.scalars(select(EntryRow).order_by(EntryRow.id.desc()).limit(1)).one()
        kept = (last.what, last.about, last.domain)
        assert kept == ("exported", "a report", "sky.tarnholt.example")
    own = tmp_path / "own.yaml"
    own.write_text("baseline: 2\n")
    for wrong, told in (
        (("--publish", "1"), "Nothing was published"),
        (("--publish", "99"), "no such point"),
        (("--baseline", "none"), "there is no baseline none"),
        (("--baseline", own), "line 1, column 11"),
        (("-o", tmp_path), "Is a directory"),
    ):
        done = command("report", *name, *wrong, **here)
        assert (done.returncode, done.stdout, told in done.stderr) == (2, "", True), done.stderr
    assert "no domain x.example" in command("report", "--domain", "x.example", **here).stderr


def test_what_does_not_go_together_is_refused(command: Command, dump: Path) -> None:
    for wrong in ([], [dump, "--domain", "x"], [dump, "--since", "2020-01-01"]):
        assert command("report", *wrong).returncode == 2
    assert command("resolve", dump, "--csv", "--json").returncode == 2


def test_accounts_as_a_table(command: Command, dump: Path) -> None:
    done = command("resolve", dump, "--csv", "--account", "kiosk-north", "--account", "ilse.varga")
    rows = {
        row["Account"]: row for row in csv.DictReader(io.StringIO(done.stdout.lstrip("\ufeff")))
    }
    assert rows["kiosk-north"]["Policy"] == "Kiosk floor"
    assert rows["kiosk-north"]["Why"] == "linked to the account"
    assert rows["ilse.varga"]["Policy"] == "Night operators"
    everybody = command("resolve", dump, "--csv").stdout
    assert len(list(csv.reader(io.StringIO(everybody)))) == 1185
