"""The gate's answers against the verdicts they come from, and lifetimes against a plain form."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.account_state import EXPIRES_NEVER, addition_of, settings_of
from hornfels.core.domain.estate import Control, Estate
from hornfels.core.gate.judging import Gate, GateOperation, Inquiry
from hornfels.core.gate.lengths import lengths_known
from hornfels.core.gate.lifetimes import TOLERANCE, Passed, day_of, lifetimes
from hornfels.core.gate.rule_set import rule_set_of
from hornfels.core.passwords.additions import Lists, terms_in
from hornfels.core.passwords.judge import judge
from hornfels.core.passwords.rulebook import Rulebook
from hornfels.core.passwords.rules.rule import Occasion, subject_of
from hornfels.core.policy.addition import Addition, Band, Blocked, Closeness, OwnNames, Words
from hornfels.core.policy.term_lists import list_of
from hornfels.core.resolution.engine import resolve
from hornfels.core.values.time import DAY, HOUR
from hornfels.formats.rule_set import RuleSetError, pack, unpack
from worlds import World, read, worlds

TERMS = {"house": ["orbit", "dome"]}
BANDS = (Band(8, 60 * DAY), Band(16, 365 * DAY))
ADDITIONS = [
    None,
    Addition(password=(Blocked(("house",)), OwnNames(reversed=True)), bands=BANDS),
    Addition(password=(Closeness(4),), phrase=(Words(3, 2), Blocked(("house",)))),
    Addition(bands=(Band(0, HOUR),)),
    # Longer than all the time that there is.
    Addition(bands=(Band(0, HOUR), Band(20, EXPIRES_NEVER - 1))),
    Addition(bands=(Band(0, EXPIRES_NEVER - 1),)),
]
CANDIDATES = ["", "Orbit-742", "person0", "Zq7-lantern-mosaic", "umbra lantern mosaic", "Aa1\ud800"]


@st.composite
def estates(draw: st.DrawFn) -> Estate:
    """A small domain whose policies ask something besides."""
    world: World = draw(worlds())
    estate = read(world).estate
    additions = st.sampled_from(ADDITIONS)
    policies = tuple(
        replace(
            p,
            addition=draw(additions),
            settings=replace(p.settings, complexity=draw(st.booleans()), min_length=7),
        )
        for p in estate.policies
    )
    lists = {name: list_of(terms) for name, terms in TERMS.items()}
    domain = replace(estate.domain, addition=draw(additions), term_lists=lists)
    return replace(estate, domain=domain, policies=policies)


@given(estates(), st.sampled_from(CANDIDATES), st.booleans(), st.sampled_from([None, "Orbit-7421"]))
def test_the_gate_says_of_everybody_what_their_policy_does(
    estate: Estate, candidate: str, left: bool, present: str | None
) -> None:
    """All but what hangs on the moment; complexity also where it is left to the gate."""
    resolution = resolve(estate)
    lists = Lists(terms_in(TERMS))
    rules = Rulebook(estate, lists)
    packed = unpack(pack(rule_set_of(estate, resolution), TERMS))
    gates = (
        Gate(rule_set_of(estate, resolution), lists),
        Gate(packed.rules, Lists(terms_in(packed.terms))),
    )
    operation: GateOperation = "change" if present else "reset"
    moment = Occasion("change" if present else "reset", 0, 0, (present,) if present else None)
    for row, name in enumerate(estate.accounts.name):
        policy = int(resolution.winner_of_account[row])
        whole = judge(rules[policy], candidate, subject_of(estate, row), moment)
        first, second = (
            gate(Inquiry(name, operation, candidate, present, complexity_left=left))
            for gate in gates
        )
        assert (first.verdict, first.policy, first.lifetime) == (
            second.verdict,
            second.policy,
            second.lifetime,
        )
        said = {(f.path, f.rule): f.status for f in first.verdict.judgements}
        of_policy = {(f.path, f.rule): f.status for f in whole.judgements}
        if not left or settings_of(estate, policy).complexity:
            assert said.items() <= of_policy.items()
        assert {key for key in of_policy if key not in said} <= {
            ("", "history"),
            ("", "minimum_age"),
            ("", "audit_length"),
        }
        addition = addition_of(estate, policy)
        wanted = addition.lifetime(len(candidate)) if addition else None
        assert first.lifetime == (wanted if first.verdict.accepted else None)


@given(estates(), st.data())
def test_lifetimes_agree_with_going_through_everybody(estate: Estate, data: st.DataObject) -> None:
    resolution = resolve(estate)
    size = len(estate.accounts)
    set_at = np.array(data.draw(st.lists(_SET, min_size=size, max_size=size)), dtype=np.int64)
    accounts = replace(estate.accounts, password_set=set_at)
    estate = replace(estate, accounts=accounts)
    names = st.sampled_from([*accounts.name, *accounts.dn, "nobody"])
    passed = data.draw(
        st.lists(st.builds(Passed, names, _SET, _SET.map(lambda at: at + 400 * DAY)))
    )
    spared = data.draw(st.lists(names, max_size=1))
    found = lifetimes(estate, resolution, passed, spared)
    plain = {}
    for row, name in enumerate(accounts.name):
        addition = addition_of(estate, int(resolution.winner_of_account[row]))
        never = int(accounts.control[row]) & int(Control.NEVER_EXPIRES)
        trust = int(accounts.control[row]) & 0x3800
        kerberos = int(accounts.rid[row]) in (500, 502)
        at = int(set_at[row])
        if not addition or not addition.bands or never or trust or kerberos or at <= 0:
            continue
        called = (name, accounts.dn[row])
        if set(called) & set(spared):
            continue
        near = [one for one in passed if one.account in called and abs(one.at - at) <= TOLERANCE]
        ends = min(at + addition.bands[0].lifetime, EXPIRES_NEVER)
        if near:
            latest = max(near, key=lambda one: one.at)
            last = [one for one in near if one.at == latest.at][-1]
            ends = min(last.ends, at + addition.bands[-1].lifetime)
        plain[row] = (ends // DAY * DAY, bool(near))
    rows = found.rows.tolist()
    assert (
        dict(
            zip(rows, zip(found.ends.tolist(), found.from_gate.tolist(), strict=True), strict=True)
        )
        == plain
    )
    now = 300 * DAY
    assert set(found.due(now).tolist()) == {row for row, (ends, _) in plain.items() if ends <= now}
    for row in range(size):
        alone = lifetimes(estate, resolution, passed, spared, np.array([row]))
        assert dict(zip(alone.rows.tolist(), alone.ends.tolist(), strict=True)) == {
            r: ends for r, (ends, _) in plain.items() if r == row
        }


_SET = st.sampled_from([-1, 0, 100 * DAY, 100 * DAY + TOLERANCE, 290 * DAY, 290 * DAY + HOUR])


@given(estates(), st.data())
def test_what_is_told_of_lengths_is_true_and_all_that_follows(
    estate: Estate, data: st.DataObject
) -> None:
    resolution = resolve(estate)
    size = len(estate.accounts)
    set_at = np.full(size, 100 * DAY)
    estate = replace(estate, accounts=replace(estate.accounts, password_set=set_at))
    sizes = st.integers(0, 30)
    real = data.draw(st.lists(sizes, min_size=size, max_size=size))
    needed = data.draw(st.lists(sizes, min_size=size, max_size=size))
    among = data.draw(st.lists(st.booleans(), min_size=size, max_size=size))
    # At the gate, at another time than the present one was set, or not at the gate.
    when = st.sampled_from([0, TOLERANCE, DAY, None])
    passed, may_be = [], []
    for row, name in enumerate(estate.accounts.name):
        addition = addition_of(estate, int(resolution.winner_of_account[row]))
        late = data.draw(when)
        lifetime = addition.lifetime(real[row]) if addition else None
        same = None
        at = 100 * DAY + (late or 0)
        # What ends after all days is not kept.
        if late is not None and addition and lifetime and at + lifetime < EXPIRES_NEVER:
            passed.append(Passed(name, at, day_of(at + lifetime)))
            if late <= TOLERANCE:
                same = [n for n in range(64) if addition.lifetime(n) == lifetime]
        may_be.append(same)
    found = lengths_known(
        estate, resolution, passed, np.array(needed, np.int64), np.array(among, np.bool_)
    )
    rows = [row for row in range(size) if among[row]]
    known = [(row, may_be[row] or []) for row in rows if may_be[row] is not None]
    shorter = [row for row, lengths in known if max(lengths) < needed[row]]
    enough = [row for row, lengths in known if min(lengths) >= needed[row]]
    assert all(real[row] < needed[row] for row in shorter)
    assert (found.shorter, found.enough) == (len(shorter), len(enough))
    assert found.either == len(known) - len(shorter) - len(enough)
    assert found.unseen == len(rows) - len(known)


@given(estates(), st.data())
def test_a_rule_set_that_was_touched_is_refused(estate: Estate, data: st.DataObject) -> None:
    file = pack(rule_set_of(estate, resolve(estate)), TERMS)
    place = data.draw(st.integers(0, len(file) - 1))
    turned = bytearray(file)
    turned[place] ^= data.draw(st.integers(1, 255))
    for wrong in (file[:place], bytes(turned), file + b"\0"):
        with pytest.raises(RuleSetError):
            unpack(wrong)
