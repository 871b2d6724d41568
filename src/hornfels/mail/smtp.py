"""Letters handed to a mail server (RFC 5321), over TLS and signed in where it wants that."""

from __future__ import annotations

import contextlib
import re
import smtplib
import ssl
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime
from email.headerregistry import Address
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime
from pathlib import Path
from typing import Literal
from uuid import UUID

Security = Literal["tls", "starttls", "none"]
PORTS: dict[Security, int] = {"tls": 465, "starttls": 587, "none": 25}
PATIENCE = 20.0
"""Seconds to connect, and for each answer."""
_ADDRESS = re.compile(
    r"[A-Za-z0-9.!#$%&'*+/=?^_`{|}~-]{1,64}@(?:[A-Za-z0-9](?:[A-Za-z0-9-]{0,61}[A-Za-z0-9])?\.)+"
    r"[A-Za-z0-9-]{2,63}"
)
_LONGEST_ADDRESS = 254
_LATER = 400, 500
"""Numbers by which a server says that it may be taken another time."""


class MailError(Exception):
    """The server does not take letters at all just now; the message says why and what to do."""


class RefusedAddressError(Exception):
    """The server does not take this letter; ``later`` tells whether it may another time."""

    def __init__(self, message: str, *, later: bool) -> None:
        super().__init__(message)
        self.later = later


@dataclass(frozen=True, slots=True)
class Relay:
    """The server that takes letters, and who they are from. ``name`` and ``secret`` are for signing
    in, "" for not; ``authorities`` is a file of certificates (PEM) in place of the machine's.
    """

    host: str
    port: int
    security: Security
    sender: str
    name: str = ""
    secret: str = field(default="", repr=False)
    authorities: Path | None = None

    def __str__(self) -> str:
        return f"{self.host}:{self.port}"


def is_address(text: str) -> bool:
    """Whether something is one plain address that a letter can be sent to (RFC 5321, 4.1.2)."""
    return len(text) <= _LONGEST_ADDRESS and _ADDRESS.fullmatch(text) is not None


def message(
    relay: Relay, to: str, number: UUID, language: str, subject: str, text: str, html: str = ""
) -> EmailMessage:
    """A letter with its number, by which whoever gets it twice knows it again; its text, and the
    same as HTML if there is that.
    """
    made = EmailMessage(policy=SMTP)
    made["From"] = relay.sender
    made["To"] = Address(addr_spec=to)
    made["Subject"] = subject
    made["Date"] = format_datetime(datetime.now(UTC))
    made["Message-ID"] = f"<{number}@{relay.sender.rpartition('@')[2].rstrip('>')}>"
    # Nobody's absence notice answers it (RFC 3834).
    made["Auto-Submitted"] = "auto-generated"
    made.set_content(text)
    if html:
        made.add_alternative(html, subtype="html")
    made["Content-Language"] = language
    return made


class Mailer:
    """A connection on which letters are handed over, made by `mailing`."""

    def __init__(self, server: smtplib.SMTP) -> None:
        self._server = server

    def hand_over(self, letter: EmailMessage) -> None:
        """Raises `RefusedAddressError` for this letter alone, `MailError` where no other could be
        handed over either.
        """
        try:
            self._server.send_message(letter)
        except smtplib.SMTPRecipientsRefused as error:
            (code, words), *_ = error.recipients.values()
            raise _refused(code, words) from None
        except (smtplib.SMTPDataError, smtplib.SMTPSenderRefused) as error:
            if error.smtp_code == 421:
                raise MailError(f"The mail server ends: {_plain(error.smtp_error)}.") from None
            raise _refused(error.smtp_code, error.smtp_error) from None
        except (smtplib.SMTPException, OSError) as error:
            raise MailError(f"The connection broke ({type(error).__name__}).") from None


@contextlib.contextmanager
def mailing(relay: Relay) -> Iterator[Mailer]:
    """A connection to a mail server. Raises `MailError`."""
    context = ssl.create_default_context(cafile=relay.authorities)
    try:
        server = (
            smtplib.SMTP_SSL(relay.host, relay.port, timeout=PATIENCE, context=context)
            if relay.security == "tls"
            else smtplib.SMTP(relay.host, relay.port, timeout=PATIENCE)
        )
    except ssl.SSLError as error:
        raise MailError(
            f"{relay}: its certificate is not trusted, or it speaks no TLS there "
            f"({error.reason or type(error).__name__}). HORNFELS_SMTP_AUTHORITIES names others."
        ) from None
    except (OSError, smtplib.SMTPException) as error:
        raise MailError(f"{relay} does not answer ({_words(error)}).") from None
    try:
        _greet(server, relay, context)
        yield Mailer(server)
    finally:
        with contextlib.suppress(smtplib.SMTPException, OSError):
            server.quit()
        server.close()


def _greet(server: smtplib.SMTP, relay: Relay, context: ssl.SSLContext) -> None:
    try:
        if relay.security == "starttls":
            server.starttls(context=context)
        if relay.name:
            server.login(relay.name, relay.secret)
    except ssl.SSLError as error:
        raise MailError(f"{relay}: its certificate is not trusted ({error.reason}).") from None
    except smtplib.SMTPAuthenticationError:
        raise MailError(f"{relay} does not take the name or the secret to sign in with.") from None
    except smtplib.SMTPNotSupportedError as error:
        raise MailError(f"{relay} does not offer what is set ({_words(error)}).") from None
    except (OSError, smtplib.SMTPException) as error:
        raise MailError(f"{relay} does not answer ({_words(error)}).") from None


def _refused(code: int, words: bytes | str) -> RefusedAddressError:
    low, high = _LATER
    return RefusedAddressError(f"{code} {_plain(words)}"[:300], later=low <= code < high)


def _plain(words: bytes | str) -> str:
    text = words.decode("utf-8", "replace") if isinstance(words, bytes) else words
    return " ".join("".join(c if c.isprintable() else " " for c in text).split())


def _words(error: Exception) -> str:
    return _plain(str(error))[:200] or type(error).__name__
