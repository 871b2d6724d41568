"""The commands that read a dump: what each command answers, and what each command refuses."""

from __future__ import annotations

import gzip
import json
import subprocess
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from importlib import metadata
from pathlib import Path

import pytest

from command import COMMAND, ILSE_CHANGES, ILSE_RESETS, Command, run
from hornfels.formats.ldif import write


def test_resolve_says_one_object_a_line(command: Command, dump: Path) -> None:
    done = command("resolve", dump, "--json")
    rows = {r["account"]: r for r in map(json.loads, done.stdout.splitlines())}
    assert (done.returncode, len(rows)) == (0, 1184)
    assert set(rows["ilse.varga"]) == {
        "account",
        "dn",
        "resultant_pso",
        "source",
        "via",
        "settings",
    }
    night = rows["ilse.varga"]
    assert night["resultant_pso"].startswith("CN=Night operators,")
    assert (night["source"], night["via"].split(",")[0]) == ("group", "CN=GS-Night-Operators")
    assert night["settings"] == {
        "min_length": 14,
        "complexity": True,
        "history_length": 24,
        "reversible_encryption": False,
        "min_age": 86400,
        "max_age": 5184000,
        "lockout_threshold": 5,
        "lockout_window": 1800,
        "lockout_duration": 1800,
    }
    assert rows["kiosk-north"]["source"] == "account"
    assert rows["kiosk-north"]["settings"]["max_age"] is None
    assert (rows["krbtgt"]["source"], rows["krbtgt"]["resultant_pso"]) == ("exempt", None)
    assert rows["tarek.okonjo"]["source"] == "domain"


def test_resolve_some_accounts_and_any_linked_group(command: Command, dump: Path) -> None:
    one = command("resolve", dump, "--account", "KRBTGT", "--account", "ilse.varga")
    assert [line.split()[0] for line in one.stdout.splitlines()] == [
        "account",
        "krbtgt",
        "ilse.varga",
    ]
    anywhere = command("resolve", dump, "--json", "--linked-groups", "any")
    assert (
        sum(
            "CN=Phrase pilot" in (json.loads(line)["resultant_pso"] or "")
            for line in anywhere.stdout.splitlines()
        )
        == 20
    )


def test_try_says_which_rule_refuses(command: Command, dump: Path) -> None:
    done = command(
        "try",
        dump,
        *ILSE_CHANGES,
        "--now",
        "2026-03-02T09:00:00Z",
        "--json",
        stdin="Perigee-2031\nvarga-Perigee-2031\nPerigee-Transit-31\n",
    )
    first, second, third = map(json.loads, done.stdout.splitlines())
    assert [first["accepted"], second["accepted"], third["accepted"]] == [False, False, True]
    assert {r["rule"]: r["passed"] for r in first["rules"]} == {
        "length": False,
        "complexity": True,
        "own_name": True,
        "history": None,
        "minimum_age": True,
    }
    assert "2 more characters" in first["rules"][0]["detail"]


def test_try_with_earlier_passwords_and_json_input(
    command: Command, dump: Path, tmp_path: Path
) -> None:
    earlier = tmp_path / "earlier"
    earlier.write_text('"Perigee-Transit-31"\n"Line\\u2028break-2031"\n', encoding="utf-8")
    done = command(
        "try",
        dump,
        *ILSE_CHANGES,
        "--previous",
        earlier,
        "--last-set",
        "2026-03-01T12:00:00+01:00",
        "--now",
        "2026-03-02T09:00:00Z",
        "--json",
        "--json-input",
        stdin='"Line\\u2028break-2031"\n"Line break-2031"\n',
    )
    known, fresh = (
        {r["rule"]: r["passed"] for r in json.loads(line)["rules"]}
        for line in done.stdout.splitlines()
    )
    assert (known["history"], fresh["history"], fresh["minimum_age"]) == (False, True, False)


def test_readable_without_json(command: Command, dump: Path) -> None:
    done = command("try", dump, "--account", "kiosk-north", "--operation", "reset", stdin="1234\n")
    assert "Kiosk floor" in done.stdout
    assert "✕ length" in done.stdout
    assert "1234" not in done.stdout


def test_try_answers_each_line_as_soon_as_it_is_there(dump: Path) -> None:
    ask = [COMMAND, "try", str(dump), *ILSE_RESETS, "--json"]
    with subprocess.Popen(ask, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdin
        assert process.stdout
        for candidate, accepted in (("short", False), ("Perigee-Transit-31", True)):
            process.stdin.write(f"{candidate}\n")
            process.stdin.flush()
            assert json.loads(process.stdout.readline())["accepted"] is accepted
        process.stdin.close()


def test_try_takes_a_long_stream_and_counts_its_lines(command: Command, dump: Path) -> None:
    ask = ("try", dump, *ILSE_RESETS, "--json")
    lines = b"".join(b"Perigee-%d\n" % n for n in range(30_000))
    assert len(command(*ask, stdin=lines + b"no line end").stdout.splitlines()) == 30_001
    broken = command(*ask, stdin=lines + b"broken \xff\nafter\n")
    assert (broken.returncode, len(broken.stdout.splitlines())) == (2, 30_000)
    assert "standard input, line 30001: not UTF-8 text" in broken.stderr
    endless = command(*ask, stdin=b"fine\n" + b"x" * 3_000_000)
    assert (endless.returncode, len(endless.stdout.splitlines())) == (2, 1)
    assert "line 2: longer than 1,048,576 bytes" in endless.stderr


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["resolve", "absent.ldif"], ["absent.ldif", "No such file"]),
        (["resolve", "DUMP", "--account", "nobody"], ["nobody", "sAMAccountName"]),
        (["resolve", "DUMP", "--linked-groups", "some"], ["--linked-groups"]),
        (
            ["try", "DUMP", "--account", "krbtgt", "--operation", "reset", "--now", "tomorrow"],
            ["--now", "ISO 8601"],
        ),
        (["try", "DUMP", "--account", "krbtgt", "--operation", "guess"], ["--operation"]),
        (
            ["try", "DUMP", "--account", "krbtgt", "--operation", "reset", "--json-input"],
            ["line 1", "JSON string"],
        ),
        (["nonsense"], ["nonsense"]),
    ],
)
def test_bad_usage_ends_with_2_and_one_clear_line(
    command: Command, dump: Path, arguments: list[str], words: list[str]
) -> None:
    done = command(*[dump if a == "DUMP" else a for a in arguments], stdin="canary-Z9\n")
    assert done.returncode == 2
    assert "Traceback" not in done.stderr
    assert "canary" not in done.stderr + done.stdout
    for word in words:
        assert word in done.stderr


def test_a_broken_file_is_named_with_its_line(command: Command, tmp_path: Path) -> None:
    file = tmp_path / "broken.ldif"
    file.write_text("dn: DC=x\nobjectClass: domainDNS\nminPwdLength seven\n")
    done = command("resolve", file)
    assert done.returncode == 2
    assert "broken.ldif: line 3: no ':'" in done.stderr


@pytest.mark.thorough
def test_control_characters_of_a_file_never_reach_the_terminal(
    command: Command, tmp_path: Path, demo_ldif: bytes
) -> None:
    evil = "\x1b]0 owned\x07\x9b31m\u202eabc\u2028"
    person = [("objectClass", "user"), ("sAMAccountName", f"p{evil}"), ("displayName", evil)]
    file = tmp_path / "evil.ldif"
    file.write_bytes(
        demo_ldif
        + b"".join(
            write([(f"CN={evil},CN=Users,DC=sky,DC=tarnholt,DC=example", person)])
        ).partition(b"\n")[2]
    )
    broken = tmp_path / "broken.ldif"
    broken.write_bytes(f"dn: CN=x\n{evil} and no colon\n".encode())
    runs = [
        command("resolve", file),
        command("resolve", file, "--json"),
        command("resolve", broken),
        command("resolve", file, "--account", evil),
        command("try", file, "--account", f"p{evil}", "--operation", "reset", stdin="x\n"),
        command(
            "try", file, "--account", f"p{evil}", "--operation", "reset", "--json", stdin="x\n"
        ),
    ]
    assert [done.returncode for done in runs] == [0, 0, 2, 2, 0, 0]
    for done in runs:
        said = done.stdout + done.stderr
        assert all(line.isprintable() for line in said.split("\n"))
    assert json.loads(runs[1].stdout.splitlines()[-1])["account"] == f"p{evil}"


@pytest.mark.parametrize(
    "pack", [gzip.compress, lambda data: data.decode().encode("utf-16")], ids=["gzip", "UTF-16"]
)
def test_a_packed_dump_is_read_as_it_is(
    command: Command, pack: Callable[[bytes], bytes], dump: Path, demo_ldif: bytes, tmp_path: Path
) -> None:
    file = tmp_path / "packed.ldif"
    file.write_bytes(pack(demo_ldif))
    assert command("resolve", file, "--json").stdout == command("resolve", dump, "--json").stdout


def test_the_version_is_said() -> None:
    said = run("--version")
    assert (said.returncode, said.stdout) == (0, f"hornfels {metadata.version('hornfels')}\n")


def drill(
    command: Command, dump: Path, *events: object, account: str = "ilse.varga"
) -> list[object]:
    lines = "\n".join(map(json.dumps, events))
    done = command("drill", dump, "--account", account, "--json", stdin=lines)
    assert done.returncode == 0, done.stderr
    return [json.loads(line) for line in done.stdout.splitlines()]


def test_drill_answers_each_event_under_the_policy_of_the_account(
    command: Command, dump: Path
) -> None:
    events = [{"at": n * 0.1, "event": "bad"} for n in range(5)]
    events += [
        {"at": 1800.3999999, "event": "good"},
        {"at": 1800.4, "event": "good"},
        {"at": 1800.4, "event": "bad"},
        {"at": 1800.4, "event": "old"},
        {"at": 1801, "event": "unlock"},
    ]
    refused = [{"outcome": "refused", "bad_count": n, "locked": n == 5} for n in range(1, 6)]
    assert drill(command, dump, *events) == [
        *refused,
        {"outcome": "locked", "bad_count": 5, "locked": True},
        {"outcome": "accepted", "bad_count": 0, "locked": False},
        {"outcome": "refused", "bad_count": 1, "locked": False},
        {"outcome": "refused", "bad_count": 1, "locked": False},
        {"outcome": "unlocked", "bad_count": 0, "locked": False},
    ]
    assert drill(command, dump) == []


def test_drill_says_it_in_words_too(command: Command, dump: Path) -> None:
    done = command("drill", dump, "--account", "ilse.varga", stdin='{"at": 60, "event": "bad"}\n\n')
    policy, line = done.stdout.splitlines()
    assert policy.startswith("ilse.varga: 5 bad tries, each within 30 min")
    assert line.split() == ["1", "min", "bad", *["Wrong", "name", "or", "password.", "(1", "bad)"]]


@pytest.mark.parametrize(
    ("line", "problem"),
    [
        ("bad", "not an event"),
        ("[" * 100_000, "not an event"),
        ('{"at": NaN, "event": "bad"}', "not an event"),
        ('{"event": "bad"}', '"at" has to be'),
        ('{"at": true, "event": "bad"}', '"at" has to be'),
        ('{"at": 1e999, "event": "bad"}', '"at" has to be'),
        ('{"at": 9, "event": "worse"}', '"event" has to be'),
        ('{"at": 9, "event": ["bad"]}', '"event" has to be'),
        ('{"at": 0.5, "event": "bad"}', "before the event above it"),
    ],
)
def test_drill_names_the_line_that_cannot_be_read(
    command: Command, dump: Path, line: str, problem: str
) -> None:
    given = f'{{"at": 1, "event": "bad"}}\n{line}\n'
    done = command("drill", dump, "--account", "ilse.varga", "--json", stdin=given)
    assert (done.returncode, done.stdout.count("\n")) == (2, 1), "what stood before is answered"
    assert done.stderr.startswith("hornfels: standard input, line 2: ")
    assert problem in done.stderr


def test_forecast_counts_every_person_once(command: Command, dump: Path) -> None:
    moment = "2026-03-01T18:00:00+00:00"
    done = command("forecast", dump, "--days", 40, "--from", moment, "--json")
    *days, rest = map(json.loads, done.stdout.splitlines())
    assert (done.returncode, len(days)) == (0, 40)
    assert (days[0]["day"], days[-1]["day"]) == ("2026-03-01", "2026-04-09")
    expected = _forecast(command, dump, moment, 40)
    assert [day["expire"] for day in days] == expected[:40]
    assert [rest[key] for key in ("already", "never", "must_change", "later")] == expected[40:]
    assert min(expected[41:]) > 0
    wrong = command("forecast", dump, "--days", 3, "--from", "soon")
    assert (wrong.returncode, "not an ISO 8601" in wrong.stderr) == (2, True)


def _forecast(command: Command, dump: Path, moment: str, days: int) -> list[int]:
    """Count account by account what `resolve` and the dump say."""
    resolved = map(json.loads, command("resolve", dump, "--json").stdout.splitlines())
    ages = {row["account"]: row["settings"]["max_age"] for row in resolved}
    at = datetime.fromisoformat(moment)
    counts = [0] * (days + 4)
    for record in dump.read_text().split("\n\n"):
        fields = dict(line.split(": ", 1) for line in record.split("\n") if ": " in line)
        control = int(fields.get("userAccountControl", 0))
        if fields.get("sAMAccountName") not in ages or control & (0x2 | 0x800 | 0x1000 | 0x2000):
            continue
        set_at, age = int(fields.get("pwdLastSet", 0)), ages[fields["sAMAccountName"]]
        if control & (0x10000 | 0x40000):
            place = days + 1
        elif set_at <= 0:
            place = days + 2
        elif age is None:
            place = days + 1
        else:
            ends = datetime(1601, 1, 1, tzinfo=UTC) + timedelta(microseconds=set_at // 10)
            ends += timedelta(seconds=age)
            place = days if ends <= at else min((ends.date() - at.date()).days, days + 3)
            if place >= days and ends > at:
                place = days + 3
        counts[place] += 1
    return counts
