"""What a shoot's files say of themselves: kept with the shoot; a new one begins with the author of the one before."""

from pydantic import ValidationError

from lenskeep.files.writing.fields import Said
from lenskeep.store import shoots
from lenskeep.studio.library import Library


def said_of(library: Library, shoot_id: int) -> Said:
    """Of a shoot; where nothing was said yet, author and rights of the shoot that something was said of last."""
    own, last = shoots.said(library.db, shoot_id)
    if own is not None:
        return _read(own)
    before = _read(last or "{}")
    return Said(author=before.author, rights=before.rights, gps=before.gps)


def keep_said(library: Library, shoot_id: int, said: Said) -> None:
    if said != said_of(library, shoot_id):
        shoots.keep_said(library.db, shoot_id, said.model_dump_json())


def _read(text: str) -> Said:
    try:
        return Said.model_validate_json(text)
    except ValidationError:
        return Said()
