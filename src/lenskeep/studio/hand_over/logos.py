"""Logos laid over what leaves: brought in once, offered again with every later hand-over."""

from pathlib import Path

from lenskeep.files.assets import asset_key
from lenskeep.store import assets, deliveries
from lenskeep.studio import untrusted
from lenskeep.studio.hand_over.ways import ways
from lenskeep.studio.library import Library


def take(library: Library, path: Path, name: str) -> tuple[str, str]:
    """Bring in a PNG or JPEG; returns its key and what it is called. Raises UserProblem."""
    fields, data = untrusted.overlay_fields(path, name)
    assets.keep_assets(library.db, {asset_key(data): data})
    return asset_key(data), str(fields["name"])


def known(library: Library) -> dict[str, str]:
    """Names by key of the logos of ways and of earlier hand-overs, the latest first, as far as they are there."""
    found = dict(deliveries.logos(library.db))
    for way in ways(library).values():
        if way.logo:
            found.setdefault(way.logo, way.logo_name)
    return {key: name or "a logo" for key, name in found.items() if library.has_asset(key)}
