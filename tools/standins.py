"""Stand-ins for those at both ends of a shoot: a card that is put in, a client who chooses, a print service.

They know nothing of the application but what they would see: a folder of photographs, a gallery's page, files to be
printed.
"""

import hashlib
import io
import json
import shutil
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from PIL import Image, ImageCms

RECEIPT = "receipt.json"
LEAST_SIDE = 600
FORMATS = ("JPEG", "TIFF", "PNG")


def put_card_in(mount: Path, photographs: Iterable[Path], folder: str = "100MADEU") -> Path:
    """A card of a camera appears: its photographs lie where cameras put them. Returns the card."""
    there = mount / "CARD" / "DCIM" / folder
    there.mkdir(parents=True)
    for photograph in photographs:
        shutil.copy2(photograph, there / photograph.name)
    return mount / "CARD"


def client_chooses(gallery: Path, wanted: Iterable[int]) -> bytes:
    """What the gallery's page saves when a client ticks pictures by their places. Raises OSError where a picture of the
    page is not there, or can't be read.
    """
    text = (gallery / "index.html").read_text("utf-8")
    data = json.loads(text.split('type="application/json" id="data">')[1].split("</script>")[0])
    for one in data["files"]:
        for size in ("small", "large"):
            with Image.open(gallery / one[size]) as picture:
                picture.verify()
    chosen = [data["files"][place] for place in wanted]
    files = [{"file": one["file"], "original": one["original"]} for one in chosen]
    return json.dumps({"format": "lenskeep-favourites/1", "shoot": data["shoot"], "files": files}).encode()


@dataclass(frozen=True)
class Receipt:
    """What a print service says of an order: files it took with their hashes, and why it did not take others."""

    taken: dict[str, str]
    refused: dict[str, str]


def print_service_takes(folder: Path) -> Receipt:
    """A print service looks at every picture of a folder, and leaves a receipt there."""
    taken: dict[str, str] = {}
    refused: dict[str, str] = {}
    for path in sorted(p for p in folder.iterdir() if p.is_file() and p.suffix.lower() in (".jpg", ".tif", ".png")):
        if why := _wrong(path):
            refused[path.name] = why
        else:
            taken[path.name] = hashlib.sha256(path.read_bytes()).hexdigest()
    (folder / RECEIPT).write_text(json.dumps({"taken": taken, "refused": refused}, indent=1), "utf-8")
    return Receipt(taken, refused)


def _wrong(path: Path) -> str:
    try:
        with Image.open(path) as picture:
            picture.load()
            if picture.format not in FORMATS:
                return f"is a {picture.format} file"
            if max(picture.size) < LEAST_SIDE:
                return "is too small to be printed"
            profile = picture.info.get("icc_profile")
    except OSError:
        return "can't be read"
    if not profile:
        return "has no profile"
    ImageCms.ImageCmsProfile(io.BytesIO(profile))
    return ""
