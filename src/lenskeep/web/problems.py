"""What went wrong, answered: words for what people can mend, an id for what only we can."""

import sqlite3
from dataclasses import dataclass
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import PlainTextResponse, Response
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from lenskeep.core.problems import UserProblem, finding_words
from lenskeep.files.problems import no_room
from lenskeep.store.database import LibraryProblem, database_words, full_words, is_full
from lenskeep.studio.problems import ChangedMeanwhile, Gone
from lenskeep.web.present import page
from lenskeep.web.studio_of import studio_of
from lenskeep.work.defects import defect

NOTHING_HERE = "There is nothing at this address."
NOT_READ = "What was sent can't be read. Reload the page and do it once more."
NOT_ANY_MORE = "This is no longer in the library. It was removed meanwhile, perhaps in another window."
_STATUS = ((ChangedMeanwhile, 409), (Gone, 404), (LibraryProblem, 503), (UserProblem, 422))


@dataclass(frozen=True)
class Problem:
    """The page that says what went wrong."""

    message: str


def add_problem_handlers(app: FastAPI) -> None:
    for kind in (UserProblem, sqlite3.Error, OSError, OverflowError):
        app.add_exception_handler(kind, _known)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(404, _http)
    app.add_exception_handler(RequestValidationError, _form)


def _known(request: Request, error: Exception) -> Response:
    status, words = said(error, _home(request))
    return answer(request, status, words)


def _home(request: Request) -> Path:
    """Where the library is."""
    home: Path = studio_of(request).library.home
    return home


def said(error: Exception, home: Path) -> tuple[int, str]:
    """The status and the words for whatever was raised; a defect is logged."""
    for kind, status in _STATUS:
        if isinstance(error, kind):
            return status, str(error)
    if is_full(error) or no_room(error):
        return 507, full_words(home)
    if isinstance(error, sqlite3.IntegrityError) and "FOREIGN KEY" in str(error):
        return 404, NOT_ANY_MORE
    if isinstance(error, OverflowError) and "SQLite" in str(error):
        return 404, NOTHING_HERE  # a number that no row has
    name = defect("a request", error)
    if isinstance(error, sqlite3.OperationalError | sqlite3.DatabaseError):
        return 503, f"{database_words(error, home / 'library.sqlite')} ({name})"
    return 500, f"Something went wrong ({name}). Nothing was changed by this; the log in the library says more."


def _form(request: Request, error: Exception) -> Response:
    found = error.errors()[0] if isinstance(error, RequestValidationError) else {}
    if found.get("loc", ("",))[0] == "path":
        return answer(request, 404, NOTHING_HERE)
    words = finding_words({**found, "loc": [p for p in found.get("loc", ()) if p not in ("body", "query")]})
    return answer(request, 422, words)


def _http(request: Request, error: Exception) -> Response:
    status = getattr(error, "status_code", 500)
    detail = str(getattr(error, "detail", "") or "This did not work.")
    if detail == "There was an error parsing the body":  # nested too deeply, say
        status, detail = 422, NOT_READ
    return answer(request, status, NOTHING_HERE if detail == "Not Found" else detail)


def answer(request: Request, status: int, message: str) -> Response:
    """A page for a person, plain text for a script."""
    wants_page = "text/html" in request.headers.get("accept", "") and "hx-request" not in request.headers
    if wants_page and request.method == "GET":
        response: Response = page(request, "problem.html", Problem(message), status)
        return response
    return PlainTextResponse(message, status)


class Defects:
    """Whatever nobody foresaw is logged under an id, and the id is the answer."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        started = False

        async def sending(message: Message) -> None:
            nonlocal started
            started = started or message["type"] == "http.response.start"
            await send(message)

        try:
            await self._app(scope, receive, sending)
        except ClientDisconnect:
            return  # whoever asked has gone, in the middle of sending something: there is nobody to answer
        except Exception as error:
            request = Request(scope, receive)
            status, words = said(error, _home(request))
            if started:
                raise
            await answer(request, status, words)(scope, receive, send)
