"""Into which folders of this machine a page may hand over."""

from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.studio.card import folders_named

TARGETS = "LENSKEEP_TARGETS"


def check_target(text: str) -> None:
    """Only into folders below those that ``LENSKEEP_TARGETS`` names, links followed; without it, below one's own and
    those where disks and cards appear. Raises UserProblem. Whoever sits at the command line may write anywhere.
    """
    roots = folders_named(TARGETS)
    try:
        folder = Path(text).expanduser()
        whole, folder = folder.is_absolute(), folder.resolve()
    except (OSError, ValueError, RuntimeError):
        return  # what is wrong with it is said where it is used
    if whole and not any(folder.is_relative_to(root) for root in roots):
        raise UserProblem(
            f"Files are handed over into folders in {', '.join(map(str, roots))}. {TARGETS} names others when Lens "
            "Keep is started."
        )
