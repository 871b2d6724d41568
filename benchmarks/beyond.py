"""Rules beyond the directory's own: verdicts a second beside the directory's rules alone, and a
million blocked terms made ready.
"""

from __future__ import annotations

import json
import subprocess
import sys
import time
from pathlib import Path
from random import Random
from statistics import median

from hornfels.cli.try_candidates import json_lines
from hornfels.core.passwords.additions import Lists, compile_addition, terms_in
from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.judge import compile_policy
from hornfels.core.passwords.rules.rule import Occasion, Rule, Subject
from hornfels.core.passwords.typical import typical
from hornfels.core.policy.addition import (
    Addition,
    Blocked,
    Closeness,
    Edge,
    GroupCount,
    KindCount,
    LengthRange,
    OwnNames,
    Pattern,
    Repeat,
    Run,
    Walk,
    Words,
)
from hornfels.core.policy.model import DEFAULTS

CANDIDATES = 100_000
_PARTS = ("ka", "lo", "mi", "tor", "ven", "qua", "ri", "sel", "dra", "phi", "nok", "bu", "xe")


def made_up(count: int, random: Random) -> list[str]:
    """So many different terms of six to twelve letters."""
    found: dict[str, None] = {}
    while len(found) < count:
        found["".join(random.choices(_PARTS, k=random.randint(3, 7)))] = None
    return list(found)


def beyond() -> None:
    random = Random(7)
    patterns = tuple(
        Pattern(f"(?i){head}{tail}[0-9]{{2,4}}", must=False)
        for head in ("ab", "x[yz]", "no", "(on|in)")
        for tail in ("c", "d.", "[^q]k", "zz", "^")
    )
    addition = Addition(
        password=(
            LengthRange(10, 64),
            GroupCount(3),
            KindCount("letter", 2),
            Edge(last=("digit",)),
            Repeat(2),
            Run(3),
            Walk(3, ("us", "de")),
            Blocked(("long",)),
            OwnNames(reversed=True),
            Closeness(4, 6, no_counting=True),
            *patterns,
        ),
        phrase=(Words(4, 4, distinct=True), Blocked(("long",))),
    )
    begun = time.perf_counter()
    terms = terms_in({"long": made_up(100_000, random)})
    terms(("long",))
    ready = time.perf_counter() - begun
    subject = Subject("ilse.varga", "Varga, Ilse", ("Ilse", "stargazer"))
    moment = Occasion("change", 10**17, 0, ["Orbit-Keeper-19"])
    candidates = typical(CANDIDATES, random)

    def each(rules: tuple[Rule, ...]) -> float:
        judge = json_lines(rules, subject, moment, with_source=True)
        start = time.perf_counter()
        for candidate in candidates:
            judge(Candidate(candidate))
        return (time.perf_counter() - start) / CANDIDATES

    native = compile_policy(DEFAULTS)
    both = (*native, *compile_addition(addition, Lists(terms)))
    # By turns, so that a noisy minute falls on both.
    pairs = [(each(native), each(both)) for _ in range(7)]
    alone, all_ = (median(side) for side in zip(*pairs, strict=True))
    ratio = median(second / first for first, second in pairs)
    print(
        f"\nRules beyond the directory's own: 100,000 blocked terms, {len(patterns)} patterns, "
        f"both paths, {CANDIDATES:,} typical candidates, judged and written"
    )
    print(f"  the directory's rules alone         {1 / alone:>10,.0f} verdicts/s")
    print(f"  with the addition                   {1 / all_:>10,.0f} verdicts/s, {ratio:.1f} times")
    print(f"  100,000 terms drawn and made ready  {ready:>10.2f} s")
    million = _million()
    print(
        f"  1,000,000 terms made ready          {million['seconds']:>10.2f} s, "
        f"{million['megabytes']:.0f} MB more"
    )


def _million() -> dict[str, float]:
    """In a process of its own, whose memory is its own."""
    here = Path(__file__).resolve().parents[1]
    program = (
        "import json, time; from random import Random; from benchmarks.beyond import made_up;"
        "from hornfels.core.passwords.terms import Terms; from pathlib import Path\n"
        "def held(): return int(next(line for line in Path('/proc/self/status').read_text()"
        ".splitlines() if line.startswith('VmRSS')).split()[1]) / 1024\n"
        "terms = made_up(1_000_000, Random(3)); before = held(); start = time.perf_counter()\n"
        "made = Terms([('long', terms)]); taken = time.perf_counter() - start\n"
        "print(json.dumps({'seconds': taken, 'megabytes': held() - before}))"
    )
    told = subprocess.run(
        [sys.executable, "-c", program], cwd=here, capture_output=True, check=True, text=True
    )
    return dict(json.loads(told.stdout))
