"""Templates, and the few ways in which values are written on screens."""

from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np
from fastapi import Request
from fastapi.responses import HTMLResponse
from fastapi.templating import Jinja2Templates

from lenskeep import __version__
from lenskeep.core.colour.oklab import from_oklab
from lenskeep.files.photo import to_srgb8

HERE = Path(__file__).parent
templates = Jinja2Templates(directory=HERE / "templates")


def percent(value: float) -> str:
    """1.25 as "125 %"."""
    return f"{round(100 * value)} %"


def moment(text: str | None) -> str:
    """An ISO time as "12 Sep 2026, 18:41"."""
    if not text:
        return "time unknown"
    try:
        return datetime.fromisoformat(text).strftime("%-d %b %Y, %H:%M")
    except ValueError:
        return text


def clock(text: str | None) -> str:
    """An ISO time as "18:41:07"."""
    return datetime.fromisoformat(text).strftime("%H:%M:%S") if text else "no time"


def number(value: float) -> str:
    """A number without needless zeros."""
    return f"{value:g}"


def counted(count: int, word: str, plural: str = "") -> str:
    """ "1 frame", "24 frames"."""
    return f"{count:,} {word if count == 1 else plural or word + 's'}"


def swatch(colour: tuple[float, float, float]) -> str:
    """A colour in OKLab as "#rrggbb", for a sample's patch."""
    pixel = to_srgb8(from_oklab(np.array([[colour]], np.float32)))[0, 0]
    return "#" + "".join(f"{int(v):02x}" for v in pixel)


templates.env.filters.update(percent=percent, moment=moment, clock=clock, number=number, counted=counted)
templates.env.globals["version"] = __version__
templates.env.trim_blocks = templates.env.lstrip_blocks = True


def page(request: Request, name: str, context: dict[str, Any], status: int = 200) -> HTMLResponse:
    """A template as a response, with the request's token."""
    context = {"csrf_token": request.state.csrf_token, **context}
    return templates.TemplateResponse(request, name, context, status_code=status)
