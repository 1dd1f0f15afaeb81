"""What can be wrong with a file, said so that a photographer knows what to do."""

import errno

from lenskeep.core.problems import UserProblem


class PhotoProblem(UserProblem):
    """A file that can't be used as a photograph; the message says why and what to do."""


class ArchiveProblem(UserProblem):
    """An archive that can't be unpacked, or not wholly; the message says why and what to do."""


_FULL = {errno.ENOSPC, errno.EDQUOT}


def no_room(error: BaseException) -> bool:
    """Whether something failed for want of room on the disk."""
    return isinstance(error, OSError) and error.errno in _FULL
