"""The `hornfels` command. Heavy modules load inside the commands: scripts call it hundreds of
times.
"""

from __future__ import annotations

import os
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Literal

import typer

from hornfels.refusals import RefusalError

# Looking for Pydantic plugins reads the metadata of every installed package: a third of the start,
# for nothing.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
# Starting a thread for each processor costs more than the linear algebra that we never do.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help=(
        "See which password policy holds for whom in a Windows domain, try passwords against it, "
        "and change it knowingly."
    ),
)
users = typer.Typer(no_args_is_help=True, help="People who may sign in.", rich_markup_mode=None)
acts = typer.Typer(
    no_args_is_help=True, help="What waits for a second person.", rich_markup_mode=None
)
audit = typer.Typer(no_args_is_help=True, help="The trail of what was done.", rich_markup_mode=None)
db = typer.Typer(no_args_is_help=True, help="The database.", rich_markup_mode=None)
templates = typer.Typer(
    no_args_is_help=True, help="Security templates of machines.", rich_markup_mode=None
)
gate = typer.Typer(
    no_args_is_help=True, help="The gate on a directory server.", rich_markup_mode=None
)
corpus = typer.Typer(
    no_args_is_help=True, help="Lists of known-exposed passwords.", rich_markup_mode=None
)
app.add_typer(templates, name="templates")
app.add_typer(corpus, name="corpus")
app.add_typer(gate, name="gate")
app.add_typer(users, name="user")
app.add_typer(acts, name="act")
app.add_typer(audit, name="audit")
app.add_typer(db, name="db")


def _tell_version(wanted: bool) -> None:
    if wanted:
        from importlib.metadata import version

        typer.echo(f"hornfels {version('hornfels')}")
        raise typer.Exit


@app.callback()
def _any_command(
    _version: Annotated[
        bool,
        typer.Option(
            "--version", callback=_tell_version, is_eager=True, help="Say which version this is."
        ),
    ] = False,
) -> None:
    pass


DumpFile = Annotated[
    Path,
    typer.Argument(
        metavar="FILE.ldif",
        help="A dump of one domain as ldapsearch prints it; - for standard input.",
    ),
]
LinkedGroupsOption = Annotated[
    Literal["global", "any"],
    typer.Option(
        "--linked-groups",
        help=(
            "Which linked groups count: global security groups (the specification) or any "
            "security group (some servers)."
        ),
    ),
]
Corpora = Annotated[
    list[str] | None,
    typer.Option(
        "--corpus",
        metavar="NAME=FILE.hfc",
        help="A corpus of exposed passwords by the name that additions call it.",
    ),
]
Json = Annotated[bool, typer.Option("--json", help="One JSON object a line.")]


@app.command()
def resolve(
    file: DumpFile,
    account: Annotated[
        list[str] | None,
        typer.Option("--account", help="Only this account (name or DN); may be repeated."),
    ] = None,
    linked_groups: LinkedGroupsOption = "global",
    csv: Annotated[
        bool, typer.Option("--csv", help="A table for spreadsheets, with expiry and lock.")
    ] = False,
    json: Json = False,
) -> None:
    """Which policy each account of a dump gets, and from where."""
    from hornfels.cli.resolve import print_accounts, print_resolution

    if csv and json:
        raise typer.BadParameter("--csv and --json are two answers; choose one")
    if csv:
        print_accounts(file, account or [], linked_groups)
    else:
        print_resolution(file, account or [], linked_groups, as_json=json)


@app.command()
def forecast(
    file: DumpFile,
    days: Annotated[int, typer.Option("--days", min=1, max=3660, help="How many days.")],
    since: Annotated[
        str | None,
        typer.Option("--from", metavar="ISO8601", help="The first day (UTC); today if left out."),
    ] = None,
    linked_groups: LinkedGroupsOption = "global",
    json: Json = False,
) -> None:
    """Count the passwords in a dump by the day on which they expire."""
    from hornfels.cli.forecast import print_forecast

    print_forecast(file, days, since, linked_groups, as_json=json)


@app.command("try")
def try_(
    file: DumpFile,
    account: Annotated[
        str, typer.Option("--account", help="The account to try candidates on (name or DN).")
    ],
    operation: Annotated[
        Literal["change", "reset"],
        typer.Option("--operation", help="change: by its owner. reset: by an operator."),
    ],
    previous: Annotated[
        Path | None,
        typer.Option("--previous", help="Earlier passwords, newest first, one JSON string a line."),
    ] = None,
    last_set: Annotated[
        str | None,
        typer.Option("--last-set", metavar="ISO8601", help="When the present password was set."),
    ] = None,
    now: Annotated[
        str | None,
        typer.Option("--now", metavar="ISO8601", help="The moment of the trial; now if left out."),
    ] = None,
    policies: Annotated[
        Path | None,
        typer.Option(
            "--policies",
            metavar="POLICIES.yaml",
            help="Policies as this file has them, additions too.",
        ),
    ] = None,
    corpora: Corpora = None,
    present: Annotated[
        Path | None,
        typer.Option("--present", metavar="FILE", help="The present password, a JSON string."),
    ] = None,
    linked_groups: LinkedGroupsOption = "global",
    json_input: Annotated[
        bool, typer.Option("--json-input", help="Candidates are JSON strings, one a line.")
    ] = False,
    json: Json = False,
) -> None:
    """Try candidate passwords from standard input, one a line, against an account's policy."""
    from hornfels.cli.try_candidates import print_verdicts

    print_verdicts(
        file,
        account,
        operation,
        previous=previous,
        last_set=last_set,
        now=now,
        policies=policies,
        corpora=corpora or [],
        present=present,
        linked_groups=linked_groups,
        json_input=json_input,
        as_json=json,
    )


@app.command()
def drill(
    file: DumpFile,
    account: Annotated[
        str, typer.Option("--account", help="The account that it happens to (name or DN).")
    ],
    linked_groups: LinkedGroupsOption = "global",
    json: Json = False,
) -> None:
    """What bad and good tries and unlocks come to under an account's policy. Events on standard
    input, one JSON object a line: {"at": seconds, "event": "bad"|"good"|"old"|"unlock"}.
    """
    from hornfels.cli.drill import print_drill

    print_drill(file, account, linked_groups, as_json=json)


@app.command()
def export(
    file: DumpFile,
    into: Annotated[
        Path | None,
        typer.Option(
            "--into",
            metavar="POLICIES.yaml",
            help="Bring this policy file up to date instead; its comments stay.",
        ),
    ] = None,
    linked_groups: LinkedGroupsOption = "global",
) -> None:
    """Write the policies of a dump as a policy file."""
    from hornfels.cli.policy_files import bring_up_to_date, print_policies

    if into is None:
        print_policies(file, linked_groups)
    else:
        bring_up_to_date(file, into, linked_groups)


PolicyFile = Annotated[
    Path,
    typer.Argument(metavar="POLICIES.yaml", help="A policy file; - for standard input."),
]
Against = Annotated[
    Path,
    typer.Option("--against", metavar="FILE.ldif", help="The dump that it is held against."),
]


@app.command()
def plan(
    file: PolicyFile,
    against: Against,
    linked_groups: LinkedGroupsOption = "global",
    json: Json = False,
    ldif: Annotated[bool, typer.Option("--ldif", help="Change records for ldapmodify.")] = False,
) -> None:
    """What a policy file would change. Status 0: nothing, 1: something, 2: the file is wrong."""
    from hornfels.cli.policy_files import print_plan

    print_plan(file, against, linked_groups, as_json=json, as_ldif=ldif)


@app.command()
def apply(
    file: PolicyFile,
    title: Annotated[str, typer.Option("--title", help="What the draft is called.")] = "",
    reason: Annotated[str, typer.Option("--reason", help="Why; history keeps it.")] = "",
    publish: Annotated[
        bool, typer.Option("--publish", help="Make it live at once, if the domain allows it.")
    ] = False,
) -> None:
    """Make a draft of what a policy file wants of its domain, or publish it."""
    from hornfels.cli.apply import apply_file

    apply_file(file, title, reason, publish=publish)


@app.command()
def trials(
    file: PolicyFile,
    against: Against,
    corpora: Corpora = None,
    linked_groups: LinkedGroupsOption = "global",
    json: Json = False,
) -> None:
    """Run the trials in a policy file against the policies in it. Status 1 if one fails."""
    from hornfels.cli.policy_files import print_trials

    print_trials(file, against, linked_groups, corpora=corpora or [], as_json=json)


@app.command()
def baseline(
    file: DumpFile,
    name: Annotated[
        str,
        typer.Option(
            "--baseline",
            metavar="NAME|FILE.yaml",
            help="nist-sp-800-63b-4, privileged, services, or a file of your own.",
        ),
    ],
    linked_groups: LinkedGroupsOption = "global",
    json: Json = False,
) -> None:
    """How far the accounts of a dump follow a baseline, recommendation by recommendation."""
    from hornfels.cli.baseline import print_assessment

    print_assessment(file, name, linked_groups, as_json=json)


@app.command()
def report(
    file: Annotated[
        Path | None, typer.Argument(metavar="[FILE.ldif]", help="A dump; or name a --domain.")
    ] = None,
    domain: Annotated[
        str, typer.Option("--domain", metavar="NAME", help="A domain that Hornfels keeps.")
    ] = "",
    baseline: Annotated[
        list[str] | None,
        typer.Option("--baseline", metavar="NAME|FILE.yaml", help="May be repeated."),
    ] = None,
    since: Annotated[
        datetime | None,
        typer.Option("--since", formats=["%Y-%m-%d"], help="Changes from this day on, in UTC."),
    ] = None,
    publish: Annotated[
        int | None,
        typer.Option("--publish", metavar="NUMBER", help="This publish instead of all."),
    ] = None,
    output: Annotated[
        Path | None, typer.Option("--output", "-o", metavar="FILE.html", help="Else it is printed.")
    ] = None,
    linked_groups: LinkedGroupsOption = "global",
) -> None:
    """A report for people who look at no screen, as one HTML file: of a dump, or of a domain that
    Hornfels keeps with its changes and approvals.
    """
    from hornfels.cli.report import of_domain, of_dump

    if (file is None) == (not domain):
        raise typer.BadParameter("name a dump or a --domain, and not both")
    if file is not None and (since or publish is not None):
        raise typer.BadParameter("a dump has no history: --since and --publish take a --domain")
    if file is not None:
        of_dump(file, baseline or [], linked_groups, output)
    else:
        of_domain(domain, baseline or [], since.date() if since else None, publish, output)


@app.command()
def schema() -> None:
    """Print the JSON Schema of policy files, for editors."""
    from hornfels.cli.policy_files import print_schema

    print_schema()


@app.command()
def load(
    file: DumpFile,
    linked_groups: LinkedGroupsOption = "global",
    smaller: Annotated[
        str,
        typer.Option(
            "--smaller",
            metavar="REASON",
            help="Load it although the domain loses more than a tenth of its accounts, and why.",
        ),
    ] = "",
) -> None:
    """Bring a domain into Hornfels, or replace what is stored of it."""
    from hornfels.cli.load import load_file

    load_file(file, linked_groups, smaller)


Port = Annotated[int | None, typer.Option("--port", help="Port to listen on; 8470 as usual.")]


@app.command()
def serve(
    host: Annotated[str | None, typer.Option("--host", help="Address to listen on.")] = None,
    port: Port = None,
    certificate: Annotated[
        Path | None,
        typer.Option(
            "--certificate",
            help="A certificate with its chain (PEM): then Hornfels speaks TLS itself.",
        ),
    ] = None,
    key: Annotated[Path | None, typer.Option("--key", help="The certificate’s key (PEM).")] = None,
    proxies: Annotated[
        str | None,
        typer.Option("--proxies", help="Addresses of the proxies before it, with commas."),
    ] = None,
    plain: Annotated[
        bool | None,
        typer.Option("--plain", help="Listen beyond loopback without TLS."),
    ] = None,
) -> None:
    """Start the web application. What is not given here is as set: see `hornfels settings`."""
    from hornfels.cli.serve import serve_web
    from hornfels.cli.settings import settings

    held = settings(
        host=host, port=port, certificate=certificate, key=key, proxies=proxies, plain=plain
    )
    serve_web(held, demo=False)


@app.command()
def demo(port: Port = None) -> None:
    """Start the web application with the Tarnholt Sky Survey, an invented domain."""
    from hornfels.cli.serve import serve_web
    from hornfels.cli.settings import settings

    serve_web(settings(host="127.0.0.1", port=port), demo=True)


@app.command("settings")
def list_settings() -> None:
    """Every setting: what holds, and what it means."""
    from hornfels.cli.settings import list_settings as list_

    list_()


@app.command()
def worker(
    while_parent: Annotated[
        bool, typer.Option("--while-parent", hidden=True, help="End when standard input closes.")
    ] = False,
) -> None:
    """Do long work, such as loading uploaded dumps. `serve` and `demo` start one; more can run, on
    any machine.
    """
    from hornfels.cli.work import run_worker

    run_worker(while_parent=while_parent)


@app.command("demo-dump")
def demo_dump(
    file: Annotated[
        Path, typer.Argument(metavar="FILE.ldif", help="Where to write it; - for standard output.")
    ],
) -> None:
    """Write the invented domain as an LDIF dump."""
    from hornfels.cli.demo_dump import write_demo

    write_demo(file)


UserName = Annotated[str, typer.Argument(metavar="NAME", help="The name to sign in with.")]
RoleName = Annotated[
    Literal["viewer", "help desk", "author", "approver", "administrator"],
    typer.Option("--role", help="What they may do."),
]
InDomain = Annotated[
    str, typer.Option("--domain", help="Where: a domain's DNS name, or * for every one.")
]


@users.command("add")
def add_user(
    name: UserName,
    role: RoleName = "administrator",
    domain: InDomain = "*",
    one_time: Annotated[
        bool, typer.Option("--one-time", help="Make a password to be used once and print it.")
    ] = False,
    elsewhere: Annotated[
        bool, typer.Option("--elsewhere", help="They sign in at the provider that is set.")
    ] = False,
) -> None:
    """Let somebody sign in; asks for a password, or reads one line from standard input."""
    from hornfels.cli.people import add_user as add

    add(name, role, domain, one_time=one_time, elsewhere=elsewhere)


@users.command("list")
def list_users() -> None:
    """Who may sign in, and what they may do."""
    from hornfels.cli.people import list_users as list_

    list_()


@users.command("role")
def change_role(
    name: UserName,
    role: RoleName,
    domain: InDomain = "*",
    take: Annotated[
        bool, typer.Option("--take", help="Take the role instead of giving it.")
    ] = False,
) -> None:
    """Give somebody a role, or take it."""
    from hornfels.cli.people import change_role as change

    change(name, role, domain, take=take)


@users.command("reset")
def reset_user(name: UserName) -> None:
    """Give somebody a password to be used once, and let them in again if they were shut out."""
    from hornfels.cli.people import reset_user as reset

    reset(name)


@users.command("shut")
def shut_user(name: UserName) -> None:
    """Let somebody sign in no longer, and end their sessions."""
    from hornfels.cli.people import shut_user as shut

    shut(name, let_in=False)


@users.command("let-in")
def let_user_in(name: UserName) -> None:
    """Let somebody who was shut out sign in again."""
    from hornfels.cli.people import shut_user as shut

    shut(name, let_in=True)


BackupFile = Annotated[Path, typer.Argument(metavar="FILE")]


@db.command("upgrade")
def upgrade_db() -> None:
    """Bring the schema of the database up to date, as every other command does on its way."""
    from hornfels.cli.db import upgrade

    upgrade()


@db.command("backup")
def backup_db(file: BackupFile) -> None:
    """Write all that is stored into a file, while everybody goes on working."""
    from hornfels.cli.db import write_backup

    write_backup(file)


@db.command("restore")
def restore_db(file: BackupFile) -> None:
    """Fill an empty database from a file, of this or an earlier version of Hornfels."""
    from hornfels.cli.db import restore

    restore(file)


@db.command("upgrade-server")
def upgrade_server_db() -> None:
    """Move the private database to the newest installed version of PostgreSQL.

    Hornfels's servers and workers must be stopped. The command writes a backup, restores the backup
    into a new server, compares every table and then replaces the data folder. The old folder stays.
    """
    from hornfels.cli.db import upgrade_server

    upgrade_server()


ActNumber = Annotated[int, typer.Argument(metavar="NUMBER", min=1, max=2**31 - 1)]


@acts.command("list")
def list_acts() -> None:
    """What waits for a second person."""
    from hornfels.cli.acts import list_acts as list_

    list_()


@acts.command("confirm")
def confirm_act(number: ActNumber) -> None:
    """Let it happen, where there is no second person to confirm it."""
    from hornfels.cli.acts import settle

    settle(number, confirmed=True)


@acts.command("withdraw")
def withdraw_act(number: ActNumber) -> None:
    """Do not let it happen."""
    from hornfels.cli.acts import settle

    settle(number, confirmed=False)


TemplateFile = Annotated[
    Path, typer.Argument(metavar="FILE.inf", help="A security template; - for standard input.")
]


@templates.command("compare")
def compare_templates(
    files: Annotated[
        list[Path], typer.Argument(metavar="FILE.inf…", help="Security templates, two or more.")
    ],
    reference: Annotated[
        Path | None,
        typer.Option("--reference", metavar="FILE.inf", help="What all of them should say."),
    ] = None,
    json: Json = False,
) -> None:
    """What templates say of each setting. Status 1 if they do not agree."""
    from hornfels.cli.templates import compare

    compare(files, reference, as_json=json)


@templates.command("correct")
def correct_template(
    file: TemplateFile,
    like: Annotated[
        Path, typer.Option("--like", metavar="REFERENCE.inf", help="Whose account settings.")
    ],
) -> None:
    """Write a template with the account settings of another one; all else stays byte for byte."""
    from hornfels.cli.templates import correct

    correct(file, like)


@templates.command("correct-all")
def correct_templates(
    files: Annotated[
        list[Path], typer.Argument(metavar="FILE.inf…", help="Called as the servers are.")
    ],
    archive: Annotated[
        Path, typer.Option("--output", "-o", metavar="FILE.zip", help="Where they are written.")
    ],
    reference: Annotated[
        Path | None,
        typer.Option("--reference", metavar="FILE.inf", help="What all of them should say."),
    ] = None,
) -> None:
    """Write the templates that differ as they should be. Status 1 if none does."""
    from hornfels.cli.templates import correct_all

    correct_all(files, reference, archive)


@audit.command("verify")
def verify_trail(
    anchor: Annotated[
        str,
        typer.Option(
            "--anchor",
            metavar="NUMBER:DIGEST",
            help="What an earlier run printed: shows whether entries were cut off since.",
        ),
    ] = "",
) -> None:
    """Whether every entry of the trail is as it was written; exit status 1 if not."""
    from hornfels.cli.audit import verify

    verify(anchor)


@audit.command("prune")
def prune_trail(
    before: Annotated[
        datetime, typer.Option("--before", formats=["%Y-%m-%d"], help="A day, in UTC.")
    ],
    reason: Annotated[str, typer.Option("--reason", help="Why; it stands in the trail.")],
) -> None:
    """Take entries out that are older than a day, leaving a signed stump."""
    from hornfels.cli.audit import prune

    prune(before.replace(tzinfo=UTC), reason)


SocketOption = Annotated[
    Path, typer.Option("--socket", help="Where on this machine the gate is asked.")
]
_SOCKET = Path("/run/hornfels/gate.sock")


@gate.command("serve")
def serve_gate(
    address: Annotated[
        str, typer.Option("--from", metavar="ADDRESS", help="Hornfels, which gives the rules.")
    ],
    token_file: Annotated[
        Path, typer.Option("--token-file", help="Holds the caller's token (Sources, Gate).")
    ],
    socket: SocketOption = _SOCKET,
    authorities: Annotated[
        Path | None,
        typer.Option(
            help="Certificates (PEM) that Hornfels' is trusted by, if not the usual ones."
        ),
    ] = None,
) -> None:
    """Answer here whether passwords may be set.

    By the rules that Hornfels gives, or gave last.
    """
    from hornfels.cli.gate import run_gate

    run_gate(address, token_file, socket, authorities)


@gate.command("hook")
def gate_hook(
    otherwise: Annotated[
        Literal["refuse", "accept"],
        typer.Option(help="What becomes of a password about which no answer comes in 0.3 s."),
    ],
    socket: SocketOption = _SOCKET,
) -> None:
    """What a directory server needs to be told to ask here."""
    from hornfels.cli.gate import hook_line

    print(hook_line(socket, otherwise))


CorpusFile = Annotated[Path, typer.Argument(metavar="FILE.hfc", help="A compiled corpus.")]
CorpusOutput = Annotated[
    Path, typer.Option("--output", "-o", metavar="FILE.hfc", help="The corpus to make.")
]


@corpus.command("build")
def build_corpus(
    sources: Annotated[
        list[Path],
        typer.Argument(metavar="SOURCE…", help="Text files, packed by gzip or not."),
    ],
    output: CorpusOutput,
    kind: Annotated[
        Literal["sha1", "nt", "plain"],
        typer.Option(help="What stands on each line: HASH or HASH:COUNT, or a password."),
    ],
    folded: Annotated[
        bool,
        typer.Option("--folded", help="Passwords as they look at a glance, for look-alikes."),
    ] = False,
    memory: Annotated[
        int, typer.Option(min=0, help="Megabytes that sorting may take; 0 for the usual.")
    ] = 0,
) -> None:
    """Compile lists into one corpus, their counts added up.

    What was ended in the middle goes on where it stopped when it is run again.
    """
    from hornfels.cli.corpus import build_corpus

    build_corpus(output, kind, sources, look_alike=folded, megabytes=memory)


@corpus.command("merge")
def merge_corpora(
    sources: Annotated[
        list[Path], typer.Argument(metavar="FILE.hfc…", help="Corpora of one kind.")
    ],
    output: CorpusOutput,
) -> None:
    """Make one corpus of several, their counts added up."""
    from hornfels.cli.corpus import merge_corpora

    merge_corpora(output, sources)


@corpus.command("info")
def show_corpus(file: CorpusFile, as_json: Json = False) -> None:
    """What a corpus holds, after all of it was read and found whole."""
    from hornfels.cli.corpus import show_corpus

    show_corpus(file, as_json=as_json)


@corpus.command("find")
def find_in_corpus(
    file: CorpusFile,
    kind: Annotated[
        Literal["plain", "sha1", "nt"],
        typer.Option(help="What stands on each line of standard input: a password, or a hash."),
    ] = "plain",
    as_json: Json = False,
) -> None:
    """How often each line of standard input was seen."""
    from hornfels.cli.corpus import find_in_corpus

    find_in_corpus(file, kind, as_json=as_json)


def run() -> None:
    """Entry point of the `hornfels` command. What a use case refuses is told here, in one line."""
    try:
        app()
    except RefusalError as error:
        from hornfels.cli.errors import fail

        fail(str(error))
