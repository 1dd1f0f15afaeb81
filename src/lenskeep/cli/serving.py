"""Commands that start the application."""

import os
from typing import TYPE_CHECKING, Annotated

import typer

from lenskeep.cli.shared import app, run, the_library
from lenskeep.store import jobs
from lenskeep.studio.library import Library

if TYPE_CHECKING:
    from lenskeep.studio.preparing import Preparation


@app.command()
def serve(
    port: Annotated[int | None, typer.Option(help="By default LENSKEEP_PORT, or 8431.")] = None,
    cluster: Annotated[
        str | None,
        typer.Option(help="Address of a Dask scheduler whose workers run the jobs, such as tcp://studio:8786."),
    ] = None,
) -> None:
    """Start the application on 127.0.0.1, for whoever opens the address that it prints."""
    from lenskeep.studio.preparing import Preparation

    library = the_library()
    _serve(library, Preparation.begun(), port, cluster)


def _serve(library: Library, preparation: "Preparation", port: int | None = None, cluster: str | None = None) -> None:
    from lenskeep.web.door import KEY_FIELD, is_open, key_of
    from lenskeep.web.serving import serve as run_server

    chosen = port or int(os.environ.get("LENSKEEP_PORT") or 8431)
    key = "" if is_open() else key_of(library.home)
    address = f"http://127.0.0.1:{chosen}/" + (f"?{KEY_FIELD}={key}" if key else "")
    typer.echo(f"Lens Keep is at {address} – the library is {library.home}. Ctrl+C stops it.")
    run_server(library, chosen, preparation, cluster, key)


@app.command()
def prepare() -> None:
    """Compile what this machine needs, once. The application does it by itself, beside its first start."""
    from lenskeep.studio.preparing import Preparation

    Preparation().run(typer.echo)


@app.command()
def demo(
    only_seed: Annotated[bool, typer.Option("--only-seed", help="Make the demo library and stop.")] = False,
) -> None:
    """Make the demo library on first use and start the application, which works through what is queued."""
    from lenskeep.demo.seed import seed
    from lenskeep.studio.preparing import Preparation

    library = the_library()
    preparation = None if only_seed else Preparation.begun()  # what works through the queue here does it itself
    if seed(library, typer.echo):
        typer.echo("Masks are being found and looks applied, for two or three minutes; the pages say how far it is.")
    if preparation is None:
        for job in reversed([j for j in jobs.jobs(library.db) if j.active]):
            run(library, job.id)
    else:
        _serve(library, preparation)
