"""The web application: guards, static files, screens."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import FastAPI
from fastapi.staticfiles import StaticFiles

from lenskeep.studio.bench.stage import Stage
from lenskeep.studio.close.view import CloseView
from lenskeep.studio.library import Library
from lenskeep.studio.preparing import Preparation
from lenskeep.studio.queue import make_runner
from lenskeep.studio.untrusted import apart
from lenskeep.web import own_files
from lenskeep.web.door import Door
from lenskeep.web.guard import HOSTS, Guard, TrustedHostMiddleware
from lenskeep.web.problems import Defects, add_problem_handlers
from lenskeep.web.screens import (
    activity,
    bases,
    book,
    bring_in,
    carrying,
    check,
    cleaning,
    close,
    dust,
    evening,
    events,
    frame,
    hand_over,
    home,
    layers,
    line_up,
    own_steps,
    pictures,
    repairs,
    scenes,
    selection,
    wall,
)
from lenskeep.web.screens.bench import choosing, edits, history, page
from lenskeep.web.screens.bench import pictures as bench_pictures
from lenskeep.web.studio_of import Studio

SCREENS = (
    home,
    bring_in,
    wall,
    scenes,
    selection,
    layers,
    evening,
    check,
    cleaning,
    dust,
    events,
    bases,
    own_steps,
    line_up,
    frame,
    repairs,
    carrying,
    close,
    page,
    edits,
    choosing,
    history,
    bench_pictures,
    book,
    hand_over,
    activity,
    pictures,
)


def create_app(
    library: Library,
    workers: int | None = None,
    run_jobs: bool = True,
    cluster: str | None = None,
    key: str = "",
    preparation: Preparation | None = None,
) -> FastAPI:
    """The application for a library. ``run_jobs`` False leaves the queue to somebody else; ``cluster`` is the address
    of one that runs it. With a ``key`` only those come in who bring it. The queue begins when ``preparation`` is over.
    """
    stage, preparation = Stage(library), preparation or Preparation.done_before()
    view = CloseView(library, stage.room)
    studio = Studio(library, make_runner(library, workers, cluster), stage, view, preparation)

    @asynccontextmanager
    async def life(_: FastAPI) -> AsyncIterator[None]:
        if run_jobs:
            studio.runner.start(preparation.over)
        yield
        studio.runner.stop()
        apart().close()

    app = FastAPI(title="Lens Keep", docs_url=None, redoc_url=None, openapi_url=None, lifespan=life)
    app.state.studio = studio
    app.add_middleware(Defects)
    app.add_middleware(Guard)
    if key:
        app.add_middleware(Door, key=key)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=HOSTS, www_redirect=False)
    for address in (own_files.ADDRESS, own_files.EVER):
        app.mount(address, StaticFiles(directory=own_files.FOLDER))
    for screen in SCREENS:
        app.include_router(screen.router)
    add_problem_handlers(app)
    return app
