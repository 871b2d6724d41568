"""LDIF as tools print it (RFC 2849): what is read, and where broken files are said to be broken."""

from __future__ import annotations

import base64
import io
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.formats import ldif
from hornfels.formats.dump import load_dump
from hornfels.formats.ldif import LdifError, read, write

WANTED = {"cn", "member", "displayname"}


def entries(text: bytes) -> list[tuple[str, int, dict[str, list[bytes]]]]:
    return [(r.dn, r.line, r.values) for r in read(io.BytesIO(text), WANTED)]


values = st.one_of(
    st.text(st.characters(exclude_characters="\0", exclude_categories=["Cs"])),
    st.binary(max_size=200),
)
names = st.text(alphabet="abc é,\\", min_size=1, max_size=90).map(lambda t: "CN=" + t)


@given(
    st.lists(
        st.tuples(
            names,
            st.lists(st.tuples(st.sampled_from(["cn", "member", "ignored"]), values), max_size=4),
        ),
        max_size=5,
    ),
    st.booleans(),
)
def test_what_is_written_is_read_again(
    records: list[tuple[str, list[tuple[str, str | bytes]]]], crlf: bool
) -> None:
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
    text = (
        b"version: 1\r\n\r\n# a\r\n  comment\r\ndn: CN=a\r\ncn: on\r\n e\r\n\r\n\r\ndn: "
        b"CN=b\r\ncn: two\r\n"
    )
    whole = entries(text)
    before = ldif.BLOCK
    ldif.BLOCK = size
    try:
        assert (
            entries(text)
            == whole
            == [("CN=a", 3, {"cn": [b"one"]}), ("CN=b", 10, {"cn": [b"two"]})]
        )
    finally:
        ldif.BLOCK = before


@pytest.mark.parametrize(
    "text",
    [
        b"dn: CN=x\ncn: Long\n er\n",
        b"version: 1\ndn: CN=x\ncn: Longer\n",
        b"\xef\xbb\xbfversion: 1\n\ndn: CN=x\ncn: Longer",
        (
            b"# extended LDIF\n# filter: (a=\n b)\n\ndn: CN=x\n# stands\n  between\ncn: "
            b"Longer\n\n# search result\nsearch: 2\nresult: 0 Success\n\n# numEntries: 1\n"
        ),
        b"dn:: " + base64.b64encode(b"CN=x") + b"\nCN:: " + base64.b64encode(b"Longer") + b"\n",
        b"dn: CN=x\nchangetype: add\ncn:Longer\nphoto:< file:///x.jpg\n",
        (
            b"\n\n\ndn: CN=x\nunknown;lang-en: y\ncn;lang-en: z\ncn;binary: Longer\n\n# "
            b"refldap://x\nref: ldap://other/\n\n"
        ),
        (
            b"dn: CN=x\ncn: Longer\n\nsearch: 2\nresult: 0 Success\ncontrol: 1.2 false "
            b"AA==\npagedresults: cookie=AA==\n"
        ),
    ],
)
def test_ways_to_write_one_entry(text: bytes) -> None:
    assert [(dn, held) for dn, _, held in entries(text)] == [("CN=x", {"cn": [b"Longer"]})]


def test_ranges_are_parts_of_one_list() -> None:
    text = (
        b"dn: CN=g\nmember;range=0-1: CN=a\nmember;range=0-1: CN=b\n\ndn: "
        b"CN=g\nMember;Range=2-*: CN=c\n"
    )
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
        (
            (
                b"dn: CN=x\n\n# Old\nDEL:3f2504e0-4f89-11d3-9a0c-0305e82c3301, Deleted "
                b"Objects\ndn: CN=y\n"
            ),
            4,
            "ldapsearch -LLL",
        ),
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


class Trickle:
    """A file that gives a few bytes at a time."""

    def __init__(self, data: bytes, sizes: list[int]) -> None:
        self._source, self._sizes, self._turn = io.BytesIO(data), sizes, 0

    def read(self, size: int) -> bytes:
        self._turn += 1
        return self._source.read(min(size, self._sizes[self._turn % len(self._sizes)]))


@given(
    st.lists(
        st.sampled_from(
            [
                b"dn: DC=x\n",
                b"cn: a\n",
                b"cn:: YQ==\n",
                b" more\n",
                b"\n",
                b"# said\n",
                b"\r\n",
                b"dn: DC=y\r\n",
                b"cn: b\r\n",
            ]
        ),
        max_size=14,
    ),
    st.lists(st.integers(1, 9), min_size=1, max_size=5),
)
def test_how_a_file_comes_in_makes_no_difference(pieces: list[bytes], sizes: list[int]) -> None:
    data = b"version: 1\n" + b"".join(pieces)

    def told(source: Any) -> Any:
        try:
            return [(record.dn, record.line, record.values) for record in read(source, {"cn"})]
        except LdifError as error:
            return str(error)

    assert told(Trickle(data, sizes)) == told(io.BytesIO(data))


@pytest.mark.parametrize(
    ("entry", "words"),
    [
        (
            b"cn: a\ndisplayName: " + b"x" * 2000,
            "line 3: a name of 2,000 characters, where at most 1,024 are taken",
        ),
        (
            b"cn: a\ndisplayName:: " + b"QUJD" * 400_000,
            "line 3: a value of displayname is longer than 1 MB",
        ),
        (
            b"cn: a\nmember: CN=" + b"x" * 9000,
            "line 3: a name of 9,003 characters, where at most 8,192 are taken",
        ),
        (b"cn: a\npwdLastSet: " + b"9" * 6000, "line 3: '99999"),
        (b"cn: a\npwdLastSet: 1_000", "line 3: '1_000' is not a whole number"),
        (b"cn: a\nobjectSid: S-1-5-21-99999999999", "line 3: this is not a security identifier"),
        (b"cn: a\nobjectSid: S-1-5-21-4294967296", "line 3: this is not a security identifier"),
    ],
)
def test_what_is_longer_than_any_directory_holds_is_refused_by_line(
    entry: bytes, words: str
) -> None:
    with pytest.raises(LdifError) as refused:
        load_dump(
            io.BytesIO(
                b"dn: CN=a,DC=x\nobjectClass: user\n".replace(b"\nobjectClass: user", b"")
                + entry
                + b"\nobjectClass: user\n"
            )
        )
    assert words in str(refused.value)


def test_a_link_list_that_never_ends_is_read_in_one_go() -> None:
    """Twenty thousand beginnings without an end, which a pattern that looks ahead would take
    minutes for.
    """
    domain = b"dn: DC=x\nobjectClass: domainDNS\nobjectSid: S-1-5-21-1-2-3\ngPLink: "
    good = b"[LDAP://CN={A},DC=x;2]"
    dump = load_dump(io.BytesIO(domain + good + b"[LDAP://" * 20_000 + b"[ldap://CN={B},DC=x;0]\n"))
    assert [(link.gpo, link.order, link.enforced) for link in dump.estate.domain.gpo_links] == [
        ("CN={B},DC=x", 1, False),
        ("CN={A},DC=x", 2, True),
    ]
