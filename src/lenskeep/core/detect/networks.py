"""The networks that finding needs, loaded by whoever calls."""

from collections.abc import Mapping
from dataclasses import dataclass

from lenskeep.core.types import Float, GraphNetwork


@dataclass(frozen=True)
class Detectors:
    """The networks, loaded by whoever calls. ``covers`` holds the ground covers' linear maps by name."""

    saliency: GraphNetwork
    glance: GraphNetwork
    backbone: GraphNetwork
    sky_decoders: tuple[GraphNetwork, GraphNetwork]
    class_head: GraphNetwork
    person: GraphNetwork
    face: GraphNetwork
    boxes: GraphNetwork
    figure: GraphNetwork
    palm: GraphNetwork
    covers: Mapping[str, Float]
