"""Hashes of models: the same on every machine."""

import hashlib
import json

from pydantic import BaseModel


def content_key(*parts: BaseModel | str | int | float) -> str:
    """A hash (32 hex digits) of models and plain values."""
    text = f"[{','.join(_plain_text(p) for p in parts)}]"
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def _plain_text(part: BaseModel | str | int | float) -> str:
    plain = part.model_dump(mode="json") if isinstance(part, BaseModel) else part
    return json.dumps(plain, sort_keys=True, separators=(",", ":"))
