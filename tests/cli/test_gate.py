"""The gate's commands: what they refuse, and the program that a directory server runs."""

from __future__ import annotations

import json
import socket
import subprocess
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from command import Command
from hornfels.gate import hook


@pytest.fixture
def token(tmp_path: Path) -> Path:
    file = tmp_path / "token"
    file.write_text("hfg_x\n")
    file.chmod(0o600)
    return file


def test_a_gate_that_cannot_be_trusted_or_placed_does_not_start(
    command: Command, tmp_path: Path, token: Path
) -> None:
    place = tmp_path / "gate.sock"
    taken = socket.socket(socket.AF_UNIX)
    taken.bind(str(place))
    taken.listen()
    loose, empty = tmp_path / "loose", tmp_path / "empty"
    loose.write_text("hfg_x")
    loose.chmod(0o644)
    empty.touch(0o600)
    safe = "https://hornfels.example"
    for address, file, said in (
        ("http://hornfels.example", token, "others could read the token along"),
        ("hornfels.example", token, "give the address of Hornfels"),
        (safe, tmp_path / "none", "cannot be read"),
        (safe, loose, "others can read the token"),
        (safe, empty, "it is empty"),
        (safe, token, "another gate answers there"),
    ):
        given = ("--from", address, "--token-file", file, "--socket", place)
        done = command("gate", "serve", *given, HORNFELS_HOME=str(tmp_path))
        assert done.returncode == 2
        assert said in done.stderr
    taken.close()


def asked(place: Path, otherwise: str, candidate: bytes = b"Umbra-742") -> int:
    """The hook's exit status."""
    return subprocess.run(
        ["/usr/bin/python3", "-I", "-S", str(Path(hook.__file__)), str(place), otherwise],
        input=candidate,
        env={"SAMBA_CPS_ACCOUNT_NAME": "mara", "SAMBA_CPS_USER_PRINCIPAL_NAME": "m.hale@sky"},
        check=False,
        stderr=subprocess.DEVNULL,
    ).returncode


@contextmanager
def answering(place: Path, answer: bytes) -> Iterator[list[bytes]]:
    """Something that says this to whatever is asked."""
    heard: list[bytes] = []
    with socket.socket(socket.AF_UNIX) as listener:
        listener.bind(str(place))
        listener.listen()

        def serve() -> None:
            link, _ = listener.accept()
            with link:
                heard.append(link.makefile("rb").readline())
                link.sendall(answer)

        thread = threading.Thread(target=serve, daemon=True)
        thread.start()
        yield heard
        thread.join(timeout=10)


@pytest.mark.parametrize(
    ("answer", "otherwise", "status"),
    [
        (b'{"accepted": true}\n', "refuse", 0),
        (b'{"accepted": false}\n', "accept", 1),
        (b'{"error": "No rules are known yet."}\n', "refuse", 1),
        (b'{"error": "No rules are known yet."}\n', "accept", 0),
        (b'{"accepted": "yes"}\n', "refuse", 1),
        (b"no JSON\n", "accept", 0),
        (b"", "refuse", 1),
    ],
)
def test_the_hook_takes_a_clear_answer_and_else_does_as_was_chosen(
    tmp_path: Path, answer: bytes, otherwise: str, status: int
) -> None:
    place = tmp_path / "gate.sock"
    candidate = "Ümbra\n742".encode() + b"\xff"
    with answering(place, answer) as heard:
        assert asked(place, otherwise, candidate) == status
    question = json.loads(heard[0])
    assert question["candidate"] == "Ümbra\n742\N{REPLACEMENT CHARACTER}"
    assert (question["account"], question["names"]) == ("mara", ["m.hale"])
    clear = answer in (b'{"accepted": true}\n', b'{"accepted": false}\n')
    assert Path(f"{place}.unanswered").exists() is not clear


def test_without_a_gate_the_hook_leaves_word_and_never_the_candidate(tmp_path: Path) -> None:
    place = tmp_path / "gate.sock"
    assert asked(place, "refuse") == 1
    assert asked(place, "accept") == 0
    assert asked(place, "whatever") == 1
    left = Path(f"{place}.unanswered")
    assert left.stat().st_mode & 0o077 == 0
    words = [json.loads(line) for line in left.read_text().splitlines()]
    assert [(w["account"], w["outcome"]) for w in words] == [
        ("mara", "turned away"),
        ("mara", "let through"),
    ]
    assert "Umbra" not in left.read_text()
    assert [*tmp_path.iterdir()] == [left]
