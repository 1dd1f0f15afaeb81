"""Lens Keep: one look held across a whole shoot, with the masks found again on every frame."""

__version__ = "0.1.0"
