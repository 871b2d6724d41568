"""Invented people for the demo. Any likeness to real names in real directories is chance."""

from __future__ import annotations

import random
from collections.abc import Iterator
from typing import NamedTuple

from hornfels.core.values.dn import fold

_GIVEN = [
    "Ilse",
    "Tarek",
    "Maren",
    "Odile",
    "Jorun",
    "Bram",
    "Liv",
    "Anselm",
    "Petra",
    "Kofi",
    "Noor",
    "Sunniva",
    "Caspar",
    "Imke",
    "Rafi",
    "Thea",
    "Yara",
    "Viggo",
    "Oona",
    "Emeka",
    "Linnea",
    "Joost",
    "Zoë",
    "Dario",
    "Halvor",
    "Mirela",
    "Sota",
    "Ingrid",
    "Wanja",
    "Elif",
    "Torvald",
    "Runa",
    "Basile",
    "Aiko",
    "Lennart",
    "Nneka",
    "Ewa",
    "Malte",
    "Solveig",
    "Pavel",
    "Britta",
    "Idris",
    "Henrike",
    "Ugo",
    "Katla",
    "Mateus",
    "Ylva",
    "Arvo",
    "Delphine",
    "Børge",
    "Saskia",
    "Tomas",
    "Amal",
    "Fenja",
    "Ruben",
    "Cleo",
    "Gudrun",
    "Iwan",
    "Marit",
    "Otis",
]
_FAMILY = [
    "Varga",
    "Okonjo",
    "Quillon",
    "Tarnvik",
    "Steinholt",
    "Brekkeland",
    "Marrow",
    "Oduya",
    "Fennimoor",
    "Aldersund",
    "Korvath",
    "Lindqvale",
    "Moorhen",
    "Pellworm",
    "Rastavik",
    "Sundermoor",
    "Tavelli",
    "Umbrasson",
    "Vestergo",
    "Wyndale",
    "Yarrowby",
    "Zellmark",
    "Ashgrove",
    "Birkelund",
    "Corvane",
    "Dunmarsh",
    "Eskerud",
    "Falkenrath",
    "Glimmerdal",
    "Hollowick",
    "Isveit",
    "Jarnefelt-Roe",
    "Kestrelmann",
    "Lochwater",
    "Myrdal-Oss",
    "Northam",
    "Ostrander",
    "Pinewell",
    "Quarrie",
    "Ravnsborg",
    "Silvertarn",
    "Thornevik",
    "Ulvang",
    "Vinterholm",
    "Westmarck",
    "Ystgaard",
    "Zandvoort",
    "Amberlind",
    "Bergsvale",
    "Cinderford",
    "Dovrefell",
    "Elmsworth",
    "Fjelltopp",
    "Greyling",
    "Hawkmoor",
    "Ironside",
    "Juniperus",
    "Kaldvik",
    "Larkhill",
    "Mistral",
    "Nightingale-Ek",
    "Orrery",
    "Polaris",
    "Reefholm",
    "Skagen-Dahl",
    "Tindvale",
    "Umberto-Ness",
    "Vallhund",
    "Windermoor",
    "Årvik",
]


class Person(NamedTuple):
    account: str
    given: str
    family: str

    @property
    def display_name(self) -> str:
        return f"{self.given} {self.family}"


def people(rng: random.Random) -> Iterator[Person]:
    """Endless people, no two with the same account name. The first two are fixed, for the tour."""
    taken: set[str] = set()
    pairs = [(g, f) for g in _GIVEN for f in _FAMILY]
    rng.shuffle(pairs)
    for given, family in [("Ilse", "Varga"), ("Tarek", "Okonjo"), *pairs]:
        plain = _ascii(f"{given}.{family}").lower()[:20].rstrip(".-")
        if plain not in taken:
            taken.add(plain)
            yield Person(plain, given, family)


def _ascii(text: str) -> str:
    table = str.maketrans({"ë": "e", "ø": "o", "Ø": "O", "å": "a", "Å": "A"})
    plain = text.translate(table)
    return plain if fold(plain).isascii() else plain.encode("ascii", "ignore").decode()
