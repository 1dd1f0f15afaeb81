"""A picture on which nothing was looked for, as a frame that plans can be compiled for."""

from lenskeep.core.assets import NO_ASSETS, Assets
from lenskeep.core.facts import Facts, Finding
from lenskeep.core.regions import Found
from lenskeep.core.render import Frame
from lenskeep.core.types import LinearRGB


def bare_frame(picture: LinearRGB, assets: Assets = NO_ASSETS) -> Frame:
    """A frame of the size of its own picture, (h, w, 3)."""
    h, w = picture.shape[:2]
    none = Finding(trust=1.0, area=0.0)
    facts = Facts(detector="", width=w, height=h, subject=none, sky=none)
    return Frame(picture, Found(picture, {}, facts, assets=assets), h, w)
