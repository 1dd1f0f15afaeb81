"""What goes with the files of a hand-over: the sheet, the list that proves them, a gallery's page, contact sheets."""

from collections.abc import Sequence
from pathlib import Path

from lenskeep.core.names import file_stem
from lenskeep.files import gallery
from lenskeep.files.writing.contact import Small, contact_pdf
from lenskeep.store.jobs import Job
from lenskeep.studio.book.take_in import file_of
from lenskeep.studio.hand_over.options import DeliveryOptions
from lenskeep.studio.hand_over.proof import LIST, list_of
from lenskeep.studio.hand_over.sheet import SHEET, SheetRow, sheet
from lenskeep.studio.library import Library
from lenskeep.studio.tasks.deliver import jpeg_name

GALLERY, CONTACT, MASKS, ABOUT = "gallery", "contact-sheets.pdf", "masks", "about.txt"
_ABOUT = """Masks of the frames as grey PNGs, white where something was found: NAME.KIND.png, with repairs made by hand.
The recipes of the look are beside them; Lens Keep takes them in on the page of its recipe book.
"""


def beside(
    library: Library, job: Job, shoot: str, options: DeliveryOptions, rows: Sequence[SheetRow], small: Path
) -> dict[str, bytes]:
    """Everything by its path within the hand-over's folder; the pictures of contact sheets lie in ``small``."""
    out = {
        SHEET: sheet(rows).encode("utf-8-sig"),
        LIST: list_of(shoot, job.created_at, options, rows).encode(),
    }
    named = [(row, jpeg_name(row.asked)) for row in rows]  # its own name may have been taken since
    if where := str(job.options.get("gallery_folder") or ""):
        hung = [gallery.Hung(row.made.name, jpeg, row.frame.sha256) for row, jpeg in named]
        out[f"{where}/{gallery.PAGE}"] = gallery.page(shoot or "Gallery", job.id, hung).encode()
    if within := str(job.options.get("masks_folder") or ""):
        out[f"{within}/{ABOUT}"] = _ABOUT.encode()
        versions = {e.version.id: e.version for row in rows if row.look for e in row.look.layers}
        for version in versions.values():
            name = file_stem(f"{version.name} {version.version}", f"recipe-{version.id}")
            out[f"{within}/{name}.json"] = file_of(library, version).encode()
    if options.contact:
        there = [Small(row.made.name, (small / jpeg).read_bytes()) for row, jpeg in named if (small / jpeg).is_file()]
        if there:
            out[CONTACT] = contact_pdf(shoot, there)
    return out


def in_library(folder: Path) -> list[Path]:
    """What lies beside the finished files of a hand-over in the library."""
    own = [folder / name for name in (SHEET, LIST, CONTACT)]
    more = sorted(p for name in (GALLERY, MASKS) for p in (folder / name).rglob("*") if p.is_file())
    return [path for path in own if path.is_file()] + more
