"""Templates, and the few ways in which values are written on screens."""

import re
from dataclasses import fields
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from fastapi import Request
from fastapi.responses import HTMLResponse
from fastapi.templating import Jinja2Templates

from lenskeep.core.colour.oklab import from_oklab
from lenskeep.core.percent import to_percent
from lenskeep.files.reading.photo import to_srgb8
from lenskeep.studio.bench.lane_colours import colour_of, hexed
from lenskeep.web import own_files

if TYPE_CHECKING:
    from _typeshed import DataclassInstance

HERE = Path(__file__).parent
templates = Jinja2Templates(directory=HERE / "templates")


def percent(value: float) -> str:
    """1.25 as "125 %"."""
    return f"{to_percent(value)} %"


def moment(text: str | None) -> str:
    """An ISO time as "12 Sep 2026, 18:41", in this machine's own time; a camera's time, which has no zone, stays."""
    if not text:
        return "time unknown"
    try:
        when = datetime.fromisoformat(text)
        return (when.astimezone() if when.tzinfo else when).strftime("%-d %b %Y, %H:%M")
    except (ValueError, OverflowError):
        return text


def clock(text: str | None) -> str:
    """An ISO time as "18:41:07"."""
    try:
        return datetime.fromisoformat(text).strftime("%H:%M:%S") if text else "no time"
    except ValueError:
        return "no time"


JOBS = {
    "bring-in": "Bringing in",
    "find": "Finding masks",
    "apply": "Applying the look",
    "export": "Handing over",
    "sweep": "Tidying up",
    "camera": "Telling the camera’s curve",
    "describe": "Looking at the light",
    "balance": "Balancing by measure",
    "dust": "Looking for dust",
    "dust-heal": "Healing dust",
    "even": "Holding frames together",
}


def job_words(kind: str) -> str:
    """What a job does."""
    return JOBS.get(kind, kind)


def megabytes(count: int) -> str:
    """A number of bytes as "12 MB"."""
    return f"{count / 1e9:.1f} GB" if count >= 1e9 else f"{count / 1e6:.0f} MB" if count >= 1e6 else "less than 1 MB"


def number(value: float) -> str:
    """A number without needless zeros."""
    return f"{value:g}"


def counted(count: int, word: str, plural: str = "") -> str:
    """ "1 frame", "24 frames"."""
    return f"{count:,} {word if count == 1 else plural or word + 's'}"


def mask_name(name: str) -> str:
    """A mask as people call it."""
    return "rock and hills" if name == "rock" else name


GUARD_WORDS = {
    "clipped": "highlights clip", "crushed": "shadows lose detail", "gamut": "colours are beyond what files hold",
    "neon": "colours are neon", "skin": "skin drifts", "glow": "edges glow", "seam": "a border shows",
}  # fmt: skip


def guard_words(name: str) -> str:
    """What a guard warns of."""
    return GUARD_WORDS.get(name, name)


def lane_colour(place: int) -> str:
    """The colour of a step's lane by its place, as "#rrggbb"."""
    return hexed(colour_of(place).lane)


def swatch(colour: tuple[float, float, float]) -> str:
    """A colour in OKLab as "#rrggbb", for a sample's patch."""
    pixel = to_srgb8(from_oklab(np.array([[colour]], np.float32)))[0, 0]
    return "#" + "".join(f"{int(v):02x}" for v in pixel)


for _filter in (guard_words, percent, moment, clock, number, counted, job_words, lane_colour, mask_name, megabytes):
    templates.env.filters[_filter.__name__] = _filter
templates.env.globals["static"] = own_files.ADDRESS
templates.env.trim_blocks = templates.env.lstrip_blocks = True


_TEXT = re.compile(r"<(?P<kept>textarea|script|style)\b.*?</(?P=kept)>|(?<=>)[^<]+", re.DOTALL)
_BEFORE_UNIT = re.compile(r"(?<=\d) (?=(?:%|‰|‱|°|EV|mired|mDuv|px|MP|kB|MB|GB|TB|ms|s)(?![\w]))")


def bound(html: str) -> str:
    """HTML in whose text no number is torn from its unit at a line's end; what somebody may edit stays as it is."""
    return _TEXT.sub(lambda found: found[0] if found["kept"] else _BEFORE_UNIT.sub("\u00a0", found[0]), html)


def page(request: Request, name: str, view: "DataclassInstance", status: int = 200) -> HTMLResponse:
    """A template as a response: the view's fields by their names, and the request's token."""
    context = _context(request, view) | {"request": request}
    return HTMLResponse(bound(templates.env.get_template(name).render(context)), status)


def fragment(request: Request, name: str, view: "DataclassInstance") -> str:
    """A part of a page as text."""
    return bound(templates.env.get_template(name).render(_context(request, view) | {"request": request}))


def _context(request: Request, view: "DataclassInstance") -> dict[str, Any]:
    context = {f.name: getattr(view, f.name) for f in fields(view)}
    context["csrf_token"] = getattr(request.state, "csrf_token", "")
    return context
