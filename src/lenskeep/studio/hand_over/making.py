"""What finishing one file of a hand-over needs: for making it, and for making it once more to prove it."""

from pathlib import Path

from lenskeep.core.adjust.finish.text_mark import TextMark
from lenskeep.core.facts import Facts
from lenskeep.core.plan import Plan, PlannedStep
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.core.regions import Region
from lenskeep.store.frames import FrameRow
from lenskeep.studio.cleaned import clean_files
from lenskeep.studio.hand_over.options import DeliveryOptions, marks_of
from lenskeep.studio.library import Computed, Library
from lenskeep.studio.tasks.deliver import DeliverTask
from lenskeep.studio.tasks.frame_files import files_of
from lenskeep.work.engines.carried import InFile, OutFolder


def task_of(
    library: Library,
    frame: FrameRow,
    facts: Facts,
    computed: Computed,
    own: FrameOverride,
    plan: Plan,
    options: DeliveryOptions,
    file: str,
    folder: Path,
) -> DeliverTask:
    """The task of making ``file`` in ``folder``, with nothing beside it. ``frame`` is as it was brought to a picture,
    turned and called then, ``facts`` and ``computed`` what was found on it. Raises UserProblem, PhotoProblem.
    """
    plan = _marked(plan, marks_of(options))
    if options.logo and not library.has_asset(options.logo):
        raise UserProblem(f"The logo “{options.logo_name}” is not in the library any more. Choose it again.")
    assets = library.asset_files(plan.assets())
    return DeliverTask(
        original=InFile(library.original(frame.sha256, frame.suffix)),
        name=frame.file_name,
        sha256=frame.sha256,
        raw_base=frame.raw_base,
        turn=frame.turn,
        frame=files_of(
            computed, frame.content, facts, assets, own, frame.raw_base, clean_files(library, frame, own.clean)
        ),
        plan=plan,
        out=OutFolder(folder),
        file=file,
        quality=options.quality,
        long_side=options.long_side,
        space=options.space,
        form=options.form,
        sharpen=options.sharpen,
        said=options.said,
    )


def _marked(plan: Plan, marks: tuple[TextMark, ...]) -> Plan:
    """A plan with text and logo laid over all else."""
    if not marks:
        return plan
    return Plan((*plan.steps, PlannedStep("mark", "Mark", Region(), "use the frame", marks, 1.0)))
