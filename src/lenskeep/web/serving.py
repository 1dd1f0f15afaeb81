"""Running the application: on this machine only, and ended within moments when that is asked for."""

import signal
import sys
from types import FrameType

import uvicorn

from lenskeep.studio.bench.ready_frames import few_arenas
from lenskeep.studio.library import Library
from lenskeep.studio.preparing import Preparation
from lenskeep.web.app import create_app

HELD_OPEN_SECONDS = 1
"""How long a stop waits for requests that are still under way, such as an upload that somebody holds open."""
TURN_SECONDS = 0.001
"""How long a thread that reckons keeps Python to itself while others wait for it. Every statement of a transaction
gives it up and asks for it anew, so that five times as long, which is usual, makes 20 statements wait 100 ms.
"""


class _Server(uvicorn.Server):
    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        """The queue begins to stop at once, not only when the last request has ended."""
        self.config.app.state.studio.runner.begin_stop()  # type: ignore[union-attr]
        super().handle_exit(sig, frame)


def serve(library: Library, port: int, preparation: Preparation, cluster: str | None = None, key: str = "") -> None:
    """Serve until the process is told to end, those who bring the ``key``; work begins when the ``preparation``, which
    goes on beside it, is over. Raises LibraryProblem when the library can't be opened.
    """
    few_arenas()
    sys.setswitchinterval(TURN_SECONDS)
    # asked to end, it ends as any program does, and gives back what processes shared
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    config = uvicorn.Config(
        create_app(library, cluster=cluster, key=key, preparation=preparation),
        host="127.0.0.1",
        port=port,
        log_level="warning",
        server_header=False,
        timeout_graceful_shutdown=HELD_OPEN_SECONDS,
    )
    _Server(config).run()
