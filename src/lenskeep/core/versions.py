"""Versions that what is computed depends on: results' keys and proofs name them, workers elsewhere have the same."""

from lenskeep.core.detect.find import DETECTOR

ENGINE = "engine-4"
"""Changes when the renderer draws differently, be it in last bits only: proofs and workers elsewhere go by it."""
ALIKE = "engine-3"
"""The first engine whose pictures look as today's do: none differs from today's by more than one code of 255. Keys of
finished pictures go by it, so that an update makes nothing anew for a last bit.
"""
PLANS = "plans-2"
"""Changes when some looks mean other steps than before: which pictures their frames want is then worked out anew, once,
when a library is opened (``studio.wanting``). Looks that mean what they did keep theirs.
"""
__all__ = ["ALIKE", "DETECTOR", "ENGINE", "PLANS"]
