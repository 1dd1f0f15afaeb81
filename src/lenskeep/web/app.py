"""The web application: guards, static files, screens."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import FastAPI, HTTPException, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse, PlainTextResponse, Response
from fastapi.staticfiles import StaticFiles

from lenskeep.files.problems import PhotoProblem
from lenskeep.studio.engine_room import make_runner
from lenskeep.studio.library import Library
from lenskeep.studio.stage import Stage
from lenskeep.web.guard import HOSTS, Guard, TrustedHostMiddleware
from lenskeep.web.present import HERE, page
from lenskeep.web.screens import activity, bench, book, frame, hand_over, home, pictures, wall
from lenskeep.web.studio_of import Studio


def create_app(library: Library, workers: int | None = None, run_jobs: bool = True) -> FastAPI:
    """The application for a library. ``run_jobs`` False leaves the queue to somebody else."""
    studio = Studio(library, make_runner(library, workers), Stage(library))

    @asynccontextmanager
    async def life(_: FastAPI) -> AsyncIterator[None]:
        if run_jobs:
            studio.runner.start()
        yield
        studio.runner.stop()

    app = FastAPI(title="Lens Keep", docs_url=None, redoc_url=None, openapi_url=None, lifespan=life)
    app.state.studio = studio
    app.add_middleware(Guard)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=HOSTS, www_redirect=False)
    app.mount("/static", StaticFiles(directory=HERE / "static"), name="static")
    for screen in (home, wall, frame, bench, book, hand_over, activity, pictures):
        app.include_router(screen.router)
    app.add_exception_handler(ValueError, _bad_request)
    app.add_exception_handler(PhotoProblem, _bad_request)
    app.add_exception_handler(HTTPException, _http_problem)
    app.add_exception_handler(404, _http_problem)
    app.add_exception_handler(RequestValidationError, _bad_form)
    return app


def _bad_request(request: Request, error: Exception) -> Response:
    return _problem(request, 422, str(error))


def _bad_form(request: Request, error: Exception) -> Response:
    first = error.errors()[0] if isinstance(error, RequestValidationError) else {}
    where = str(first.get("loc", ["the form"])[-1]).replace("_", " ")
    return _problem(request, 422, f"{where}: {first.get('msg', 'not valid')}.")


def _http_problem(request: Request, error: Exception) -> Response:
    status = getattr(error, "status_code", 500)
    detail = str(getattr(error, "detail", "") or "Something went wrong.")
    return _problem(request, status, "There is nothing at this address." if detail == "Not Found" else detail)


def _problem(request: Request, status: int, message: str) -> Response:
    """A page for a person, plain text for a script."""
    wants_page = "text/html" in request.headers.get("accept", "") and "hx-request" not in request.headers
    if wants_page and request.method == "GET":
        response: HTMLResponse = page(request, "problem.html", {"message": message, "status": status}, status)
        return response
    return PlainTextResponse(message, status)
