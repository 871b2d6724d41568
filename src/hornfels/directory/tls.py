"""A connection to a directory server that nobody reads along on. TLS is spoken here and not by the
client library, which waits for ever for a server that keeps silent while it is agreed on; the
library gets the plain end of it.
"""

from __future__ import annotations

import contextlib
import hashlib
import hmac
import selectors
import socket
import ssl
import threading

from hornfels.directory.reach import PORTS, DirectoryError, Reach, Server, UnreachableError

_START_TLS = "1.3.6.1.4.1.1466.20037"
_BLOCK = 1 << 16


def connected(server: Server, reach: Reach) -> socket.socket:
    """A plain socket to a server: in clear if that is meant, else one whose other end is encrypted
    by a thread of its own. Shut it down to end both.
    """
    raw = _reached(server, reach)
    if reach.security == "none":
        raw.settimeout(None)
        return raw
    try:
        if reach.security == "starttls":
            _start_tls(raw, server)
        secured = _secured(raw, server, reach)
    except BaseException:
        raw.close()
        raise
    inner, outer = socket.socketpair()
    threading.Thread(target=_carry, args=(outer, secured), daemon=True).start()
    return inner


def _reached(server: Server, reach: Reach) -> socket.socket:
    port = server.port or PORTS[reach.security]
    try:
        return socket.create_connection((server.address or server.host, port), reach.patience)
    except socket.gaierror:
        raise UnreachableError(
            f"{server.host}: no address is known for this name. Check the name, or the name "
            "servers of this machine."
        ) from None
    except TimeoutError:
        raise UnreachableError(
            f"{server.host}: nobody answers at port {port} within {reach.patience:.0f} s."
        ) from None
    except OSError as error:
        raise UnreachableError(
            f"{server.host}: port {port} cannot be reached ({error.strerror or error})."
        ) from None


def _secured(raw: socket.socket, server: Server, reach: Reach) -> ssl.SSLSocket:
    try:
        context = ssl.create_default_context(cadata=reach.authorities or None)
    except ssl.SSLError:
        raise DirectoryError(
            "The certificates to trust cannot be read; paste them as PEM."
        ) from None
    # Servers often have certificates of an authority of their own, which browsers would not take
    # for reasons that do not matter here.
    context.verify_flags &= ~ssl.VERIFY_X509_STRICT
    if reach.pinned:
        context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
    try:
        secured = context.wrap_socket(raw, server_hostname=server.host)
    except ssl.SSLCertVerificationError as error:
        raise DirectoryError(_mistrusted(server, error)) from None
    except TimeoutError:
        raise UnreachableError(
            f"{server.host}: it does not agree on TLS within {reach.patience:.0f} s."
        ) from None
    except (ssl.SSLError, OSError):
        raise UnreachableError(
            f"{server.host}: it speaks no TLS there. For port 389 choose StartTLS."
        ) from None
    held = secured.getpeercert(binary_form=True) or b""
    if reach.pinned and not hmac.compare_digest(hashlib.sha256(held).digest(), reach.pinned):
        secured.close()
        shown = hashlib.sha256(held).hexdigest()
        raise DirectoryError(
            f"{server.host}: its certificate is not the pinned one; it has SHA-256 {shown}. If it "
            "was renewed, pin that one."
        )
    return secured


def _mistrusted(server: Server, error: ssl.SSLCertVerificationError) -> str:
    said = error.verify_message
    match error.verify_code:
        case 10:
            return f"{server.host}: its certificate has expired. Have it renewed."
        case 9:
            return f"{server.host}: its certificate is not valid yet. Compare the clocks."
        case 62 | 64:
            return (
                f"{server.host}: its certificate is for another name ({said}). Connect by the "
                "name that stands in it."
            )
        case 18 | 19 | 20 | 21:
            return (
                f"{server.host}: nobody who is trusted has issued its certificate ({said}). Add "
                "the certificate of its authority, or pin this one."
            )
        case _:
            return f"{server.host}: its certificate is not trusted ({said})."


def _start_tls(raw: socket.socket, server: Server) -> None:
    """Ask for TLS on a connection in clear (RFC 4511, section 4.14)."""
    from pyasn1.codec.ber import decoder, encoder
    from pyasn1.error import PyAsn1Error
    from pyasn1_modules import rfc2251

    asked = rfc2251.LDAPMessage()
    asked["messageID"] = 1
    asked["protocolOp"]["extendedReq"]["requestName"] = _START_TLS
    answer = b""
    try:
        raw.sendall(encoder.encode(asked))
        while len(answer) < 2 or len(answer) < 2 + answer[1]:
            piece = raw.recv(_BLOCK)
            if not piece:
                break
            answer += piece
        found, _ = decoder.decode(answer, asn1Spec=rfc2251.LDAPMessage())
        code = int(found["protocolOp"]["extendedResp"]["resultCode"])
    except TimeoutError:
        raise UnreachableError(f"{server.host}: it does not answer to StartTLS.") from None
    except (OSError, PyAsn1Error, IndexError):
        raise UnreachableError(f"{server.host}: no directory server answers there.") from None
    if code:
        raise DirectoryError(
            f"{server.host}: it refuses StartTLS (code {code}). Give it a certificate, or use "
            "LDAPS.",
            code,
        )


def _carry(plain: socket.socket, secured: ssl.SSLSocket) -> None:
    """Carry on what comes in at one end to the other until either closes; then close both."""
    with (
        plain,
        secured,
        selectors.DefaultSelector() as ready,
        contextlib.suppress(OSError, ssl.SSLError),
    ):
        ready.register(plain, selectors.EVENT_READ)
        ready.register(secured, selectors.EVENT_READ)
        while True:
            for key, _ in ready.select():
                if key.fileobj is plain:
                    data = plain.recv(_BLOCK)
                    if not data:
                        return
                    secured.settimeout(None)
                    secured.sendall(data)
                elif not _carried_in(plain, secured):
                    return


def _carried_in(plain: socket.socket, secured: ssl.SSLSocket) -> bool:
    """Carry on all that has come in encrypted; false where it has ended."""
    secured.settimeout(0)
    while True:
        try:
            data = secured.recv(_BLOCK)
        except ssl.SSLWantReadError:
            return True
        if not data:
            return False
        plain.sendall(data)
