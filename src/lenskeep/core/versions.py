"""Versions that what is computed depends on: a result's key names them, and workers elsewhere must have the same."""

from lenskeep.core.detect.find import DETECTOR

ENGINE = "engine-4"
"""Changes when the renderer draws differently."""

__all__ = ["DETECTOR", "ENGINE"]
