"""A server that is stopped at a moment that does not depend on luck."""

import signal
import time

from lenskeep.store import jobs


def wait_for(library, job_id, enough, seconds=90):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        job = jobs.job(library.db, job_id)
        if enough(job):
            return job
        time.sleep(0.005)
    raise AssertionError(f"after {seconds} s: {jobs.job(library.db, job_id)}")


def frozen(server, library, job_id, enough):
    """Stop the server's clock as soon as enough is done, so that whatever follows does not depend on luck."""
    job = wait_for(library, job_id, enough)
    server.process.send_signal(signal.SIGSTOP)
    return job
