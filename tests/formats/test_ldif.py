"""LDIF as tools print it (RFC 2849): what is read, and where broken files are said to be broken."""

from __future__ import annotations

import base64
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.formats import ldif
from hornfels.formats.ldif import LdifError, read, write

WANTED = {"cn", "member", "displayname"}


def entries(text: bytes) -> list[tuple[str, int, dict[str, list[bytes]]]]:
    return [(r.dn, r.line, r.values) for r in read(io.BytesIO(text), WANTED)]


values = st.one_of(st.text(st.characters(exclude_characters="\0", exclude_categories=["Cs"])), st.binary(max_size=200))
names = st.text(alphabet="abc é,\\", min_size=1, max_size=90).map(lambda t: "CN=" + t)


@given(
    st.lists(st.tuples(names, st.lists(st.tuples(st.sampled_from(["cn", "member", "ignored"]), values), max_size=4)), max_size=5),
    st.booleans(),
)
def test_what_is_written_is_read_again(records: list[tuple[str, list[tuple[str, str | bytes]]]], crlf: bool) -> None:
    data = b"".join(write(records))
    assert all(len(line) <= 76 for line in data.split(b"\n"))
    if crlf:
        data = data.replace(b"\n", b"\r\n")
    found = entries(data)
    assert [dn for dn, _, _ in found] == [dn for dn, _ in records]
    for (_, _, held), (_, pairs) in zip(found, records, strict=True):
        for attribute in ("cn", "member"):
            wanted = [v.encode() if isinstance(v, str) else v for a, v in pairs if a == attribute]
            assert held.get(attribute, []) == wanted


@given(st.integers(1, 40))
def test_the_size_of_the_blocks_read_does_not_matter(size: int) -> None:
    text = b"version: 1\r\n\r\n# a\r\n  comment\r\ndn: CN=a\r\ncn: on\r\n e\r\n\r\n\r\ndn: CN=b\r\ncn: two\r\n"
    whole = entries(text)
    before = ldif.BLOCK
    ldif.BLOCK = size
    try:
        assert entries(text) == whole == [("CN=a", 3, {"cn": [b"one"]}), ("CN=b", 10, {"cn": [b"two"]})]
    finally:
        ldif.BLOCK = before


@pytest.mark.parametrize(
    "text",
    [
        b"dn: CN=x\ncn: Long\n er\n",
        b"version: 1\ndn: CN=x\ncn: Longer\n",
        b"\xef\xbb\xbfversion: 1\n\ndn: CN=x\ncn: Longer",
        b"# extended LDIF\n# filter: (a=\n b)\n\ndn: CN=x\n# stands\n  between\ncn: Longer\n\n# search result\nsearch: 2\nresult: 0 Success\n\n# numEntries: 1\n",
        b"dn:: " + base64.b64encode(b"CN=x") + b"\nCN:: " + base64.b64encode(b"Longer") + b"\n",
        b"dn: CN=x\nchangetype: add\ncn:Longer\nphoto:< file:///x.jpg\n",
        b"\n\n\ndn: CN=x\nunknown;lang-en: y\ncn;lang-en: z\ncn;binary: Longer\n\n# refldap://x\nref: ldap://other/\n\n",
        b"dn: CN=x\ncn: Longer\n\nsearch: 2\nresult: 0 Success\ncontrol: 1.2 false AA==\npagedresults: cookie=AA==\n",
    ],
)
def test_ways_to_write_one_entry(text: bytes) -> None:
    assert [(dn, held) for dn, _, held in entries(text)] == [("CN=x", {"cn": [b"Longer"]})]


def test_ranges_are_parts_of_one_list() -> None:
    text = b"dn: CN=g\nmember;range=0-1: CN=a\nmember;range=0-1: CN=b\n\ndn: CN=g\nMember;Range=2-*: CN=c\n"
    assert [held["member"] for _, _, held in entries(text)] == [[b"CN=a", b"CN=b"], [b"CN=c"]]


@pytest.mark.parametrize(
    ("text", "line", "reason"),
    [
        (b"dn: CN=x\nno colon here\n", 2, "no ':'"),
        (b"dn: CN=x\ncn: a\n\n\ncn: b\n", 5, "begins with 'cn' instead of 'dn'"),
        (b"dn: CN=x\ncn: fol\n ded\ncn:: %%%\n", 4, "not base64"),
        (b"dn: CN=x\ncn:< file:///etc/x\n", 2, "another file"),
        (b" dn: CN=x\n", 1, "continuation line"),
        (b"version: 2\n\ndn: CN=x\n", 1, "version '2' is unknown"),
        (b"dn: CN=x\nchangetype: modify\nreplace: cn\ncn: y\n-\n", 2, "change record"),
        (b"dn: CN=x\ncn: a\ndn: CN=y\ncn: b\n", 3, "second 'dn'"),
        (b"dn: CN=x\n\nsearch: 2\nresult: 4 Size limit exceeded\n", 4, "entries are missing"),
        (b"dn:: /w==\ncn: a\n", 1, "neither UTF-8"),
        (b"\x7fELF\x01\x02: x\n", 1, "is not an attribute name"),
        (b"dn: CN=x\nbad attribute: y\n", 2, "is not an attribute name"),
        (b"dn: CN=x\n\n# Old\nDEL:3f2504e0-4f89-11d3-9a0c-0305e82c3301, Deleted Objects\ndn: CN=y\n", 4, "ldapsearch -LLL"),
    ],
)
def test_broken_files_name_the_line_and_the_reason(text: bytes, line: int, reason: str) -> None:
    with pytest.raises(LdifError) as caught:
        entries(text)
    assert caught.value.line == line
    assert reason in caught.value.reason


@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused_with_a_line(data: bytes) -> None:
    try:
        entries(data)
    except LdifError as error:
        assert 1 <= error.line <= data.count(b"\n") + 1
