"""What a job finds out about each of its frames, kept in the library until all of them change as one deed: so a kill
costs nothing and nothing changes half.
"""

import shutil
from dataclasses import dataclass
from pathlib import Path

from lenskeep.files.written import write_whole
from lenskeep.store import jobs
from lenskeep.studio.library import Library


@dataclass(frozen=True)
class Gathered:
    """Of jobs of one ``kind``; ``name`` is that of their folder in the library."""

    kind: str
    name: str

    def _folder(self, library: Library, job: jobs.Job) -> Path:
        return library.home / self.name / str(job.id)

    def keep(self, library: Library, job: jobs.Job, frame_id: int, data: bytes) -> None:
        """One frame's, as JSON."""
        write_whole(self._folder(library, job) / f"{frame_id}.json", data)

    def read(self, library: Library, job: jobs.Job) -> dict[int, bytes]:
        """That of all frames so far."""
        return {int(path.stem): path.read_bytes() for path in self._folder(library, job).glob("*.json")}

    def drop(self, library: Library, job: jobs.Job) -> None:
        shutil.rmtree(self._folder(library, job), ignore_errors=True)

    def sweep(self, library: Library) -> None:
        """Remove what jobs have left that are over."""
        going = {str(job.id) for job in jobs.jobs(library.db) if job.active and job.kind == self.kind}
        for folder in (library.home / self.name).glob("*"):
            if folder.name not in going:
                shutil.rmtree(folder, ignore_errors=True)
