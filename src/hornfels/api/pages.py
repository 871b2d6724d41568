"""The built front end: its files, and its one page for every address that is a screen of it."""

from __future__ import annotations

from mimetypes import guess_type
from pathlib import Path

from anyio.to_thread import run_sync
from starlette.datastructures import Headers
from starlette.responses import FileResponse, HTMLResponse, Response
from starlette.types import Receive, Scope, Send

from hornfels.api.refusals import refusal

LONGEST_PATH = 4000
NAMED_BY_CONTENT = "/assets/"
"""Where the build puts files whose names change with what they hold."""
NONCE = "STYLE-NONCE"
"""Stands in the page for what allows its dialogs to add to the styles."""
_PACKED = (("br", ".br"), ("gzip", ".gz"))
"""How the build packs files beforehand, the smallest first."""


class Pages:
    """An ASGI application over the folder that the build fills."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder.resolve()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        accepted = Headers(scope=scope).get("accept-encoding", "")
        nonce: str = scope["state"]["nonce"]
        answer = await self._answer(scope["method"], scope["path"], accepted, nonce)
        await answer(scope, receive, send)

    async def _answer(self, method: str, path: str, accepted: str, nonce: str) -> Response:
        if method not in ("GET", "HEAD"):
            answer = refusal(405, "Pages are only read.")
            answer.headers["Allow"] = "GET, HEAD"
            return answer
        found = await run_sync(self._file, path.lstrip("/"))
        index = self._folder / "index.html"
        if found is not None and found != index:
            return await run_sync(_packed, found, accepted)
        if path.startswith(NAMED_BY_CONTENT) or len(path) > LONGEST_PATH or not index.is_file():
            return refusal(404, f"There is nothing at {path[:100]}.")
        page = (await run_sync(index.read_text)).replace(NONCE, nonce)
        return HTMLResponse(page, headers={"Cache-Control": "no-cache"})

    def _file(self, path: str) -> Path | None:
        try:
            wanted = (self._folder / path).resolve()
            return (
                wanted
                if path and wanted.is_file() and wanted.is_relative_to(self._folder)
                else None
            )
        except (OSError, ValueError):
            return None  # a name that no file can have


def _packed(file: Path, accepted: str) -> Response:
    headers: dict[str, str] = {}
    kind = guess_type(file.name)[0]
    offered = {part.partition(";")[0].strip() for part in accepted.split(",")}
    for encoding, ending in _PACKED:
        packed = file.with_name(file.name + ending)
        if packed.is_file():
            headers["Vary"] = "Accept-Encoding"
            if encoding in offered:
                return FileResponse(
                    packed, media_type=kind, headers={**headers, "Content-Encoding": encoding}
                )
    return FileResponse(file, media_type=kind, headers=headers)
