"""The built front end: its files, and its one page for every address that is a screen of it."""

from __future__ import annotations

from pathlib import Path

from anyio.to_thread import run_sync
from starlette.responses import FileResponse, Response
from starlette.types import Receive, Scope, Send

from hornfels.api.refusals import refusal

LONGEST_PATH = 4000


class Pages:
    """An ASGI application over the folder that the build fills."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder.resolve()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        await (await self._answer(scope["method"], scope["path"]))(scope, receive, send)

    async def _answer(self, method: str, path: str) -> Response:
        if method not in ("GET", "HEAD"):
            answer = refusal(405, "Pages are only read.")
            answer.headers["Allow"] = "GET, HEAD"
            return answer
        found = await run_sync(self._file, path.lstrip("/"))
        if found is not None:
            return FileResponse(found)
        index = self._folder / "index.html"
        if path.startswith("/assets/") or len(path) > LONGEST_PATH or not index.is_file():
            return refusal(404, f"There is nothing at {path[:100]}.")
        return FileResponse(index, headers={"Cache-Control": "no-cache"})

    def _file(self, path: str) -> Path | None:
        try:
            wanted = (self._folder / path).resolve()
            return wanted if path and wanted.is_file() and wanted.is_relative_to(self._folder) else None
        except (OSError, ValueError):
            return None  # a name that no file can have
