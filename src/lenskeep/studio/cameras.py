"""Which camera took each frame of a shoot, and which way up it was stored: looked up in the headers, once."""

from lenskeep.files.reading.exif import camera_name, header, orientation
from lenskeep.store import dust, frames
from lenskeep.store.dust import Stored
from lenskeep.studio.library import Library

UNNAMED = "a camera without a name"


def learn_cameras(library: Library, shoot_id: int) -> None:
    """Look at the headers of a shoot's originals, those that nobody looked at yet."""
    new = []
    for frame in frames.some(library.db, dust.without_camera(library.db, shoot_id)):
        exif = header(library.original(frame.sha256, frame.suffix))
        new.append(Stored(frame.id, camera_name(exif) or UNNAMED, orientation(exif)))
    if new:
        dust.keep_stored(library.db, new)
