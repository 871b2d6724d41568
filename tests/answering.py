"""A directory server that gives the answers it is told to, for what the real one here never does:
lists in parts of 1,500 values, limits, referrals, values beyond all measure. Messages are those of
RFC 4511, in pyasn1's own encoding.
"""

from __future__ import annotations

import contextlib
import socket
import threading
from collections.abc import Callable, Iterator, Sequence
from typing import Any

from pyasn1.codec.ber import decoder, encoder
from pyasn1.error import SubstrateUnderrunError
from pyasn1_modules import rfc2251

from hornfels.directory.reach import Reach, Server

Entry = tuple[str, dict[str, Sequence[bytes]]]
Search = tuple[str, list[str]]
"""A search's base and the attributes it asks for."""
Answers = Callable[[Search], tuple[list[Entry], int]]
"""The entries to a search, and its result code."""

REFERRAL = "ldap://dc9.sky.tarnholt.example/DC=sky,DC=tarnholt,DC=example"
_SUCCESS, _REFERRED = 0, 10
_BEGINNING = 6
"""Bytes of an answer: as many as say how long it is."""


@contextlib.contextmanager
def answering(answers: Answers, *, refer: bool = False, half: bool = False) -> Iterator[Reach]:
    """How the server is reached, which gives these answers to everybody who signs in. With `refer`
    it names another server beside every answer; with `half` it stops in the beginning of the
    second answer to a search.
    """
    with socket.create_server(("127.0.0.1", 0)) as listening:
        thread = threading.Thread(
            target=_serve, args=(listening, answers, refer, half), daemon=True
        )
        thread.start()
        server = Server("localhost", listening.getsockname()[1], "127.0.0.1")
        yield Reach((server,), "none", name="reader", secret="secret", patience=10.0)
        listening.shutdown(socket.SHUT_RDWR)
    thread.join(10)


def _serve(listening: socket.socket, answers: Answers, refer: bool, half: bool) -> None:
    while True:
        try:
            connection, _ = listening.accept()
        except OSError:
            return
        with connection, contextlib.suppress(OSError):
            for message in _messages(connection):
                answered = _answered(message, answers, refer)
                if half and message["protocolOp"].getName() == "searchRequest":
                    connection.sendall(next(answered) + next(answered)[:_BEGINNING])
                    continue
                for answer in answered:
                    connection.sendall(answer)


def _messages(connection: socket.socket) -> Iterator[Any]:
    held = b""
    while True:
        try:
            message, held = decoder.decode(held, asn1Spec=rfc2251.LDAPMessage())
            yield message
        except (SubstrateUnderrunError, IndexError):
            more = connection.recv(65536)
            if not more:
                return
            held += more


def _answered(message: Any, answers: Answers, refer: bool) -> Iterator[bytes]:
    number, operation = message["messageID"], message["protocolOp"]
    kind = operation.getName()
    if kind == "bindRequest":
        yield _message(number, "bindResponse", rfc2251.BindResponse(), _SUCCESS)
    elif kind == "searchRequest":
        asked = operation["searchRequest"]
        search = str(asked["baseObject"]), [str(one) for one in asked["attributes"]]
        entries, code = answers(search)
        for dn, values in entries:
            yield _entry(number, dn, values)
        if refer:
            found = rfc2251.SearchResultReference()
            found[0] = REFERRAL
            yield _wrapped(number, "searchResRef", found)
        yield _message(number, "searchResDone", rfc2251.SearchResultDone(), code)


def _entry(number: Any, dn: str, values: dict[str, Sequence[bytes]]) -> bytes:
    entry = rfc2251.SearchResultEntry()
    entry["objectName"] = dn.encode()
    listed = rfc2251.PartialAttributeList()
    for place, (name, held) in enumerate(values.items()):
        one = listed.componentType.clone()
        one["type"] = name.encode()
        for at, value in enumerate(held):
            one["vals"][at] = value
        listed[place] = one
    entry["attributes"] = listed
    return _wrapped(number, "searchResEntry", entry)


def _message(number: Any, kind: str, result: Any, code: int) -> bytes:
    result["resultCode"] = code
    result["matchedDN"] = b""
    result["errorMessage"] = b""
    if code == _REFERRED:
        result["referral"][0] = REFERRAL
    return _wrapped(number, kind, result)


def _wrapped(number: Any, kind: str, content: Any) -> bytes:
    message = rfc2251.LDAPMessage()
    message["messageID"] = number
    message["protocolOp"][kind] = content
    return bytes(encoder.encode(message))
