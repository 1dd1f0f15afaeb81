"""The application's own scripts, styles, fonts: their address names what is in them, so that a browser keeps them for
good, asks for none twice, and meets those of a newer application at once.
"""

import hashlib
from pathlib import Path

FOLDER = Path(__file__).parent / "static"


def _sum() -> str:
    told = hashlib.sha256()
    for path in sorted(FOLDER.rglob("*")):
        if path.is_file():
            told.update(f"{path.relative_to(FOLDER)}\n".encode() + path.read_bytes())
    return told.hexdigest()[:16]


ADDRESS = f"/static/{_sum()}"
"""Where they lie. Scripts name each other by relative paths, which keep to it."""
EVER = "/static"
"""The same whatever is in them: asked for anew each time, and answered by what is kept."""
