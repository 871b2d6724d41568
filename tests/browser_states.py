"""Every state of the interface: how one comes to it, and what each is called. A new screen, panel
or popover joins this list.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

from playwright.sync_api import Page, Route, expect

from browser_help import DOMAIN
from persons import PASSWORD

DRAFT = f"{DOMAIN}~1"
EXPIRIES = f"{DOMAIN}/forecast?of=expiries"
NAME = DOMAIN.removeprefix("/")


@dataclass(frozen=True)
class State:
    """``path`` is opened, then ``act`` leads on from there. ``title`` is what the page is called
    first.
    """

    name: str
    path: str
    title: str
    act: Callable[[Page], None] = lambda _page: None


def layer(page: Page, name: str) -> None:
    page.get_by_role("button", name=re.compile(rf"^\d+ {name}\b")).click()
    page.get_by_role("heading", name=name, level=2).wait_for()


def press(page: Page, name: str, role: str = "button") -> None:
    page.get_by_role(role, name=name).first.click()  # type: ignore[arg-type]


def edit(page: Page, label: str, value: str) -> None:
    layer(page, "Night operators")
    page.get_by_label(label, exact=True).fill(value)


def asked(page: Page) -> None:
    layer(page, "Night operators")
    page.get_by_text("People need phrases").wait_for()


def rule_typed(page: Page) -> None:
    page.get_by_role("region", name="As a password").get_by_role("button", name="+ Rule").click()
    page.get_by_role("form").get_by_label("Rule").select_option("First and last character")
    page.get_by_role("group", name="Not last").get_by_label("digits").check()
    page.get_by_text(re.compile(r"^Refuses \d")).first.wait_for()


def besides(page: Page) -> None:
    layer(page, "Night operators")
    page.locator("#open-besides").click()
    phrase = page.get_by_role("region", name="As a phrase")
    phrase.get_by_role("button", name="+ Rule").click()
    press(page, "Add to draft")
    phrase.get_by_text("4 words of 3 letters or more").wait_for()
    page.get_by_text(re.compile(r"^Refuses \d")).first.wait_for()


def list_typed(page: Page) -> None:
    page.get_by_label("Name", exact=True).fill("house")
    press(page, "Add words of the house")
    page.get_by_text("They are found however").wait_for()


def editing(page: Page) -> None:
    edit(page, "Minimum length", "16")
    page.get_by_text("Hits 60 accounts").wait_for()


def policy_file(page: Page, text: str, then: str) -> None:
    head = "hornfels: 1\ndomain: sky.tarnholt.example\n"
    file = {"name": "agreed.yaml", "mimeType": "text/plain", "buffer": (head + text).encode()}
    page.get_by_label("Policy file of").set_input_files(file)  # type: ignore[arg-type]
    page.get_by_text(then).wait_for()


def refused(page: Page) -> None:
    edit(page, "Minimum length", "300")
    press(page, "Save to draft")
    page.get_by_text("300 is outside").first.wait_for()


def unreadable(page: Page) -> None:
    edit(page, "Maximum age", "soon")


def linking(page: Page) -> None:
    layer(page, "Night operators")
    press(page, "+ Link")
    page.get_by_role("combobox", name="Group or account to link").fill("GS-")
    page.get_by_role("listbox").get_by_role("option").first.wait_for()


def attributes(page: Page) -> None:
    layer(page, "Night operators")
    page.get_by_text("As attributes").click()
    page.get_by_text("msDS-MinimumPasswordLength").wait_for()


def deleting(page: Page) -> None:
    layer(page, "Phrase pilot")
    page.get_by_role("switch", name="Guarded against deletion").click()
    press(page, "Delete")
    page.get_by_role("button", name="Delete Phrase pilot").wait_for()


def weighing(page: Page) -> None:
    page.get_by_role("button", name=re.compile(r"^\d+ Night operators\b")).focus()
    page.keyboard.press("Shift+ArrowUp")
    page.get_by_role("button", name="Take it").wait_for()


def found(page: Page, text: str) -> None:
    page.get_by_role("combobox", name="Find account, group or policy").fill(text)
    page.get_by_role("listbox").get_by_role("option").first.wait_for()


def unsaved(page: Page) -> None:
    editing(page)
    press(page, "unsaved")


def lay(
    page: Page,
    candidate: str = "Perigee-2031",
    names: tuple[str, ...] = ("ilse.varga", "svc-spectro3"),
) -> None:
    for name in names:
        page.get_by_role("combobox", name="Account or policy to try it on").fill(name)
        page.get_by_role("option", name=re.compile(f"^{name}")).first.click()
    page.get_by_label("Candidate password", exact=True).fill(candidate)
    page.get_by_role("table", name="Verdicts").wait_for()


def bench(page: Page, then: str) -> None:
    lay(page)
    press(page, then)
    page.get_by_role("dialog").wait_for()


def hidden(page: Page) -> None:
    lay(page)
    press(page, "hide")


def crowd(page: Page) -> None:
    lay(page, names=("ilse.varga", "svc-spectro3", "tarek.okonjo", "kiosk-north"))
    press(page, "4 on it")


def drill(page: Page, story: str = "") -> None:
    page.get_by_role("radio", name="Drill").click()
    for name in ("ilse.varga", "svc-spectro3"):
        page.get_by_role("combobox", name="Account or policy to try it on").fill(name)
        page.get_by_role("option", name=re.compile(f"^{name}")).first.click()
    page.get_by_role("region", name="ilse.varga").wait_for()
    if story:
        page.get_by_label("The story in words").fill(story)


def drilled(page: Page) -> None:
    drill(page, "6 bad, good, old, unlock after 1 min")
    page.get_by_text("is unlocked at").first.wait_for()


def unreadable_story(page: Page) -> None:
    drill(page, "3 bda")
    page.get_by_text("Say what happens").wait_for()


def drill_kept(page: Page) -> None:
    drill(page)
    press(page, "Keep as trial …")
    page.get_by_role("dialog").wait_for()


def unlocking(page: Page) -> None:
    page.get_by_label("All of them").check()
    page.get_by_label("Reason").fill("Called in")


def must_change(page: Page) -> None:
    press(page, "Have the password changed …")
    page.get_by_label("Why", exact=True).fill("It was on a note at the dome")
    page.keyboard.press("Enter")
    page.get_by_role("link", name="Change record (LDIF)").wait_for()


def mark_moved(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^Night operators:")).focus()
    page.keyboard.press("ArrowRight")
    page.get_by_text("6 bad tries, each within").wait_for()


def boundaries(page: Page) -> None:
    lay(page)
    page.get_by_role("radio", name="Boundaries").click()
    press(page, "Draw candidates")
    page.get_by_role("table", name="Boundary candidates").wait_for()


def accepting(page: Page) -> None:
    press(page, "Accept …")
    page.get_by_label("Reason").first.wait_for()


def accepted(page: Page) -> None:
    page.get_by_role("radio", name="Accepted").click()


def filters(page: Page) -> None:
    page.get_by_role("row").nth(1).wait_for()
    press(page, "+ Filter")
    page.get_by_role("dialog", name="Filters").get_by_label("Set before").fill("nonsense")


def publishing(page: Page) -> None:
    press(page, "Publish …")
    page.get_by_role("button", name="Publish now").wait_for()


SAID = [
    {
        "subject": "Night operators of the northern observatory and of every dome beside it",
        "text": "Linked to GS-Night-Operators",
        "before": "",
        "after": "CN=GS-Night-Operators,OU=Groups,DC=sky,DC=tarnholt,DC=example",
    }
]


def previewed(page: Page) -> None:
    """The directory was asked, and would refuse some of it."""
    record = ["dn: CN=Night operators,CN=Password Settings Container,CN=System,DC=sky"] * 9
    problem = "Night operators was changed in the directory meanwhile: it is linked by now."
    steps = [
        {"said": SAID, "done": True, "problem": "", "ldif": []},
        {"said": SAID, "done": False, "problem": problem, "ldif": []},
        {"said": SAID, "done": False, "problem": "", "ldif": record},
    ]
    gpo = "{31B2F340-016D-11D2-945F-00C04FB984F9}"
    place = f"\\\\sky.tarnholt.example\\SYSVOL\\sky.tarnholt.example\\Policies\\{gpo}"
    answer = {
        "server": "dc1.sky.tarnholt.example",
        "problem": "",
        "steps": steps,
        "astray": 12,
        "templates": [{"gpo": gpo, "name": "Observatory baseline", "place": place}],
        "written_to": 12_345,
    }
    page.route("**/draft/preview", lambda route: route.fulfill(json=answer))
    publishing(page)
    page.get_by_role("list", name="Steps").get_by_role("listitem").last.click()


def unasked(page: Page) -> None:
    """The directory cannot be asked."""
    problem = "dc1.sky.tarnholt.example: it did not answer within 10 s."
    nothing = {"steps": [], "astray": 0, "templates": [], "written_to": None}
    answer = {"server": "", "problem": problem, **nothing}
    page.route("**/draft/preview", lambda route: route.fulfill(json=answer))
    publishing(page)
    page.get_by_text("cannot be asked").wait_for()


def servers(page: Page, then: str, *, tied: bool = False) -> None:
    """A hundred that differ, one that cannot be read, a hundred that agree."""
    labels = ("Minimum length", "Complexity", "Reversible encryption", "Minimum length audit")
    wanted = ("14 characters", "on", "off", "16 characters")
    settings = [
        {
            "key": str(n),
            "label": label,
            "wanted": wanted[n],
            "like": 100 + n,
            "tied": tied and n == 3,
        }
        for n, label in enumerate(labels)
    ]
    at = "2026-03-02T09:00:00+00:00"
    told = {"problem": "", "read_at": at}
    problem = "Line 7: PasswordHistorySize is 'twenty-four or as agreed', not a whole number."
    machines = [
        {"name": f"DOME-{n:03}", "state": "differs", "said": [None, "off", None, None], **told}
        for n in range(100)
    ]
    machines.append({"name": "W" * 64, "state": "not read", "said": [], **told, "problem": problem})
    machines += [
        {"name": f"VAULT-{n:03}", "state": "agrees", "said": [None] * 4, **told} for n in range(100)
    ]
    count = {"agree": 100, "differ": 100, "unread": 1}
    group = {"id": 1, "name": "Machines of the domes and of the vaults below them", **count}
    lost = {"place": "lost.inf", "problem": "It lies in no set: put it into a folder of one."}
    folder = {"folder": "/srv/templates/sky.tarnholt.example", "problems": [lost]}
    held = {"way": "most", "server": "", "missing": "VAULT-777", "by": "", "at": None}
    matrix = {
        "set": group,
        "held": held,
        "seen": "",
        "settings": settings,
        "servers": machines,
        "days": [{"day": f"2026-02-{n:02}", **count, "agree": n} for n in range(1, 28)],
        "script": ["secedit /export " + "x" * 60, "secedit /configure " + "y" * 90],
    }
    said = [SAID[0] | {"subject": ""}]
    turns = [
        {"at": at, "problem": problem, "changes": [], "is_first": False},
        {"at": "2026-03-01T09:00:00+00:00", "problem": "", "changes": said, "is_first": False},
    ]
    sets = {"sets": [group], "watched": folder}
    page.route("**/server-sets", lambda route: route.fulfill(json=sets))
    page.route("**/server-sets/1", lambda route: route.fulfill(json=matrix))
    page.route("**/server-sets/1/servers?*", lambda route: route.fulfill(json={"turns": turns}))
    page.reload()
    page.get_by_text(then).and_(page.locator(":not(option)")).first.wait_for()


def more_of_servers(page: Page, what: str, *, tied: bool = False) -> None:
    servers(page, "DOME-000", tied=tied)
    press(page, what)


def on_its_way(page: Page, **given: Any) -> None:
    job = {
        "id": "00000000-0000-0000-0000-000000000001",
        "kind": "publish",
        "state": "running",
        "name": "the directory",
        "step": "writing",
        "done": 1,
        "of": 3,
        "rate": 0,
        "left": None,
        "stopping": False,
        "error": "",
        "domain": None,
        "user": "ben",
        "at": "2026-03-02T09:00:00+00:00",
        "can_retry": False,
        "waits": False,
        "losses": [],
    }
    answer = {
        "draft": 7,
        "title": "The longest title that somebody has given to a draft of theirs so far",
        "author": "ben",
        "begun_at": "2026-03-02T09:00:00+00:00",
        "state": "going",
        "back": False,
        "told": "",
        "job": job,
        "steps": [{"said": SAID, "state": state} for state in ("done", "begun", "waiting")],
        **given,
    }
    page.route("**/publication", lambda route: route.fulfill(json=answer))
    page.reload()
    page.get_by_role("region", name="Publishing").wait_for()


def stopped_on_its_way(page: Page) -> None:
    told = "Night operators was changed in the directory meanwhile: it is linked by now. Read it."
    on_its_way(page, state="stopped", told=told, job=None)


def closed_as_it_is(page: Page) -> None:
    stopped_on_its_way(page)
    press(page, "Close as it is …")


def not_in_the_directory(page: Page) -> None:
    """As if two publications had been handed over as files, which nobody has carried out."""

    def pending(route: Route) -> None:
        answer = route.fetch()
        strata = answer.json()
        strata["domain"] |= {"draft": None, "pending": 2}
        route.fulfill(response=answer, json=strata)

    page.route("**/api/**/strata*", pending)
    page.reload()
    page.get_by_text("not yet in the directory").wait_for()


def removing(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^Take .* out")).click()


def settling(page: Page) -> None:
    page.get_by_role("radio", name="a second person approves").click()
    page.get_by_label("Why", exact=True).wait_for()


def token_made(page: Page) -> None:
    page.get_by_label("What the token is for").fill("nightly")
    press(page, "Make a token")
    page.get_by_text("shown this once").wait_for()


def asked_for(page: Page) -> None:
    """Somebody else's act waits; the session is one that has to be proven once more."""
    answer = [
        {
            "id": 1,
            "sentence": "Publishing in sky.tarnholt.example wants no approval",
            "reason": "It stands in the way of the night crew while the dome is being moved",
            "asked_by": "ben",
            "details": ["20 accounts change policy"],
            "asked_at": "2026-03-02T09:00:00+00:00",
            "mine": False,
        }
    ]
    page.route("**/api/acts", lambda route: route.fulfill(json=answer))
    page.reload()
    page.get_by_role("button", name="Confirm").wait_for()


def proving(page: Page, title: str = "Your password once more") -> None:
    refusal = {"status": 403, "headers": {"Needs": "password"}, "json": {"detail": "Once more."}}
    page.route(
        "**/api/people",
        lambda route: (
            route.fulfill(**refusal) if route.request.method == "POST" else route.fallback()
        ),
    )
    page.get_by_label("Name to sign in with").fill("carl")
    press(page, "Add somebody")
    page.get_by_role("dialog", name=title).wait_for()


def directory(page: Page, job: dict[str, Any], **reading: Any) -> None:
    """A directory is connected, and was read like this."""
    domain = "sky.tarnholt.example"
    first = {
        "id": "00000000-0000-0000-0000-000000000001",
        "kind": "read",
        "state": "done",
        "name": "the directory",
        "step": "",
        "done": 0,
        "of": 0,
        "rate": 0.0,
        "left": None,
        "stopping": False,
        "error": "",
        "domain": domain,
        "user": "Hornfels",
        "at": "2026-03-02T09:00:00+00:00",
        "can_retry": False,
        "waits": False,
        "losses": [],
    }
    found = {
        "server": f"dc1.{domain}",
        "read_at": "2026-03-02T09:00:00+00:00",
        "whole_at": "2026-03-01T09:00:00+00:00",
        "tried_at": "2026-03-02T09:00:00+00:00",
        "error": "",
        "objects": 1398,
        "whole": False,
        "first": False,
        "news": [],
        "templates": [],
        "agreement": None,
    }
    answer = {
        "connected": True,
        "version": 1,
        "changed_by": "ann",
        "connection": {
            "servers": [{"host": f"dc1.{domain}", "port": 636, "address": ""}],
            "security": "ldaps",
            "authorities": "-----BEGIN CERTIFICATE-----",
            "pinned": "",
            "bind": "simple",
            "reader": {"name": f"hornfels-reader@{domain}", "secret": "tarnholt-reader"},
            "writer": {"name": f"hornfels-writer@{domain}", "secret": "tarnholt-writer"},
            "every": 15,
            "doors": [{"group": f"CN=GS-Systems-Stewards,OU=Groups,DC={domain}", "role": "author"}],
            "stage": "OU=Rehearsals,DC=sky,DC=tarnholt,DC=example",
        },
        "reading": {**found, **reading},
        "job": {**first, **job},
        "stage": "OU=Rehearsals,DC=sky,DC=tarnholt,DC=example",
        "shares": True,
        "dumps_until": None,
    }
    page.route(f"**/api/directories/{domain}", lambda route: route.fulfill(json=answer))
    page.reload()
    page.get_by_role("button", name="Connection …").wait_for()


def rehearsing(page: Page) -> None:
    answer = {"connected": True, "version": 1, "changed_by": "ann", "connection": None}
    answer |= {"reading": None, "job": None, "shares": False, "dumps_until": None}
    answer["stage"] = "OU=Rehearsals of the whole observatory,DC=sky,DC=tarnholt,DC=example"
    page.route("**/api/directories/*", lambda route: route.fulfill(json=answer))
    page.reload()
    press(page, "Rehearsal", "radio")


def rehearsed(page: Page) -> None:
    """The directory says otherwise."""
    rehearsing(page)
    tried = {
        "about": "“hornfels-5594730bc4” inside, the account's name",
        "text": "hornfels-5594730bc4h6F?" * 4,
        "accepted": True,
        "ours": False,
        "refused_by": ["Own name inside"],
        "why": "Own names: the specification refuses them, and some servers check none.",
    }
    event = {"at": 0.02, "event": "bad", "outcome": "refused", "ours": "locked"}
    answer: dict[str, Any] = {"server": "dc1.sky.tarnholt.example", "agree": "some"}
    answer |= {"tries": [tried] * 5, "played": [event] * 5}
    page.route("**/rehearsals", lambda route: route.fulfill(json=answer))
    story = page.get_by_label("a story")
    story.fill("5 bad")
    story.press("Enter")
    page.get_by_role("table", name="The story").wait_for()


def unrehearsed(page: Page) -> None:
    rehearsing(page)
    answer = {"detail": "dc1.sky.tarnholt.example: the account may not do this (adding one)."}
    page.route("**/rehearsals", lambda route: route.fulfill(json=answer, status=409))
    press(page, "Rehearse")
    page.get_by_text("may not do this").first.wait_for()


def read_with_news(page: Page) -> None:
    domain = "sky.tarnholt.example"
    names = ["ilse.varga", "tobin.hale", "svc-spectro3"]
    disagreement = {
        "account": "oriel.sand",
        "about": "policy",
        "ours": "Domain policy",
        "theirs": "Phrase pilot",
        "reason": "Every link that points its way does not count, so the domain policy holds.",
    }
    directory(
        page,
        {},
        news=[
            {
                "subject": "Night operators",
                "text": "Minimum length: 14 → 16",
                "names": [],
                "at": "2026-03-02T08:00:00+00:00",
                "where": "DC1",
            },
            {"subject": "accounts", "text": "3 accounts are new", "names": names},
            {"subject": "memberships", "text": "2 memberships began", "names": ["GS-Dome-Rota"]},
        ],
        templates=[
            {
                "name": "Observatory baseline",
                "read": False,
                "problem": f"/srv/{domain}/Policies/{{31B2F340-016D-11D2-945F-00C04FB984F9}} is "
                "not there: the object has lost its files.",
            }
        ],
        agreement={
            "at": "2026-03-02T09:00:00+00:00",
            "asked": 57,
            "everybody": False,
            "disagree": 700,
            "found": [disagreement] * 1,
        },
    )


def read_going(page: Page) -> None:
    directory(page, {"state": "running", "step": "storing", "done": 300, "of": 1398, "rate": 99.0})


def read_failed(page: Page) -> None:
    words = (
        "dc1.sky.tarnholt.example: nobody who is trusted has issued its certificate (self-signed "
        "certificate). Add the certificate of its authority, or pin this one."
    )
    directory(page, {"state": "failed", "error": words}, error=words)


def read_held(page: Page) -> None:
    words = (
        "sky.tarnholt.example would lose protection by the directory. Nothing is stored before a "
        "person confirms the losses with a reason."
    )
    gone = [f"Policy {number}: Minimum length: 14 → 7 characters" for number in range(20)]
    directory(page, {"state": "held", "error": words, "losses": gone})
    press(page, "Confirm losses …")


def read_held_for_a_second_person(page: Page) -> None:
    gone = ["Kiosk floor: Minimum length: 14 → 7 characters"]
    directory(page, {"state": "held", "error": "sky would lose.", "losses": gone, "waits": True})
    page.get_by_text("A second person has to confirm").wait_for()


def connection(page: Page) -> None:
    directory(page, {})
    press(page, "Connection …")
    page.get_by_label("Who writes: account").wait_for()
    steps = [
        {"title": "Reach dc1.sky.tarnholt.example", "state": "works", "told": "TLS"},
        {"title": "See what was deleted", "state": "note", "told": "Not to be seen."},
        {
            "title": "Read fine-grained policies",
            "state": "fails",
            "told": "The account may not read CN=Password Settings Container,CN=System,DC=sky,"
            "DC=tarnholt,DC=example; without it nobody's policy is known.",
        },
    ]
    page.route("**/api/directories/*/test", lambda route: route.fulfill(json=steps))
    press(page, "Try it")
    page.get_by_text("See what was deleted").wait_for()


def gate(page: Page) -> None:
    """Much is asked at the gate, one caller is in trouble, passwords have come to their day."""
    caller = {
        "id": "00000000-0000-0000-0000-000000000001",
        "title": "dc1.sky.tarnholt.example",
        "kind": "hook",
        "made_by": "ann",
        "made_at": "2026-03-02T09:00:00+00:00",
        "seen_at": "2026-03-02T09:00:00+00:00",
        "judges": True,
        "otherwise": "refuse",
        "accepted": 1314,
        "refused": 271,
        "unanswered": 0,
        "slowest": 14_200,
        "trouble": "",
    }
    away = {
        **caller,
        "id": "00000000-0000-0000-0000-000000000002",
        "title": "dc2.sky.tarnholt.example",
        "unanswered": 12,
        "trouble": "It is not heard of any more. Either nothing judges there, or it goes on by the "
        "rules that it had: see that “hornfels gate” runs on that machine and reaches Hornfels.",
    }
    lifetimes = {
        "banded": 270,
        "from_gate": 31,
        "due": 7,
        "coming": [{"day": f"2026-12-{day:02}", "accounts": day} for day in range(1, 12)],
        "enforced": True,
        "possible": True,
        "told": "6 of 7 passwords had come to their day and have to be changed at the next "
        "sign-in. dc1.sky.tarnholt.example: the account may not do this.",
        "spared": ["ilse.varga"],
    }
    answer = {
        "id": "",
        "at": "2026-03-02T09:00:00+00:00",
        "caller": "dc1.sky.tarnholt.example",
        "account": "ilse.varga",
        "operation": "reset",
        "outcome": "refused",
        "policy": "Night operators",
        "rules": ["complexity", "password blocked", "phrase words"],
        "took": 900,
    }
    kept = [
        {**answer, "id": f"{number}", "outcome": outcome}
        for number in range(100)
        for outcome in ("refused", "accepted", "let through", "turned away")
    ]
    page.route("**/gate/answers?*", lambda route: route.fulfill(json=kept))
    page.route("**/gate/callers", lambda route: route.fulfill(json=[caller, away]))
    page.route("**/gate/lifetimes", lambda route: route.fulfill(json=lifetimes))
    page.reload()
    page.get_by_label("Never for the built-in").fill("nobody.here")
    page.get_by_role("button", name="Take out dc1").click()
    page.get_by_text("refused without an answer").first.wait_for()


def exposed(page: Page) -> None:
    """Much is known of many passwords, a comparison goes on after one that failed, and those who
    are due are about to be told.
    """
    held = page.request.get(f"/api/domains/{NAME}/exposure").json()
    counts = {"exposed": 431, "listed": 400, "blank": 2, "own_name": 20, "house_term": 9}
    for one in held["policies"]:
        one |= {**counts, "shared": 1_184, "due": 37, "accounts": 1_000_000}
        one["order"] = {"consequence": "within", "days": 14, "standing": True}
        one["populations"] = [
            {
                "key": "x",
                "who": "GS-With-A-Rather-Long-Name + GS-Other",
                "accounts": 9,
                "exposed": 3,
            }
        ]
    at = "2026-03-02T09:00:00Z"
    run = {**counts, "shared": 9, "whole": True, "compared": 1_000_000, "unknown": 3, "groups": 4}
    names = [f"svc-a-rather-long-name-{number}" for number in range(60)]
    held |= {
        "now": {**counts, "shared": 1_184},
        "trouble": f"{'/var/lib/hornfels/hashes/' * 4}: can be read by others. Take that away.",
        "runs": [{**run, "at": at}, {**run, "exposed": 90, "at": "2026-01-02T09:00:00Z"}],
        "groups": [{"group": n + 1, "size": 60 - n, "members": names[n:]} for n in range(20)],
        "corpora": [
            {
                "name": f"a-list-with-a-rather-long-name-{kind}",
                "kind": kind,
                "folded": kind is None,
                "entries": 10**9,
                "seen": 10**10,
                "bytes": 22 * 10**9,
                "files": 3,
                "compares": kind == "nt",
                "problem": "" if kind else "known+june.hfc: its header is damaged.",
            }
            for kind in ("nt", "sha1", None)
        ],
        "deeds": [
            {"at": at, "by": "ann", "account": name, "policy_name": "Domain policy", "told": told}
            for name, told in zip(names, ["", "The directory refused it."] * 30, strict=True)
        ],
        "possible": True,
        "spared": ["Administrator", *names[:3]],
    }
    accounts = [
        {
            "name": name,
            "display_name": name,
            "policy": "domain",
            "policy_name": "Domain policy",
            "mark": None,
            "reasons": [{"kind": "list", "list": "a-list-with-a-rather-long-name", "since": at}],
            "since": at,
            "group": 0,
            "due_at": at,
            "spared": name.endswith("0"),
        }
        for name in names
    ]
    found = {"total": 31_000, "accounts": accounts}
    page.route("**/exposure", lambda route: route.fulfill(json=held))
    page.route("**/exposure/accounts?*", lambda route: route.fulfill(json=found))
    page.reload()
    page.get_by_role("region", name="Due").get_by_role("button").click()
    page.get_by_role("radio", name="noted").click()
    page.get_by_role("region", name="The same password").get_by_role("button").first.click()


def gate_made(page: Page) -> None:
    page.get_by_label("What it is called").fill("dc1")
    page.get_by_label("Reason").fill("A new server")
    press(page, "Let it ask")
    page.get_by_text("shown this once").wait_for()


def connection_refused(page: Page) -> None:
    page.get_by_label("Certificates that are trusted").select_option("pinned")
    page.get_by_label("Its SHA-256").fill("12")
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("alert").first.wait_for()
    page.evaluate("sessionStorage.clear()")


def elsewhere(page: Page, *, signed_in: bool) -> None:
    """There is a provider, at which the person signs in."""
    path = "/api/session"
    me = page.evaluate(f"fetch('{path}').then((answer) => answer.json())")
    answer = {**me, "elsewhere": signed_in, "provider": "Observatory accounts of the whole island"}
    answer["own_page"] = True
    page.route(f"**{path}", lambda route: route.fulfill(json=answer))
    page.reload()
    settled(page)


def at_a_provider(page: Page) -> None:
    elsewhere(page, signed_in=False)
    page.get_by_role("button", name="Sign in at").wait_for()


def shown_again(page: Page) -> None:
    elsewhere(page, signed_in=True)
    proving(page, "Show once more who you are")


def come_back(page: Page) -> None:
    me = page.evaluate("fetch('/api/session').then((answer) => answer.json())")
    page.route("**/api/session/elsewhere/back", lambda route: route.fulfill(json=me))
    page.goto("/signed-in?code=1&state=1")
    page.get_by_text("This one can be closed.").wait_for()


def once(page: Page) -> None:
    page.get_by_label("Name").fill("once")
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    press(page, "Sign in")
    page.get_by_label("New password", exact=True).fill("short")
    page.get_by_label("Present password", exact=True).fill("x")
    press(page, "Change it")
    page.get_by_role("alert").first.wait_for()


def opened(page: Page) -> None:
    page.locator("details").first.locator("summary").click()


def wrong_password(page: Page) -> None:
    page.get_by_label("Name").fill("ann")
    page.get_by_label("Password", exact=True).fill("wrong")
    press(page, "Sign in")
    page.get_by_role("alert").wait_for()


def hang(page: Page, path: str) -> None:
    """Requests that are never answered."""
    held: list[Route] = []
    page.route(path, lambda route: held.append(route))


def fail(page: Page, path: str) -> None:
    page.route(
        path,
        lambda route: route.fulfill(
            status=422, json={"detail": "Refused for the sake of the test."}
        ),
    )


def at_own_page(
    page: Page, act: Callable[[Page], None] = lambda _page: None, **person: Any
) -> None:
    """Somebody under a policy, who is known at their page."""
    found = {
        "name": "ilse.varga",
        "display_name": "Ilse Varga",
        "domain": NAME,
        "must_change": False,
        "must": [
            {"rule": "length", "text": "Have at least 14 characters. A few words work well."},
            {"rule": "own_name", "text": "Not contain your own name: “ilse.varga”, “Varga”."},
            {"rule": "history", "text": "Not be one of your last 24 passwords."},
        ],
        "ways": [
            {"path": path, "lines": [{"rule": rule, "text": text}]}
            for path, rule, text in (
                ("password", "exposed", "Not be known to others."),
                ("phrase", "words", "Have 4 words of 3 letters or more."),
            )
        ],
        "refusals": ["After a change you have to wait 1 day before the next one."],
        "later": ["After 8 wrong tries, each within 30 minutes, your account locks."],
        "set_at": "2026-02-02T09:00:00+00:00",
        "ends_at": "2026-05-03T09:00:00+00:00",
        "ends_why": "A password lasts 90 days from the moment it was set.",
        "changes_from": None,
        "lock": None,
        "bands": [
            {"length": length, "lasts": lasts}
            for length, lasts in ((14, "90 days"), (18, "180 days"), (24, "1 year"))
        ],
        **person,
    }
    answer = {"person": found, "domains": [NAME]}
    page.route("**/api/you", lambda route: route.fulfill(json=answer))
    said = {
        "accepted": True,
        "certain": False,
        "told": "Accepted as far as can be seen here. It must not be one of your last 24.",
        "ticks": [
            {"rule": "length", "path": "", "status": "passed"},
            {"rule": "own_name", "path": "", "status": "failed"},
            {"rule": "history", "path": "", "status": "not checkable"},
            {"rule": "words", "path": "phrase", "status": "passed"},
        ],
        "band": 1,
    }
    page.route("**/api/you/verdicts", lambda route: route.fulfill(json=said))
    drawn = [{"text": "harbour-quiet-meridian-lantern"}, {"text": "kJ4p-Wn7x-Tq2v"}]
    page.route("**/api/you/suggestions", lambda route: route.fulfill(json=drawn))
    page.reload()
    page.get_by_role("heading", name="Change it").wait_for()
    act(page)


def own_typed(page: Page) -> None:
    page.get_by_label("Present password", exact=True).fill("Quiet-Harbour-19")
    page.get_by_label("New password", exact=True).fill("slow eclipse amber meridian")
    page.get_by_text("Accepted as far as").wait_for()


def own_refused(page: Page) -> None:
    own_typed(page)
    wrong = [{"field": "present", "message": "This is not your present password. " * 3}]
    wrong.append({"field": "fresh", "message": "The directory refuses it. " * 4})
    refusal = {"status": 422, "json": {"detail": wrong}}
    page.route("**/api/you/password", lambda route: route.fulfill(**refusal))
    page.keyboard.press("Enter")
    page.get_by_text("The directory refuses it.").wait_for()


def own_suggested(page: Page) -> None:
    press(page, "Suggest some")
    page.get_by_text("kJ4p").wait_for()


def known_no_more(page: Page) -> None:
    own_typed(page)
    page.unroute("**/api/you")
    nobody = {"person": None, "domains": [NAME]}
    page.route("**/api/you", lambda route: route.fulfill(json=nobody))
    refusal = {"status": 401, "json": {"detail": "Sign in first."}}
    page.route("**/api/you/password", lambda route: route.fulfill(**refusal))
    page.keyboard.press("Enter")
    page.get_by_text("You are not signed in any more").wait_for()


def at_own_door(page: Page, *domains: str) -> None:
    answer = {"person": None, "domains": domains}
    page.route("**/api/you", lambda route: route.fulfill(json=answer))
    page.reload()
    page.get_by_label("Name", exact=True).fill("ilse.varga")
    page.get_by_label("Password", exact=True).fill("Quiet-Harbour-19")
    words = "The last password was wrong, and the directory locks accounts. Wait 42 seconds."
    refusal = {"status": 429, "json": {"detail": words}}
    page.route("**/api/you/session", lambda route: route.fulfill(**refusal))
    page.keyboard.press("Enter")
    page.get_by_text("Wait 42 seconds").wait_for()


def written_to(page: Page) -> None:
    """People are written to, and something of everything has become of letters."""
    chosen = {
        "on": True,
        "kinds": ["expiring", "locked", "exposed"],
        "days": [14, 7, 1],
        "by_policy": {"domain": [30, 3]},
        "quiet_from": "20:00",
        "quiet_until": "07:00",
        "zone": "Europe/Berlin",
        "page": "https://hornfels.tarnholt.example/you",
    }
    states = ("waiting", "sending", "sent", "refused", "uncertain", "dropped")
    info = {
        "mailing": chosen,
        "version": 3,
        "server": "mail.tarnholt.example:587",
        "security": "starttls",
        "sender": "Passwords at Tarnholt <passwords@tarnholt.example>",
        "trouble": "",
        "stand_in": True,
        "languages": ["de", "en"],
        "policies": [{"ref": "domain", "name": "Domain policy"}],
        "looked_at": "2026-03-02T09:00:00+00:00",
        "told": "204 handed over, 1 refused by the mail server, 1 to be tried again.",
        "job": None,
        "lately": {"sent": 204, "refused": 1},
    }
    letters = [
        {
            "id": f"00000000-0000-0000-0000-00000000000{number}",
            "account": "wilhelmina-konstantina.steinholt-brekkeland",
            "address": "wilhelmina-konstantina.steinholt-brekkeland@tarnholt.example",
            "language": "de",
            "about": ["expiring", "locked"],
            "state": state,
            "tries": 1,
            "told": "The mail server said: 550 No such mailbox here" if number % 2 else "",
            "made_at": "2026-03-02T09:00:00+00:00",
            "changed_at": "2026-03-02T09:00:00+00:00",
        }
        for number, state in enumerate(states)
    ]
    text: dict[str, Any] = {
        "language": "de",
        "subject": "Ihr Passwort endet in 7 Tagen",
        "lines": ["Guten Tag,"],
    }
    text["to"] = letters[0]["address"]
    kept = {"name": "1", "at": "2026-03-02T09:00:00+00:00", "sender": "passwords", **text}
    page.route("**/mailing", lambda route: route.fulfill(json=info))
    due = {
        "people": 1,
        "by_kind": [{"kind": "expiring", "people": 1}],
        "first": [
            {
                **{key: letters[0][key] for key in ("account", "address", "language", "about")},
                "display_name": "Wilhelmina Konstantina Steinholt-Brekkeland",
            }
        ],
        "unreachable": 2,
        "without_address": ["svc.pipeline-robot-with-a-long-name.01", "svc.dome.02"],
    }
    page.route("**/mailing/planned", lambda route: route.fulfill(json=due))
    page.route("**/mailing/letters?*", lambda route: route.fulfill(json=letters))
    page.route("**/mailing/mailbox", lambda route: route.fulfill(json=[kept]))
    page.route("**/mailing/sample", lambda route: route.fulfill(json=text))
    page.reload()
    page.get_by_label("Account that would be written to").fill("ilse.varga")
    page.get_by_text("Guten Tag,").wait_for()
    page.get_by_role("region", name="Mailbox").get_by_role("button").click()
    page.get_by_role("region", name="A letter beforehand").get_by_role("radio", name="HTML").click()
    page.get_by_text("Who it is").click()


def report_came(page: Page) -> None:
    """As if a report had been sent, which did not reach everybody; another one is asked for."""
    to = [f"a.person.with.a.long.name.{number}@tarnholt.example" for number in range(9)]
    order = {
        "on": True,
        "to": to,
        "every": "month",
        "day": 28,
        "at": "07:00",
        "zone": "America/Argentina/ComodRivadavia",
        "baselines": ["privileged"],
    }
    told = "The mail server said: 550 5.1.1 There is nobody of that name at this observatory"
    states = ("sent", "refused", "uncertain", "waiting", "sending")
    info = {
        "order": order,
        "version": 3,
        "trouble": "",
        "due": "2026-03-01T07:00:00Z",
        "next": "2026-03-08T07:00:00Z",
        "copies": [
            {"to": one, "state": states[number % 5], "told": told if number % 5 else ""}
            for number, one in enumerate(to)
        ],
        "told": "2 handed over, 2 refused, 2 may have gone, 2 tried again later, 1 on its way.",
        "job": None,
    }
    page.route("**/report-order", lambda route: route.fulfill(json=info))
    page.reload()
    page.get_by_role("list", name="Copies").wait_for()
    page.get_by_label("Day of the month").fill("99")
    page.get_by_role("button", name="Save …").click()


def spread_planned(page: Page) -> None:
    """As if a draft ended many passwords at once; what is planned is about to be begun."""
    weeks = [f"2026-{month:02}-{day:02}" for month in (4, 5, 6) for day in (2, 9, 16, 23)]
    told = {"exposed": 1_204, "shared": 88, "privileged": 12, "none": 20_410}
    waves = [
        {
            "begins": week,
            "told": told if number % 2 else {**dict.fromkeys(told, 0), "none": 3},
            "by_themselves": 900 * number,
            "state": "waiting",
            "said": "",
            "point": None,
        }
        for number, week in enumerate(weeks)
    ]
    plan = {
        "waves": waves,
        "told": 130_302,
        "spared": 14,
        "at_once": 140_001,
        "ends": "2026-07-02",
        "warning": "The new maximum age is 25 d for some. Over more than 3 weeks, those who are "
        "told first have to change once more when the draft is published.",
        "seen": "a" * 64,
    }
    page.route("**/spreads/plan?*", lambda route: route.fulfill(json=plan))
    page.get_by_role("button", name="Plan it …").click()
    page.get_by_role("button", name="Have it begun …").click()


def spread_under_way(page: Page) -> None:
    """As if one were under way, about to be stopped."""
    said = (
        "20,410 of 21,714 accounts must change their password. 1,304 had another password by then."
    )
    waves = [
        {
            "begins": f"2026-03-{number:02}",
            "told": {"exposed": number, "shared": 0, "privileged": 1, "none": 20_000},
            "by_themselves": 77,
            "state": state,
            "said": said if state == "done" else "",
            "point": None,
        }
        for number, state in enumerate(("done", "done", "begun", "waiting", "waiting"), 1)
    ]
    spread = {
        "id": 1,
        "draft": 1,
        "title": "Shorter lives for everybody who signs in anywhere at all",
        "state": "running",
        "begins": "2026-03-01",
        "ends": "2026-04-05",
        "waves": waves,
        "by": "ann",
        "reason": "Agreed",
        "made_at": "2026-02-27T12:00:00Z",
        "job": None,
        "directory": "waits",
    }
    page.route("**/spreads", lambda route: route.fulfill(json=[spread]))
    page.reload()
    page.get_by_role("button", name="Stop it …").click()


def mailing_asked(page: Page) -> None:
    page.get_by_role("radio", name="written to", exact=True).click()
    page.get_by_label("Days before a password ends").fill("0")
    page.get_by_text("Give at most 6 numbers").wait_for()
    press(page, "Save …")
    page.get_by_label("Why", exact=True).fill("So that nobody is surprised")


NOBODY = [
    State("own page: switched off", "/you", "Your password"),
    State("own page: waiting", "/you", "Your password", lambda page: at_own_door(page, NAME)),
    State(
        "own page: several domains",
        "/you",
        "Your password",
        lambda page: at_own_door(page, NAME, "the-other-observatory.tarnholt.example"),
    ),
    State("own page: typed", "/you", "Your password", partial(at_own_page, act=own_typed)),
    State("own page: refused", "/you", "Your password", partial(at_own_page, act=own_refused)),
    State("own page: suggested", "/you", "Your password", partial(at_own_page, act=own_suggested)),
    State("own page: over", "/you", "Your password", partial(at_own_page, act=known_no_more)),
    State(
        "own page: to be changed, locked and too new",
        "/you",
        "Your password",
        partial(
            at_own_page,
            must_change=True,
            lock={"until": "2026-03-02T09:30:00+00:00"},
            changes_from="2026-03-03T09:30:00+00:00",
            set_at=None,
            ends_at=None,
            ends_why="Must change at next sign-in.",
            bands=[],
            ways=[],
        ),
    ),
    State("sign in", "/", "Sign in"),
    State("sign in: wrong password", "/", "Sign in", wrong_password),
    State("sign in: at a provider", "/", "Sign in", at_a_provider),
    State("sign in: refused by a provider", "/signed-in?error=denied", "Signing in"),
    State("sign in: back from a provider", "/", "Signing in", come_back),
    State("sign in: a password of one's own", "/", "Choose a password", once),
]

LIVE = [
    State("strata", f"{DOMAIN}/strata", "Strata"),
    State("strata: not in the directory", f"{DOMAIN}/strata", "Strata", not_in_the_directory),
    State("strata: layers named like", f"{DOMAIN}/strata?layers=office", "Strata"),
    State("strata: no such layer", f"{DOMAIN}/strata?layers=zz", "Strata"),
    State("strata: all columns, wide", f"{DOMAIN}/strata?all=1&zoom=4", "Strata"),
    State("strata: some populations", f"{DOMAIN}/strata?show=none", "Strata"),
    State("strata: weighing", f"{DOMAIN}/strata", "Strata", weighing),
    State(
        "strata: policy",
        f"{DOMAIN}/strata",
        "Night operators",
        lambda p: layer(p, "Night operators"),
    ),
    State(
        "strata: gone policy",
        f"{DOMAIN}/strata?policy=00000000-0000-0000-0000-000000000000",
        "Strata",
    ),
    State("strata: editing", f"{DOMAIN}/strata", "Night operators", editing),
    State("strata: refused edit", f"{DOMAIN}/strata", "Night operators", refused),
    State("strata: unreadable edit", f"{DOMAIN}/strata", "Night operators", unreadable),
    State("strata: asked besides", f"{DOMAIN}/strata?policy=domain&besides=1", "Bedrock"),
    State(
        "strata: a rule typed",
        f"{DOMAIN}/strata?policy=domain&besides=1",
        "Bedrock",
        rule_typed,
    ),
    State(
        "strata: a list typed",
        f"{DOMAIN}/strata?policy=domain&besides=1&list=%20",
        "Bedrock",
        list_typed,
    ),
    State("strata: linking", f"{DOMAIN}/strata", "Night operators", linking),
    State("strata: attributes", f"{DOMAIN}/strata", "Night operators", attributes),
    State("strata: new policy", f"{DOMAIN}/strata?policy=new", "New policy"),
    State("strata: copy", f"{DOMAIN}/strata?policy=new&copy=none", "New policy"),
    State("strata: touched by one", f"{DOMAIN}/strata?focus=domain", "Strata"),
    State("strata: findings", f"{DOMAIN}/strata?policy=findings", "Findings"),
    State("strata: accepting a finding", f"{DOMAIN}/strata?policy=findings", "Findings", accepting),
    State("strata: accepted findings", f"{DOMAIN}/strata?policy=findings", "Findings", accepted),
    State("strata: bedrock", f"{DOMAIN}/strata?policy=domain", "Bedrock"),
    State("strata: source", f"{DOMAIN}/strata?policy=domain&source=none", "Bedrock"),
    State("frame: keys", f"{DOMAIN}/strata", "Strata", lambda p: press(p, "Keys")),
    State("frame: domains", f"{DOMAIN}/strata", "Strata", lambda p: press(p, "choose another")),
    State("frame: person", f"{DOMAIN}/strata", "Strata", lambda p: press(p, "Signed in as")),
    State("frame: found", f"{DOMAIN}/strata", "Strata", partial(found, text="ki")),
    State("frame: nothing found", f"{DOMAIN}/strata", "Strata", partial(found, text="zzzz")),
    State("frame: unsaved", f"{DOMAIN}/strata", "Night operators", unsaved),
    State("bench: nobody", f"{DOMAIN}/strata", "Strata", lambda p: press(p, "Open the bench")),
    State("bench: candidate", f"{DOMAIN}/strata", "Strata", lay),
    State("bench: hidden candidate", f"{DOMAIN}/strata", "Strata", hidden),
    State("bench: on it", f"{DOMAIN}/strata", "Strata", crowd),
    State(
        "bench: circumstances", f"{DOMAIN}/strata", "Strata", partial(bench, then="Circumstances")
    ),
    State("bench: suggestions", f"{DOMAIN}/strata", "Strata", partial(bench, then="Suggest")),
    State(
        "bench: keep a trial", f"{DOMAIN}/strata", "Strata", partial(bench, then="Keep as trial")
    ),
    State("bench: boundaries", f"{DOMAIN}/strata", "Strata", boundaries),
    State("bench: trials", f"{DOMAIN}/strata", "Strata", lambda p: press(p, "Trials", "radio")),
    State("drill: nobody", f"{DOMAIN}/strata", "Strata", lambda p: press(p, "Drill", "radio")),
    State("drill: a device", f"{DOMAIN}/strata", "Strata", drill),
    State("drill: one's own", f"{DOMAIN}/strata", "Strata", drilled),
    State("drill: unreadable", f"{DOMAIN}/strata", "Strata", unreadable_story),
    State("drill: keep a trial", f"{DOMAIN}/strata", "Strata", drill_kept),
    State("bench: rehearsal", f"{DOMAIN}/strata", "Strata", rehearsing),
    State("bench: rehearsed", f"{DOMAIN}/strata", "Strata", rehearsed),
    State("bench: rehearsal refused", f"{DOMAIN}/strata", "Strata", unrehearsed),
    State("sources: read, with news", f"{DOMAIN}/sources", "Sources", read_with_news),
    State("sources: being read", f"{DOMAIN}/sources", "Sources", read_going),
    State("sources: reading failed", f"{DOMAIN}/sources", "Sources", read_failed),
    State("sources: reading held", f"{DOMAIN}/sources", "Sources", read_held),
    State(
        "sources: reading held, asked for",
        f"{DOMAIN}/sources",
        "Sources",
        read_held_for_a_second_person,
    ),
    State("sources: connection", f"{DOMAIN}/sources", "Sources", connection),
    State("sources: gate", f"{DOMAIN}/sources?gate={NAME}&asked=ilse", "Sources", gate),
    State("sources: gate for one", f"{DOMAIN}/sources?gate={NAME}", "Sources", gate_made),
    State(
        "core: another password", f"{DOMAIN}/accounts?account=ilse.varga", "ilse.varga", must_change
    ),
    State(
        "sources: connection refused",
        f"{DOMAIN}/sources?connect=other.example",
        "Sources",
        connection_refused,
    ),
    State("own: a token", f"{DOMAIN}/own", "Your sign-in", token_made),
    State("people: one", f"{DOMAIN}/people?person=ben", "People"),
    State("people: waiting", f"{DOMAIN}/people", "People", asked_for),
    State("people: showing again", f"{DOMAIN}/people", "People", shown_again),
    State("people: proving", f"{DOMAIN}/people", "People", proving),
    State("trail: one opened", f"{DOMAIN}/trail?words=tarnholt", "Trail", opened),
    State("trail: none", f"{DOMAIN}/trail?words=zzzz&of=x&deed=draft", "Trail"),
    State("sources: settling", f"{DOMAIN}/sources", "Sources", settling),
    State("strata: report", f"{DOMAIN}/strata", "Strata", lambda p: press(p, "Report …")),
    State("exposure", f"{DOMAIN}/exposure", "Exposure"),
    State("exposure: much", f"{DOMAIN}/exposure?under=domain", "Exposure", exposed),
    State("forecast", f"{DOMAIN}/forecast", "Forecast"),
    State("forecast: window", f"{DOMAIN}/forecast?plane=window&skew=1.2", "Forecast"),
    State("forecast: table", f"{DOMAIN}/forecast?as=table", "Forecast"),
    State("forecast: refused", f"{DOMAIN}/forecast?skew=9&size=x", "Forecast"),
    State("forecast: expiries", f"{EXPIRIES}&days=30", "Forecast"),
    State("forecast: days", f"{EXPIRIES}&as=table&calls=12.5&least=15", "Forecast"),
    State("forecast: days refused", f"{EXPIRIES}&days=x&calls=900&least=x", "Forecast"),
    State("forecast: burden", f"{DOMAIN}/forecast?of=burden", "Forecast"),
    State("forecast: in numbers", f"{DOMAIN}/forecast?of=burden&as=table", "Forecast"),
    State("forecast: habits refused", f"{DOMAIN}/forecast?of=burden&sign_ins=x", "Forecast"),
    State("forecast: spread", f"{EXPIRIES}", "Forecast", spread_under_way),
    State("forecast: mark moved", f"{DOMAIN}/forecast", "Forecast", mark_moved),
    State("accounts", f"{DOMAIN}/accounts", "Accounts"),
    State("accounts: locked", f"{DOMAIN}/accounts?view=locked", "Accounts"),
    State("accounts: unlocking", f"{DOMAIN}/accounts?view=locked", "Accounts", unlocking),
    State(
        "accounts: filtered",
        f"{DOMAIN}/accounts?way=group&tie=true&enabled=true&order=expires&descending=true",
        "Accounts",
    ),
    State(
        "accounts: by all",
        f"{DOMAIN}/accounts?q=a&policy=domain&locked=false&expiry=expired&privileged=false",
        "Accounts",
    ),
    State("accounts: none", f"{DOMAIN}/accounts?q=zzzz", "Accounts"),
    State(
        "accounts: gone population",
        f"{DOMAIN}/accounts?population=none&within=3&set_before=2025-01-01T00:00:00Z",
        "Accounts",
    ),
    State(
        "accounts: gone filter",
        f"{DOMAIN}/accounts?policy=00000000-0000-0000-0000-000000000000",
        "Accounts",
    ),
    State(
        "accounts: flags",
        f"{DOMAIN}/accounts?flag=never_expires&container=DC%3Dsky,DC%3Dtarnholt,DC%3Dexample",
        "Accounts",
    ),
    State("accounts: filters", f"{DOMAIN}/accounts", "Accounts", filters),
    State("accounts: columns", f"{DOMAIN}/accounts", "Accounts", lambda p: press(p, "Columns")),
    State("accounts: one", f"{DOMAIN}/accounts?account=kiosk-north", "kiosk-north"),
    State("accounts: nobody of that name", f"{DOMAIN}/accounts?account=nobody", "nobody"),
    State(
        "accounts: two",
        f"{DOMAIN}/accounts?account=kiosk-north&beside=ilse.varga",
        "kiosk-north and ilse.varga",
    ),
    State("accounts: group", f"{DOMAIN}/accounts?group=GS-Night-Operators", "GS-Night-Operators"),
    State("changes: drafts", f"{DOMAIN}/changes", "Open drafts"),
    State("changes: history", f"{DOMAIN}/changes?view=history", "History"),
    State("changes: being written", f"{DOMAIN}/changes", "Open drafts", on_its_way),
    State("changes: stopped", f"{DOMAIN}/changes", "Open drafts", stopped_on_its_way),
    State("changes: about to be closed", f"{DOMAIN}/changes", "Open drafts", closed_as_it_is),
    State("sources", f"{DOMAIN}/sources", "Sources"),
    State("baselines", f"{DOMAIN}/baselines", "Baselines"),
    State(
        "baselines: a gap",
        f"{DOMAIN}/baselines?baseline=privileged&recommendation=length",
        "Baselines",
        lambda page: page.get_by_role("region", name="Gaps").wait_for(),
    ),
    State("baselines: two", f"{DOMAIN}/baselines?beside=privileged", "Baselines"),
    State(
        "policy: beside a baseline",
        f"{DOMAIN}/strata?against=baseline+nist-sp-800-63b-4",
        "Night operators",
        asked,
    ),
    State(
        "baselines: no such",
        f"{DOMAIN}/baselines?baseline=nothing",
        "Baselines",
        lambda page: page.get_by_role("alert").wait_for(),
    ),
    State("servers: none", f"{DOMAIN}/servers?set=new", "Servers"),
    State("servers", f"{DOMAIN}/servers", "Servers", partial(servers, then="DOME-000")),
    State(
        "servers: one",
        f"{DOMAIN}/servers?set=1&server=DOME-007",
        "Servers",
        partial(servers, then="It differs in 1 setting"),
    ),
    State(
        "servers: the set",
        f"{DOMAIN}/servers",
        "Servers",
        partial(more_of_servers, what="More about", tied=True),
    ),
    State(
        "servers: how a file is taken in",
        f"{DOMAIN}/servers",
        "Servers",
        partial(more_of_servers, what="How to take one in"),
    ),
    State(
        "sources: a policy file held against live",
        f"{DOMAIN}/sources",
        "Sources",
        partial(policy_file, text="policies: []\n", then="wants 8 changes of live"),
    ),
    State(
        "sources: a policy file that is wrong",
        f"{DOMAIN}/sources",
        "Sources",
        partial(policy_file, text="polices: []\ndomain_policy: 5\n", then="cannot be taken"),
    ),
    State("sources: notices by mail", f"{DOMAIN}/sources?mailing={NAME}", "Sources"),
    State(
        "sources: notices asked for", f"{DOMAIN}/sources?mailing={NAME}", "Sources", mailing_asked
    ),
    State("sources: report by mail", f"{DOMAIN}/sources?reporting={NAME}", "Sources"),
    State("sources: report came", f"{DOMAIN}/sources?reporting={NAME}", "Sources", report_came),
    State("sources: written to", f"{DOMAIN}/sources?mailing={NAME}", "Sources", written_to),
    State("sources: taking a domain out", f"{DOMAIN}/sources", "Sources", removing),
    State("card: account", f"{DOMAIN}/card?account=ilse.varga", "Card for ilse.varga"),
    State("card: policy", f"{DOMAIN}/card?policy=domain", "Card for Domain policy"),
    State("no such page", "/a/b/c", "No such page"),
]

DRAFTED = [
    State("draft: strata", f"{DRAFT}/strata", "Strata"),
    State(
        "draft: policy", f"{DRAFT}/strata", "Night operators", lambda p: layer(p, "Night operators")
    ),
    State("draft: asked besides", f"{DRAFT}/strata", "Night operators", besides),
    State("draft: deleting", f"{DRAFT}/strata", "Phrase pilot", deleting),
    State("draft: accounts", f"{DRAFT}/accounts", "Accounts"),
    State("draft: forecast", f"{DRAFT}/forecast", "Forecast"),
    State("draft: spread", f"{DRAFT}/forecast?of=expiries", "Forecast", spread_planned),
    State("draft: spread refused", f"{DRAFT}/forecast?of=expiries&weeks=x", "Forecast"),
    State("draft: burden", f"{DRAFT}/forecast?of=burden&plane=window", "Forecast"),
    State("draft: expiries", f"{DRAFT}/forecast?of=expiries&days=120", "Forecast"),
    State(
        "draft: baselines",
        f"{DRAFT}/baselines?recommendation=length",
        "Baselines",
        lambda page: page.get_by_role("region", name="Gaps").wait_for(),
    ),
    State("draft: drill", f"{DRAFT}/strata", "Strata", drill),
    State("draft: changes", f"{DRAFT}/changes", "This draft"),
    State("draft: publishing", f"{DRAFT}/changes", "This draft", publishing),
    State("draft: looked at in the directory", f"{DRAFT}/changes", "This draft", previewed),
    State("draft: the directory is away", f"{DRAFT}/changes", "This draft", unasked),
    State(
        "draft: dropping", f"{DRAFT}/changes", "This draft", lambda p: press(p, "Drop the draft")
    ),
    State("draft: drafts", f"{DRAFT}/changes?view=drafts", "Open drafts"),
    State("draft: bench", f"{DRAFT}/strata", "Strata", lay),
    State("draft: gone", f"{DOMAIN}~99/strata", "Strata"),
]

SCREENS = (
    "strata",
    "accounts",
    "changes",
    "baselines",
    "servers",
    "exposure",
    "forecast",
    "sources",
    "own",
    "people",
    "trail",
    "card?policy=domain",
)


def settled(page: Page) -> None:
    """What is shown is there, and nothing in it is on its way any more."""
    expect(page.locator("main").get_by_text(re.compile("^Reading "))).to_have_count(0)
    expect(page.locator("[aria-busy=true]")).to_have_count(0)
