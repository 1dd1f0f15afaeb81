"""Contact sheets as a PDF: small pictures in rows with their names, A4 across, for looking through on paper."""

import io
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from PIL import Image, ImageDraw, ImageFont

from lenskeep.files.lettering import font

DPI = 150
PAGE = (1754, 1240)
COLUMNS, ROWS = 5, 4
MARGIN, GAP, HEAD, LINE = 60, 16, 56, 26
INK, QUIET = (27, 29, 27), (82, 88, 82)


@dataclass(frozen=True)
class Small:
    """A small JPEG and the name of its file."""

    name: str
    jpeg: bytes


def contact_pdf(title: str, pictures: Iterable[Small]) -> bytes:
    """The PDF. Raises ValueError without a picture."""
    held = list(pictures)
    if not held:
        raise ValueError("a contact sheet has at least one picture")
    each = COLUMNS * ROWS
    count = -(-len(held) // each)
    pages = [_page(title, n + 1, count, held[n * each : (n + 1) * each]) for n in range(count)]
    out = io.BytesIO()
    pages[0].save(out, "PDF", resolution=DPI, save_all=True, append_images=pages[1:], quality=88, title=title)
    return out.getvalue()


def _page(title: str, number: int, of: int, pictures: list[Small]) -> Image.Image:
    page = Image.new("RGB", PAGE, (255, 255, 255))
    pen, head, small = ImageDraw.Draw(page), font("plain", 30), font("plain", 17)
    pen.text((MARGIN, MARGIN - 14), title, INK, head)
    pen.text((PAGE[0] - MARGIN, MARGIN - 4), f"{number} of {of}", QUIET, small, anchor="ra")
    for (left, top, wide, tall), one in zip(_cells(), pictures, strict=False):
        with Image.open(io.BytesIO(one.jpeg)) as picture:
            picture.thumbnail((wide, tall - LINE))
            page.paste(picture, (left + (wide - picture.width) // 2, top + (tall - LINE - picture.height) // 2))
        pen.text((left + wide // 2, top + tall - LINE + 4), _fitted(one.name, small, wide), QUIET, small, anchor="ma")
    return page


def _cells() -> Iterator[tuple[int, int, int, int]]:
    """(left, top, width, height) of every place of a page, row by row."""
    wide = (PAGE[0] - 2 * MARGIN - (COLUMNS - 1) * GAP) // COLUMNS
    tall = (PAGE[1] - 2 * MARGIN - HEAD - (ROWS - 1) * GAP) // ROWS
    for row in range(ROWS):
        for column in range(COLUMNS):
            yield MARGIN + column * (wide + GAP), MARGIN + HEAD + row * (tall + GAP), wide, tall


def _fitted(name: str, letters: ImageFont.FreeTypeFont, width: int) -> str:
    """The name, its middle left away where it is too long; its end tells frames apart."""
    if letters.getlength(name) <= width:
        return name
    keep = len(name)
    while keep > 4 and letters.getlength(f"{name[: keep // 2]}…{name[-(keep // 2) :]}") > width:
        keep -= 1
    return f"{name[: keep // 2]}…{name[-(keep // 2) :]}"
