"""A connection to a directory server on which somebody is bound."""

from __future__ import annotations

import contextlib
import socket
import struct
import time
from collections.abc import Callable, Iterator, Sequence
from typing import Any, Literal

from hornfels.directory.reach import DirectoryError, Reach, Server, UnreachableError
from hornfels.directory.tls import connected
from hornfels.directory.told import NO_SUCH_OBJECT, told
from hornfels.formats.descriptor import LIST_ALONE, RULES_CONTROL

Values = dict[str, list[bytes]]
Found = tuple[str, Values]
"""An entry: its DN, and its values by lower-cased attribute name."""
Scope = Literal["base", "one", "sub"]
Asked = str | tuple[str, bytes]
"""A control by its number, with its value where it has one."""

PAGE = 1000
_SEALED = 128
"""Bits of the key by which Kerberos has to encrypt a connection that TLS does not."""
SHOW_DELETED = "1.2.840.113556.1.4.417"
RULES = (RULES_CONTROL, LIST_ALONE)
"""Has access rules told and taken without owner, group and what is recorded."""
_TICK = 0.5
"""Seconds after which whoever waits for an answer looks whether it is still wanted."""


def _idle() -> None:
    pass


class Link:
    """Made by `linked`. ``server`` is the one that answered; ``tick`` is called while an answer is
    waited for, and may raise to give up.
    """

    def __init__(self, server: Server, library: Any, wire: socket.socket, patience: float) -> None:
        self.server = server
        self.tick: Callable[[], None] = _idle
        self.most_values: int | None = None
        """Ask for so many values of a list at a time, where the server does not cut them itself."""
        self._library, self._wire, self._patience = library, wire, patience
        self._spellings: dict[str, str] = {}

    def __enter__(self) -> Link:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        import ldap

        with contextlib.suppress(ldap.LDAPError, OSError):
            self._library.unbind_ext_s()
        self.cut()

    def cut(self) -> None:
        """End the connection, also while somebody waits on it."""
        with contextlib.suppress(OSError):
            self._wire.shutdown(socket.SHUT_RDWR)
        self._wire.close()

    def root(self, attributes: Sequence[str]) -> Values:
        """What the server says of itself (RFC 4512, section 5.1)."""
        return self.entry("", attributes)

    def entry(
        self, dn: str, attributes: Sequence[str], *, controls: Sequence[Asked] = ()
    ) -> Values:
        """One entry by its DN. Raises `DirectoryError` if it is not there or not to be seen."""
        for _, values in self.search(
            dn, "base", "(objectClass=*)", attributes, controls=controls, paged=False
        ):
            return values
        raise DirectoryError(f"{self.server}: nothing is to be seen at {dn}.", NO_SUCH_OBJECT)

    def there(
        self,
        dn: str,
        attributes: Sequence[str] = ("1.1",),
        *,
        controls: Sequence[Asked] = (),
    ) -> Values | None:
        """One entry by its DN, None if it is not there."""
        try:
            return self.entry(dn, attributes, controls=controls)
        except DirectoryError as error:
            if error.code != NO_SUCH_OBJECT:
                raise
            return None

    def search(
        self,
        base: str,
        scope: Scope,
        where: str,
        attributes: Sequence[str],
        *,
        controls: Sequence[Asked] = (),
        paged: bool = True,
    ) -> Iterator[Found]:
        """Entries page by page (RFC 2696), long lists whole. Referrals are passed over."""
        import ldap
        from ldap.controls import SimplePagedResultsControl

        pages = SimplePagedResultsControl(True, size=PAGE, cookie="")
        asked = _controls(controls)
        scopes = {"base": ldap.SCOPE_BASE, "one": ldap.SCOPE_ONELEVEL, "sub": ldap.SCOPE_SUBTREE}
        what = f"reading {base or 'the server itself'}"
        wanted = [self._ranged(a) for a in attributes]
        while True:
            try:
                number = self._library.search_ext(
                    base,
                    scopes[scope],
                    where,
                    wanted,
                    serverctrls=[*asked, pages] if paged else asked or None,
                )
                entries, answered = self._answer(number, what)
            except ldap.LDAPError as error:
                raise told(error, str(self.server), what) from None
            for dn, values in entries:
                if dn is not None:
                    yield dn, self._whole(dn, values, controls)
            cookies = [c.cookie for c in answered if c.controlType == pages.controlType]
            if not paged or not cookies or not cookies[0]:
                return
            pages.cookie = cookies[0]

    def do(self, what: str, call: Callable[[Any], Any]) -> Any:
        """Let the library do something in one step; `what` says it in an error."""
        import ldap

        try:
            return call(self._library)
        except ldap.LDAPError as error:
            raise told(error, str(self.server), what) from None

    def _answer(self, number: int, what: str) -> tuple[list[Any], list[Any]]:
        import ldap

        until = time.monotonic() + self._patience
        while True:
            try:
                _, entries, _, controls = self._library.result3(number, 1, _TICK)
            except ldap.TIMEOUT:
                self.tick()
                if time.monotonic() > until:
                    raise UnreachableError(
                        f"{self.server}: it did not answer within {self._patience:.0f} s while "
                        f"{what}."
                    ) from None
                continue
            self.tick()
            return entries, controls

    def _ranged(self, attribute: str) -> str:
        if self.most_values and attribute == "member":
            return f"member;range=0-{self.most_values - 1}"
        return attribute

    def _whole(self, dn: str, values: dict[str, list[bytes]], controls: Sequence[Asked]) -> Values:
        """The values with the rest of lists that the server has cut ([MS-ADTS] 3.1.1.3.1.3.3)."""
        found: Values = {}
        spellings = self._spellings
        for spelt, held in values.items():
            plain = spellings.get(spelt)
            if plain is None and ";" not in spelt:
                plain = spellings[spelt] = spelt.lower()
            if plain is not None:
                # A list that comes in parts stands there empty too.
                if held or plain not in found:
                    found[plain] = held
                continue
            name, _, options = spelt.lower().partition(";")
            if not options.startswith("range="):
                continue
            whole = list(held)
            while not options.endswith("*"):
                step = self.most_values
                upto = "*" if step is None else str(len(whole) + step - 1)
                ranged = f"{name};range={len(whole)}-{upto}"
                rest = self._rest(dn, ranged, controls)
                if rest is None:
                    break
                options, more = rest
                if not options.startswith(f"range={len(whole)}-"):
                    raise DirectoryError(
                        f"{self.server}: it gives other parts of {name} of {dn} than were asked "
                        "for. Read from another server."
                    )
                whole += more
            found[name] = whole
        return found

    def _rest(
        self, dn: str, ranged: str, controls: Sequence[Asked]
    ) -> tuple[str, list[bytes]] | None:
        import ldap

        asked = _controls(controls)
        what = f"reading the rest of a list of {dn}"
        try:
            number = self._library.search_ext(
                dn, ldap.SCOPE_BASE, "(objectClass=*)", [ranged], serverctrls=asked or None
            )
            entries, _ = self._answer(number, what)
        except ldap.LDAPError as error:
            raise told(error, str(self.server), what) from None
        for found, values in entries:
            if found is None:
                continue
            for spelt, held in values.items():
                options = spelt.partition(";")[2]
                if options.lower().startswith("range=") and held:
                    return options.lower(), held
        return None


def _controls(asked: Sequence[Asked]) -> list[Any]:
    from ldap.controls import RequestControl

    pairs = ((one, None) if isinstance(one, str) else one for one in asked)
    return [RequestControl(oid, True, value) for oid, value in pairs]


def linked(reach: Reach, tick: Callable[[], None] = _idle) -> Link:
    """A connection to the first server that answers, bound, with its `tick`. Raises the last
    `DirectoryError`; an account that is refused is not tried elsewhere, where it would count again.
    """
    if not reach.servers:
        raise DirectoryError("No directory server is named. Name one.")
    last: UnreachableError | None = None
    for server in reach.servers:
        tick()
        try:
            link = bound(server, reach)
        except UnreachableError as error:
            last = error
        else:
            link.tick = tick
            return link
    assert last is not None  # noqa: S101 - there was a server, and it did not answer
    raise last


def bound(server: Server, reach: Reach) -> Link:
    """A connection to this server, bound."""
    link = opened(server, reach)
    try:
        bind(link, reach)
    except BaseException:
        link.cut()
        raise
    return link


def opened(server: Server, reach: Reach) -> Link:
    """A connection to this server on which nobody is bound yet."""
    try:
        import ldap
    except ImportError:
        raise DirectoryError(
            "This installation cannot speak to directories: install hornfels[directory]."
        ) from None
    wire = connected(server, reach)
    # Of a message that stays half, the library would wait for the rest without end.
    wire.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, struct.pack("ll", 0, int(1e6 * _TICK)))
    # The library closes what it is given; the other handle is for ending the connection.
    handle = wire.dup()
    library = ldap.initialize(f"ldap://{server.host}", fileno=wire.detach())
    library.protocol_version = 3
    library.set_option(ldap.OPT_REFERRALS, 0)
    library.set_option(ldap.OPT_NETWORK_TIMEOUT, reach.patience)
    library.set_option(ldap.OPT_TIMEOUT, reach.patience)
    library.set_option(ldap.OPT_X_SASL_NOCANON, 1)
    return Link(server, library, handle, reach.patience)


def bind(link: Link, reach: Reach) -> None:
    """Sign in: by name and password, or by a ticket, with which Kerberos encrypts what follows
    (RFC 4752).
    """
    if reach.bind == "gssapi":
        if reach.security != "none":
            # The library waits for the server without letting go of what our TLS runs by.
            raise DirectoryError("With a ticket Kerberos itself encrypts: leave TLS out.")
        import ldap.sasl

        def by_ticket(library: Any) -> None:
            library.set_option(ldap.OPT_X_SASL_SSF_MIN, _SEALED)
            library.sasl_interactive_bind_s("", ldap.sasl.gssapi(""))

        link.do("signing in with a ticket", by_ticket)
        return
    if not reach.secret:
        # Without a password a server takes anybody for nobody in particular (RFC 4513, 5.1.2).
        raise DirectoryError("There is no password for the account that is to bind.")
    link.do("signing in", lambda library: library.simple_bind_s(reach.name, reach.secret))
