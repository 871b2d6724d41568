"""Letters made of texts, which are files that anybody can write: a subject in the first line, then
paragraphs and lists, with placeholders. A sandbox keeps them from doing anything else.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from babel import Locale, UnknownLocaleError
from babel.dates import format_date, format_time
from jinja2 import Environment, PackageLoader, StrictUndefined, Template, TemplateError
from jinja2.sandbox import ImmutableSandboxedEnvironment

from hornfels.core.mailing.due import KINDS, Kind
from hornfels.core.values.text import printable

SHIPPED = Path(__file__).parent
USUAL = "en"
FRAME = "frame"
_SUBJECT = "Subject:"
_TAG = re.compile(r"[a-z]{2,3}(?:-[a-z0-9]{1,8}){0,3}")
_MOST_SUBJECT = 200


class LetterError(ValueError):
    """A text cannot be made into a letter; the message names the file and what is wrong."""


@dataclass(frozen=True, slots=True)
class About:
    """One thing that somebody is written about, with what holds for their next password: so many
    characters, kinds mixed or not, so many passwords remembered, so many days (None: no end).
    ``moment`` is what it is about, ``days`` how many are left until then, and ``ended`` whether it
    is past.
    """

    kind: Kind
    moment: datetime | None = None
    days: int = 0
    min_length: int = 0
    complexity: bool = False
    history: int = 0
    lasts: int | None = None
    ended: bool = False


@dataclass(frozen=True, slots=True)
class Person:
    """Whom is written to: what they are called, and their account in a domain."""

    name: str
    account: str
    domain: str


@dataclass(frozen=True, slots=True)
class Letter:
    """A letter in one language: its subject, its text, and the same as HTML."""

    language: str
    subject: str
    text: str
    html: str


class Texts:
    """The texts of every language, as they are when they are first needed: those that are shipped,
    and before them those in a folder.
    """

    def __init__(self, own: Path | None) -> None:
        self._folders = [folder for folder in (own, SHIPPED) if folder]
        self._read: dict[tuple[str, str], tuple[Path, Template]] = {}

    @cached_property
    def languages(self) -> list[str]:
        """The languages there are texts in, as tags."""
        found = {
            one.name.lower()
            for folder in self._folders
            if folder.is_dir()
            for one in folder.iterdir()
            if one.is_dir() and _TAG.fullmatch(one.name.lower()) and one.name == one.name.lower()
        }
        return sorted(found)

    def language_for(self, preferred: str) -> str:
        """The language of those there are that somebody gets who prefers one, by its tag."""
        tag = preferred.strip().lower().replace("_", "-").partition(",")[0].partition(";")[0]
        there = self.languages
        while tag:
            if _TAG.fullmatch(tag) and tag in there:
                return tag
            tag = tag.rpartition("-")[0]
        return USUAL

    def letter(
        self, person: Person, about: Sequence[About], language: str, page: str, zone: ZoneInfo
    ) -> Letter:
        """One letter about all of it. Raises `LetterError`."""
        told = [self._part(person, one, language, zone) for one in about]
        several = len(told) > 1
        blocks: list[_Block] = []
        for subject, body in told:
            blocks += [_Block(title=subject)] if several else []
            blocks += _blocks(body)
        # What stands in the frame before and after the parts.
        given = {"name": person.name, "account": person.account, "domain": person.domain}
        frame = {**given, "page": page, "subject": told[0][0], "count": len(told), "parts": _PARTS}
        subject, body = self._rendered(language, FRAME, frame)
        before, _, after = body.partition(_PARTS)
        blocks = [*_blocks(before), *blocks, *_blocks(after)]
        return Letter(language, subject, _text(blocks), _html(language, subject, blocks))

    def _part(self, person: Person, about: About, language: str, zone: ZoneInfo) -> tuple[str, str]:
        at = about.moment.astimezone(zone) if about.moment else None
        locale = _locale(language)
        return self._rendered(
            language,
            about.kind,
            {
                "name": person.name,
                "account": person.account,
                "domain": person.domain,
                "day": format_date(at, "full", locale) if at else "",
                "time": format_time(at, "short", locale=locale) if at else "",
                "days": about.days,
                "ended": about.ended,
                "min_length": about.min_length,
                "complexity": about.complexity,
                "history": about.history,
                "lasts": about.lasts,
            },
        )

    def _rendered(self, language: str, name: str, given: dict[str, Any]) -> tuple[str, str]:
        """The subject and the body of a text."""
        file, template = self._template(language, name)
        try:
            text = template.render({key: _plain(value) for key, value in given.items()})
        except TemplateError as error:
            raise _unusable(file, error) from None
        except Exception as error:
            raise LetterError(f"{file}: {type(error).__name__} while it was filled in.") from None
        subject, _, body = text.strip().partition("\n")
        if not subject.startswith(_SUBJECT):
            raise LetterError(f"{file}: the first line has to be “{_SUBJECT} …”.")
        return subject.removeprefix(_SUBJECT).strip()[:_MOST_SUBJECT], body

    def _template(self, language: str, name: str) -> tuple[Path, Template]:
        held = self._read.get((language, name))
        if held is None:
            file = self._file(language, name)
            try:
                held = file, _SANDBOX.from_string(file.read_text("utf-8"))
            except (OSError, UnicodeDecodeError) as error:
                words = f"{file} cannot be read as text: {type(error).__name__}."
                raise LetterError(words) from None
            except TemplateError as error:
                raise _unusable(file, error) from None
            self._read[language, name] = held
        return held

    def _file(self, language: str, name: str) -> Path:
        for tag in dict.fromkeys((language, USUAL)):
            for folder in self._folders:
                file = folder / tag / f"{name.replace(' ', '-')}.txt"
                if file.is_file():
                    return file
        raise LetterError(f"There is no text “{name}” in {language}.")

    def check(self) -> None:
        """Fill in every text once. Raises `LetterError` for the first that cannot be."""
        zone, now = ZoneInfo("UTC"), datetime.now(ZoneInfo("UTC"))
        for language in self.languages:
            for kind in KINDS:
                about = About(kind, now, 7, 12, True, 24, 90)
                self.letter(Person("Ilse", "ilse", "example.com"), [about], language, "", zone)


def _unusable(file: Path, error: TemplateError) -> LetterError:
    line = getattr(error, "lineno", None)
    return LetterError(f"{file}{f', line {line}' if line else ''}: {error.message}")


_PARTS = "\ue000"
"""Stands in the frame for the parts: no text of anybody's has it, for it is taken out."""
_SANDBOX: Environment = ImmutableSandboxedEnvironment(
    undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True, autoescape=False
)


def _plain(value: Any) -> Any:
    """Names as they can be shown in one line: nobody's name adds lines or headers to a letter."""
    if isinstance(value, str) and value != _PARTS:
        return printable(value).replace(_PARTS, "")
    return value


def _locale(language: str) -> Locale:
    tag = "en-gb" if language == USUAL else language
    try:
        return Locale.parse(tag, sep="-")
    except (UnknownLocaleError, ValueError):
        return Locale.parse("en_GB")


@dataclass(frozen=True, slots=True)
class _Block:
    """A title, a list, or a paragraph."""

    title: str = ""
    items: tuple[str, ...] = ()
    text: str = ""


def _blocks(body: str) -> list[_Block]:
    found = []
    for part in re.split(r"\n\s*\n", body.strip()):
        lines = [line.strip() for line in part.split("\n") if line.strip()]
        if lines and all(line.startswith("- ") for line in lines):
            found.append(_Block(items=tuple(line[2:] for line in lines)))
        elif lines:
            found.append(_Block(text=" ".join(lines)))
    return found


def _text(blocks: Sequence[_Block]) -> str:
    told = []
    for block in blocks:
        if block.title:
            told.append(f"{block.title}\n{'-' * len(block.title)}")
        elif block.items:
            told.append("\n".join(f"- {item}" for item in block.items))
        else:
            told.append(block.text)
    return "\n\n".join(told) + "\n"


@lru_cache(maxsize=1)
def _page() -> Environment:
    return Environment(
        loader=PackageLoader("hornfels.formats", "letters"),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )


def _html(language: str, subject: str, blocks: Sequence[_Block]) -> str:
    page = _page().get_template("letter.html.j2")
    return page.render(language=language, subject=subject, blocks=blocks)
