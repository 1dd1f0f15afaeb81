"""Going on with a job that was stopped or that failed in part."""

from lenskeep.core.problems import UserProblem
from lenskeep.store import jobs
from lenskeep.studio.library import Library


def resume(library: Library, job: jobs.Job) -> None:
    """Queue what is left of a job. Raises UserProblem for a hand-over into a folder that a later one went into, since
    the two would mix there.
    """
    with library.db.writing():
        if jobs.newer_into(library.db, job.target, job.id):
            raise UserProblem(f"A later hand-over went into {job.target}. Hand over once more instead.")
        jobs.resume(library.db, job.id)
