"""Networks as OpenVINO compiled them, kept between processes: compiling takes most of the time that loading one does.

They lie in the user's cache folder (XDG Base Directory Specification) and can be deleted at any time. A file is written
whole or not at all, so that another process never reads half of one, and begins with a digest of the rest.
What cannot be read, or is not for this machine's processor or OpenVINO's version, is compiled anew.
"""

import os
from collections.abc import Callable, Mapping
from contextlib import suppress
from hashlib import blake2b
from pathlib import Path
from typing import Any

from lenskeep.files.written import write_whole

MOST_KEPT = 32
DIGEST = 32


def cache_folder() -> Path:
    """Where compiled networks are kept."""
    base = os.environ.get("XDG_CACHE_HOME") or "~/.cache"
    return Path(base).expanduser() / "lenskeep" / "networks"


def compiled(
    core: Any,
    name: str,
    read: Callable[[], Any],
    weights: bytes,
    settings: Mapping[str, Any],
) -> Any:
    """The network, compiled by ``core`` from what ``read`` gives, or as it was compiled once before from the same
    ``weights`` (and whatever else they say of it) with the same settings.
    """
    place = cache_folder() / f"{name}-{_key(core, weights, settings)}"
    with suppress(OSError, RuntimeError, ValueError):
        return core.import_model(_checked(place.read_bytes()), "CPU", dict(settings))
    fresh = core.compile_model(read(), "CPU", dict(settings))
    with suppress(OSError, RuntimeError):  # a full disk or a folder that can't be written only costs time
        _keep(place, bytes(fresh.export_model().getvalue()))
    return fresh


def _key(core: Any, weights: bytes, settings: Mapping[str, Any]) -> str:
    machine = (core.get_versions("CPU")["CPU"].build_number, core.get_property("CPU", "FULL_DEVICE_NAME"))
    able = sorted(core.get_property("CPU", "OPTIMIZATION_CAPABILITIES"))
    return blake2b(weights + repr((machine, able, sorted(settings.items()))).encode(), digest_size=16).hexdigest()


def _checked(data: bytes) -> bytes:
    digest, blob = data[:DIGEST], data[DIGEST:]
    if not blob or blake2b(blob, digest_size=DIGEST).digest() != digest:
        raise ValueError("This compiled network is damaged.")
    return blob


def _keep(place: Path, blob: bytes) -> None:
    write_whole(place, blake2b(blob, digest_size=DIGEST).digest() + blob)
    every = sorted((p for p in place.parent.iterdir() if p.is_file()), key=lambda p: p.stat().st_mtime)
    for old in every[:-MOST_KEPT]:
        old.unlink(missing_ok=True)
