"""Recipes of format 1 brought to format 2, which keeps pictures and tables beside the recipe."""

import base64
import binascii
from collections.abc import Iterator
from typing import Any

from lenskeep.core.recipes.models import FORMAT
from lenskeep.files.assets import asset_key

FIRST = "lenskeep-recipe/1"
_EMBEDDED = {"overlay": ("picture", "picture"), "colour_table": ("data", "data"), "image": ("png", "picture")}
"""(its name in format 1, in format 2) of the field that held base64 and holds a key, by kind."""


def upgraded(data: dict[str, Any]) -> tuple[dict[str, Any], dict[str, bytes]]:
    """Plain data of format 1, which is changed in place, as format 2, and its assets by their keys.

    Parts and adjustments get their ids when the data is validated. Whatever is not as it should be is left as it is,
    for validation to say so.
    """
    assets: dict[str, bytes] = {}
    for holder in _holders(data):
        was, now = _EMBEDDED[holder["kind"]]
        text = holder.pop(was, "")
        try:
            content = base64.b64decode(text, validate=True) if text else b""
        except (binascii.Error, ValueError, TypeError):
            holder[now] = text
            continue
        holder[now] = asset_key(content) if content else ""
        if content:
            assets[holder[now]] = content
    return data | {"format": FORMAT}, assets


def _holders(data: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """Everything that may hold an embedded picture or table."""
    steps, shared = data.get("steps", []), data.get("regions", {})
    steps = [s for s in steps if isinstance(s, dict)] if isinstance(steps, list) else []
    regions = [s.get("region") for s in steps]
    regions += [r.get("region") for r in shared.values() if isinstance(r, dict)] if isinstance(shared, dict) else []
    lists = [s.get("adjustments") for s in steps] + [r.get("parts") for r in regions if isinstance(r, dict)]
    for each in lists:
        for holder in each if isinstance(each, list) else []:
            if isinstance(holder, dict) and isinstance(kind := holder.get("kind"), str) and kind in _EMBEDDED:
                yield holder
