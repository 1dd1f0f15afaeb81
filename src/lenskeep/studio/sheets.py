"""Contact sheets of plain photographs: frames down, recipes across, each named."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw

from lenskeep.core.assets import Assets
from lenskeep.core.plan import Plan
from lenskeep.core.types import SRGB8
from lenskeep.files.reading.photo import to_srgb8
from lenskeep.studio.plain_files import found_on_file, small_picture

CELL, GAP, HEAD, SIDE = 360, 8, 26, 190
GROUND, INK = (118, 118, 118), (255, 255, 255)


@dataclass(frozen=True)
class Column:
    """A plan under its title, with the assets that it needs."""

    title: str
    plan: Plan
    assets: Assets


def cells(path: Path, columns: list[Column]) -> list[SRGB8]:
    """A photograph as it came and with each column, of a long side of ``CELL`` pixels. Raises PhotoProblem."""
    photo, frame = found_on_file(path)
    small = photo.reduced(CELL)
    return [to_srgb8(small), *(small_picture(small, frame, c.plan, c.assets) for c in columns)]


def line_up(rows: list[tuple[str, list[SRGB8]]], titles: list[str]) -> Image.Image:
    """The sheet of rows (name, its pictures), under titles."""
    height = max(p.shape[0] for _, pictures in rows for p in pictures)
    width = max(p.shape[1] for _, pictures in rows for p in pictures)
    size = (SIDE + len(titles) * (width + GAP) + GAP, HEAD + len(rows) * (height + GAP) + GAP)
    sheet = Image.new("RGB", size, GROUND)
    draw = ImageDraw.Draw(sheet)
    for column, title in enumerate(titles):
        draw.text((SIDE + GAP + column * (width + GAP), 6), _short(title, width), fill=INK)
    for row, (name, pictures) in enumerate(rows):
        top = HEAD + row * (height + GAP)
        draw.text((GAP, top + 4), _short(name, SIDE - GAP), fill=INK)
        for column, picture in enumerate(pictures):
            sheet.paste(Image.fromarray(np.ascontiguousarray(picture)), (SIDE + GAP + column * (width + GAP), top))
    return sheet


def _short(text: str, width: int) -> str:
    most = max(4, width // 7)
    return text if len(text) <= most else f"{text[: most - 1]}…"
