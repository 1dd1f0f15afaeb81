"""Regions: where a step works. One file per kind of part; ``algebra`` combines them."""

from lenskeep.core.regions.algebra import PART_KINDS, AnyPart, Region, combine
from lenskeep.core.regions.base import Combine, Found, Part, PartField

__all__ = ["PART_KINDS", "AnyPart", "Combine", "Found", "Part", "PartField", "Region", "combine"]
