"""Problems that depend on somebody else's doing."""

from lenskeep.core.problems import UserProblem


class ChangedMeanwhile(UserProblem):
    """What a change was made on is not as it was then; nothing was changed."""


class Gone(UserProblem):
    """What was asked for is no longer in the library."""
