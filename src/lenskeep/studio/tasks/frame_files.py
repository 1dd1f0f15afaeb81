"""Frames made ready for the renderer, from their masks and facts as files."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import cv2
import numpy as np

from lenskeep.core.base.applied import with_base
from lenskeep.core.base.models import AS_IT_CAME, FrameBase
from lenskeep.core.detect.find import Findings
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.facts import Facts
from lenskeep.core.recipes.overrides import UNCHANGED, FrameOverride
from lenskeep.core.regions import Found
from lenskeep.core.render import Frame
from lenskeep.core.repairs.applied import repaired
from lenskeep.core.repairs.models import NONE, Repairs
from lenskeep.core.types import Alpha, LinearRGB, Mask8
from lenskeep.files.assets import Decoded
from lenskeep.files.lettering import letters
from lenskeep.files.masks import mask_from_bytes
from lenskeep.files.patches import Cleaned
from lenskeep.files.reading.photo import Base
from lenskeep.studio.library import Computed, mask_names
from lenskeep.studio.tasks.clean_files import CleanFiles
from lenskeep.work.engines.carried import InFile


@dataclass(frozen=True)
class FrameFiles:
    """What was computed from one photograph, and the assets that a plan needs, as a task takes them along.

    ``content`` names the photograph; ``facts`` is JSON: what was found, before ``repairs``. ``curved``: a camera laid
    its curve over it, which its ``base`` goes under. ``clean`` is what clean-up changed of its pixels.
    """

    content: str
    facts: str
    masks: dict[str, InFile]
    assets: dict[str, InFile] = field(default_factory=dict)
    repairs: Repairs = NONE
    base: FrameBase = AS_IT_CAME
    curved: bool = True
    clean: CleanFiles | None = None

    def cleaned(self) -> Cleaned | None:
        """What clean-up changed of the photograph. Raises PhotoProblem when it can't be read."""
        return None if self.clean is None else self.clean.read()

    def ready(self, proxy: LinearRGB) -> Frame:
        """A frame for ``compile_plan``; ``proxy`` is at most ``PROXY_SIDE`` long."""
        if max(proxy.shape[:2]) > PROXY_SIDE:
            raise RuntimeError("the proxy is too large")
        facts = Facts.model_validate_json(self.facts)
        h, w = proxy.shape[:2]
        masks = MasksInFiles(self.masks, facts, h, w)
        pieces = mask_from_bytes(self.masks["pieces"].read(), "pieces")
        if pieces.shape != (h, w):
            pieces = np.asarray(cv2.resize(pieces, (w, h), interpolation=cv2.INTER_NEAREST), np.uint8)
        assets = Decoded(lambda key: self.assets[key].read() if key in self.assets else None)
        found = repaired(Found(proxy, masks, facts, pieces, self.content, assets=assets), self.repairs)
        return with_base(Frame(proxy, found, facts.height, facts.width, letters), self.base, self.curved)


def files_of(
    computed: Computed,
    content: str,
    facts: Facts,
    assets: dict[str, InFile],
    own: FrameOverride = UNCHANGED,
    raw_base: Base = "",
    clean: CleanFiles | None = None,
) -> FrameFiles:
    """The files of a frame in the library with its own repairs and base; ``facts`` are those that were found. ``clean``
    says how its clean-up is made where it may not be there.
    """
    masks = {name: InFile(computed.mask(name)) for name in mask_names(facts.areas)}
    if clean is None and own.clean.done:
        clean = CleanFiles(InFile(computed.cleaned(own.clean.key())))
    return FrameFiles(content, facts.model_dump_json(), masks, assets, own.repairs, own.base, not raw_base, clean)


class MasksInFiles(Mapping[str, Alpha]):
    """A frame's masks at one size, each read when it is first asked for."""

    def __init__(self, files: Mapping[str, InFile], facts: Facts, height: int, width: int) -> None:
        self._files, self._size = files, (height, width)
        self._names = ("subject", "sky", *facts.areas)
        self._read: dict[str, Alpha] = {}

    def __getitem__(self, name: str) -> Alpha:
        if name not in self._names:
            raise KeyError(name)
        if name not in self._read:
            mask = fitted(mask_from_bytes(self._files[name].read(), name), *self._size)
            self._read[name] = mask.astype(np.float32) / np.float32(255.0)
        return self._read[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._names)

    def __len__(self) -> int:
        return len(self._names)


def fitted(mask: Mask8, height: int, width: int) -> Mask8:
    """A mask at another size, averaged."""
    if mask.shape == (height, width):
        return mask
    return np.asarray(cv2.resize(mask, (width, height), interpolation=cv2.INTER_AREA), np.uint8)


def framed(proxy: LinearRGB, found: Findings, height: int, width: int, key: str) -> Frame:
    """A frame for ``compile_plan`` out of what was just found on its proxy; ``key`` names the photograph."""
    masks = {name: m.astype(np.float32) / np.float32(255.0) for name, m in found.masks.items()}
    return Frame(proxy, Found(proxy, masks, found.facts, found.pieces, key), height, width, letters)
