"""What can be wrong with a file, said so that a photographer knows what to do."""

from lenskeep.core.problems import UserProblem


class PhotoProblem(UserProblem):
    """A file that can't be used as a photograph; the message says why and what to do."""


class ArchiveProblem(UserProblem):
    """An archive that can't be unpacked, or not wholly; the message says why and what to do."""
