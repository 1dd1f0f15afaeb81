"""Removing shoots and frames: what goes with them is told before, and swept after."""

from dataclasses import dataclass

from lenskeep.store import frames, jobs, shoots
from lenskeep.studio import sweep
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library


@dataclass(frozen=True)
class Goes:
    """What goes when a shoot is removed: frames, the bytes of originals that no other shoot needs, hand-overs that wait
    to be downloaded.
    """

    frames: int
    bytes: int
    deliveries: int


def what_goes(library: Library, shoot_id: int) -> Goes:
    count, size = frames.only_here(library.db, shoot_id)
    waiting = [j for j in jobs.jobs(library.db, shoot_id) if j.kind == deliver.KIND and not j.options.get("folder")]
    return Goes(count, size, len(waiting))


def remove_shoot(library: Library, shoot_id: int) -> None:
    """Forget a shoot; its files are swept when what is under way has ended."""
    with library.db.writing():
        for job in jobs.jobs(library.db, shoot_id):
            jobs.cancel(library.db, job.id)
        shoots.remove_shoot(library.db, shoot_id)
        sweep.queue_sweep(library)


def remove_frame(library: Library, frame_id: int) -> None:
    """Take a frame out of its shoot; its files are swept unless another shoot needs them."""
    with library.db.writing():
        frames.remove_frame(library.db, frame_id)
        sweep.queue_sweep(library)
