"""Servers that should agree: their templates taken in, compared, corrected."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query
from fastapi.responses import Response

from hornfels.api.address import Route
from hornfels.api.deps import RAW_BODY, Current, Database, RawBody, User
from hornfels.api.exporting import attached, exported, sent_as
from hornfels.api.publication_schemas import SaidInfo
from hornfels.api.rights import needs
from hornfels.api.server_schemas import (
    FolderProblem,
    HeldAgainst,
    HoldAgainst,
    ServerCourse,
    ServerDay,
    ServerInfo,
    ServerMatrix,
    ServerSetInfo,
    ServerSetNew,
    ServerSets,
    ServerSetting,
    ServerTaken,
    ServerTurn,
    WatchedServers,
)
from hornfels.core.drafts.sentences import said_text
from hornfels.core.policy.catalogue import TEMPLATE_SETTINGS
from hornfels.core.servers.agreement import Row
from hornfels.formats.server_files import IMPORT, MOST_NAME
from hornfels.service import server_folder, servers
from hornfels.service.servers import Found, found
from hornfels.settings import read_settings
from hornfels.store import servers as kept

router = APIRouter(prefix="/api/domains/{domain}/server-sets", tags=["servers"], route_class=Route)

Number = Annotated[int, Path(ge=1, le=2**31 - 1)]
ServerName = Annotated[str, Query(min_length=1, max_length=MOST_NAME)]


@router.get("", dependencies=[needs("see")])
def list_sets(current: Current, database: Database) -> ServerSets:
    """The sets of servers that should agree, with how many do."""
    watched = server_folder.watched(current.estate.domain.dns_name, read_settings())
    return ServerSets(
        sets=[_info(found(database, row)) for row in kept.sets(database, current.domain_id)],
        watched=WatchedServers(
            folder=str(watched.folder),
            problems=[FolderProblem(place=p, problem=told) for p, told in watched.problems],
        )
        if watched
        else None,
    )


@router.post("", status_code=201, dependencies=[needs("load", proof=False)])
def create(body: ServerSetNew, current: Current, database: Database) -> ServerSetInfo:
    """Make a set of servers."""
    return _info(found(database, servers.create(database, current.domain_id, body.name)))


@router.post("/watched", dependencies=[needs("load", proof=False)])
def read_watched(current: Current, database: Database) -> ServerSets:
    """Read what is new in the watched folder now."""
    name = current.estate.domain.dns_name
    server_folder.read_folder(database, current.domain_id, name, read_settings())
    return list_sets(current, database)


@router.get("/{number}", dependencies=[needs("see")])
def get_set(number: Number, current: Current, database: Database) -> ServerMatrix:
    """A set of servers against settings, the odd ones out marked."""
    return _matrix(database, found(database, kept.find(database, current.domain_id, number)))


@router.patch("/{number}", dependencies=[needs("load", proof=False)])
def rename(
    number: Number, body: ServerSetNew, current: Current, database: Database
) -> ServerSetInfo:
    """Call a set by another name."""
    group = kept.find(database, current.domain_id, number, for_writing=True)
    servers.rename(database, group, body.name)
    return _info(found(database, group))


@router.delete("/{number}", status_code=204, dependencies=[needs("load", proof=False)])
def drop(number: Number, current: Current, database: Database) -> None:
    """Drop a set with all its servers and what was read of them."""
    kept.drop(database, kept.find(database, current.domain_id, number, for_writing=True))
    database.commit()


@router.put(
    "/{number}/servers/template", openapi_extra=RAW_BODY, dependencies=[needs("load", proof=False)]
)
def take(
    number: Number,
    path: Annotated[str, Query(max_length=4000)],
    body: RawBody,
    current: Current,
    database: Database,
) -> ServerTaken:
    """Take the template of one server (the request's body). The path below the folder of them all
    says which: the file or the folder that it lies in bears the server's name.
    """
    group = kept.find(database, current.domain_id, number, for_writing=True)
    row = servers.take(database, group, path, body)
    return ServerTaken(name=row.name, problem=row.problem)


@router.get("/{number}/servers", dependencies=[needs("see")])
def get_server(
    number: Number, name: ServerName, current: Current, database: Database
) -> ServerCourse:
    """What was read of one server, and when."""
    group = kept.find(database, current.domain_id, number)
    return ServerCourse(
        turns=[
            ServerTurn(
                at=one.at.isoformat(),
                problem=one.problem,
                changes=[
                    SaidInfo(subject=s.subject, text=s.text, before=s.before, after=s.after)
                    for s in one.changes
                ],
                is_first=one.is_first,
            )
            for one in servers.turns(database, kept.server(database, group.id, name))
        ]
    )


@router.delete("/{number}/servers", status_code=204, dependencies=[needs("load", proof=False)])
def drop_server(number: Number, name: ServerName, current: Current, database: Database) -> None:
    """Take one server out of its set."""
    group = kept.find(database, current.domain_id, number, for_writing=True)
    kept.drop_server(database, group, name)
    database.commit()


@router.post("/{number}/held-against", dependencies=[needs("draft", proof=False)])
def hold_against(
    number: Number, body: HoldAgainst, current: Current, database: Database, user: User
) -> ServerMatrix:
    """Choose what the servers of a set are held against."""
    group = kept.find(database, current.domain_id, number, for_writing=True)
    servers.hold_against(database, group, body.way, body.server, body.seen, user)
    return _matrix(database, found(database, group))


@router.get(
    "/{number}/corrected",
    dependencies=[needs("see"), exported("corrected templates of servers")],
    response_class=Response,
    responses=sent_as(
        "application/zip",
        "The files of those that differ, corrected, and how to take one in.",
        binary=True,
    ),
)
def get_corrected(number: Number, current: Current, database: Database) -> Response:
    """The templates of those that differ as they should be, all else in them as it is."""
    one = found(database, kept.find(database, current.domain_id, number))
    return Response(
        servers.corrected(one),
        media_type="application/zip",
        headers=attached(f"{one.group.name}-corrected.zip"),
    )


def _info(one: Found) -> ServerSetInfo:
    coverage = one.agreement.coverage
    return ServerSetInfo(id=one.group.id, name=one.group.name, **coverage._asdict())


def _matrix(database: Database, one: Found) -> ServerMatrix:
    rows = one.agreement.rows
    number_of = {key: number for number, key in enumerate(one.agreement.odd)}
    return ServerMatrix(
        set=_info(one),
        held=_held(one),
        seen=one.seen,
        settings=[
            ServerSetting(
                key=row.key,
                label=TEMPLATE_SETTINGS[row.key].label,
                wanted=said_text(row.key, row.wanted),
                like=row.like,
                tied=row.tied,
            )
            for row in rows
        ],
        servers=[
            ServerInfo(
                name=row.name,
                state="not read"
                if row.template is None
                else "differs"
                if one.agreement.odd[row.key]
                else "agrees",
                problem=row.problem,
                said=[] if row.template is None else _said(rows, number_of[row.key]),
                read_at=row.read_at.isoformat(),
            )
            for row in one.rows
        ],
        days=[
            ServerDay(day=day, **coverage._asdict())
            for day, coverage in servers.days(database, one)
        ],
        script=IMPORT.splitlines(),
    )


def _said(rows: tuple[Row, ...], number: int) -> list[str | None]:
    answers = ((row, row.answers[number]) for row in rows)
    return [said_text(row.key, said) if said != row.wanted else None for row, said in answers]


def _held(one: Found) -> HeldAgainst:
    chosen = next((row.name for row in one.rows if row.key == one.held.like), "")
    group = one.group
    return HeldAgainst(
        way=one.way,
        server=one.reference.name if one.reference else "",
        missing="" if one.reference else chosen,
        by=group.agreed_by,
        at=group.agreed_at.isoformat() if group.agreed_at else None,
    )
