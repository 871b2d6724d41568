#!/usr/bin/python3 -IS
"""Asks the gate about one password, for a directory server that runs a program for that.

    hook.py SOCKET refuse|accept

The candidate comes on standard input, the account in ``SAMBA_CPS_ACCOUNT_NAME``, its display name
and sign-in name in variables beside it. The exit status is the answer: 0 takes the password, 1
refuses it. The second argument says what becomes of one about which no answer comes in time. The
server stands still while this runs: so it loads nothing of Hornfels, and next to nothing else.
"""

import time

BEGAN = time.monotonic()

import _socket  # noqa: E402 - what `socket` adds to it takes as long as all the rest
import json  # noqa: E402
import os  # noqa: E402
import sys  # noqa: E402

PATIENCE = 0.3
"""Seconds, from the first line of this program on."""
MOST = 1 << 16
"""Bytes of a candidate, and of an answer."""


def read_candidate() -> str:
    held = b""
    while len(held) < MOST and (piece := os.read(0, MOST)):
        held += piece
    return held.decode("utf-8", "replace")


def answer(path: str, question: bytes) -> "bool | None":
    """What the gate says; None where it says neither. Raises `OSError` where no answer comes in
    time, and what JSON raises for one that is none.
    """
    link = _socket.socket(_socket.AF_UNIX, _socket.SOCK_STREAM)
    _wait(link)
    link.connect(path)
    _wait(link)
    link.sendall(question)
    held = b""
    while not held.endswith(b"\n") and len(held) < MOST:
        _wait(link)
        piece = link.recv(4096)
        if not piece:
            break
        held += piece
    said = json.loads(held)["accepted"]
    return said if isinstance(said, bool) else None


def _wait(link: "_socket.socket") -> None:
    left = PATIENCE - (time.monotonic() - BEGAN)
    if left <= 0:
        raise TimeoutError
    link.settimeout(left)


def leave_word(path: str, account: str, outcome: str) -> None:
    """For the gate to find when it is back: Hornfels is to know what was not judged."""
    word = json.dumps({"at": time.time(), "account": account, "outcome": outcome})
    try:
        file = os.open(f"{path}.unanswered", os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o600)
        os.write(file, f"{word}\n".encode())
        os.close(file)
    except OSError:
        pass  # the answer matters more


def main(path: str, otherwise: str) -> int:
    account = os.environ.get("SAMBA_CPS_ACCOUNT_NAME", "")
    sign_in = os.environ.get("SAMBA_CPS_USER_PRINCIPAL_NAME", "").partition("@")[0]
    asked = {
        "account": account,
        "candidate": read_candidate(),
        "display_name": os.environ.get("SAMBA_CPS_FULL_NAME", ""),
        "names": [sign_in] if sign_in else [],
        # The server asks in place of its own check of complexity, and only where that is on.
        "complexity_left": True,
        "otherwise": otherwise,
        # By the clock that all programs of a machine share: later than that nobody listens.
        "until": BEGAN + PATIENCE,
    }
    try:
        said = answer(path, json.dumps(asked).encode() + b"\n")
    except (OSError, ValueError, KeyError, TypeError):
        said = None
    if said is None:
        said = otherwise == "accept"
        leave_word(path, account, "let through" if said else "turned away")
    return 0 if said else 1


if __name__ == "__main__":
    if len(sys.argv) != 3 or sys.argv[2] not in ("refuse", "accept"):
        sys.stderr.write("Usage: hook.py SOCKET refuse|accept\n")
        sys.exit(1)
    # A signal or a fault of ours must not take a password by accident.
    sys.exit(main(sys.argv[1], sys.argv[2]))
