"""Skies as latitude-longitude pictures: a gradient, a sun with its glow, and a plane of clouds seen in perspective."""

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from tools.photos.noise import spectral

SUN_RADIUS = np.radians(0.53 / 2) * 1.7


@dataclass(frozen=True)
class Sky:
    """Angles in degrees: azimuth from +y towards +x. Colours are linear sRGB radiance; ``cloud`` is cover, 0…1."""

    sun_azimuth: float
    sun_height: float
    zenith: tuple[float, float, float]
    horizon: tuple[float, float, float]
    sun_colour: tuple[float, float, float]
    sun_power: float
    glow: float = 0.6
    cloud: float = 0.5
    cloud_lit: float = 1.6
    cloud_dark: float = 0.6
    ground: tuple[float, float, float] = (0.1, 0.1, 0.08)
    haze: float = 6.0
    seed: int = 3

    def towards_sun(self):
        return directions(np.radians(self.sun_height), np.radians(self.sun_azimuth))

    def picture(self, height=1024):
        """Radiance (height, 2 height, 3) float32; the centre looks along +y, the top row up."""
        tilt = np.pi / 2 - (np.arange(height) + 0.5) / height * np.pi
        turn = (np.arange(2 * height) + 0.5) / height * np.pi - np.pi
        tilt, turn = np.meshgrid(tilt, turn, indexing="ij")
        way = directions(tilt, turn)
        towards = np.clip(way @ self.towards_sun(), -1, 1)
        angle = np.arccos(towards)
        share = np.exp(-self.haze * np.clip(np.sin(tilt), 0, 1))[..., None]
        out = np.array(self.zenith) * (1 - share) + np.array(self.horizon) * share
        out = out * (1 + 0.25 * towards[..., None])
        sun = np.array(self.sun_colour)
        out = out + sun * (self.glow * (0.5 * np.exp(-angle / 0.12) + 0.35 * np.exp(-angle / 0.45)))[..., None]
        if self.cloud > 0:
            out = self._clouded(out, way, angle)
        out[tilt < 0] = self.ground
        disc = np.clip((SUN_RADIUS - angle) / (0.3 * SUN_RADIUS) + 0.5, 0, 1)
        return (out + sun * self.sun_power * disc[..., None]).astype(np.float32)

    def _clouded(self, clear, way, angle):
        big, small = spectral(1024, 1024, 2.6, self.seed), spectral(1024, 1024, 1.9, self.seed + 1)
        up = np.maximum(way[..., 2], 0.015)
        u, v = way[..., 0] / up * 90 + 300, way[..., 1] / up * 90 + 200
        sun = self.towards_sun()

        def sampled(field, zoom=1.0, shift=(0, 0)):
            at = [v * zoom + shift[1], u * zoom + shift[0]]
            return ndimage.map_coordinates(field, at, order=1, mode="grid-wrap")

        thick = sampled(big) + 0.25 * sampled(small, 2.3)
        cover = 1 / (1 + np.exp(-(thick - (1.1 - 2.2 * self.cloud)) * 3.2))
        cover = (cover * np.clip((way[..., 2] - 0.01) / 0.10, 0, 1) * 0.92)[..., None]
        facing = sampled(big) - sampled(big, shift=(12 * sun[0], 12 * sun[1]))
        lit = np.clip(0.55 + 0.9 * facing, 0, 1)[..., None]
        colour = np.array(self.horizon) * (self.cloud_dark * (1 - lit) + self.cloud_lit * lit)
        colour = colour + np.array(self.sun_colour) * (np.exp(-angle / 0.35) * self.glow * 0.8)[..., None]
        return clear * (1 - cover) + colour * cover


def directions(height, azimuth):
    """Unit vectors (..., 3) of angles in radians."""
    return np.stack([np.cos(height) * np.sin(azimuth), np.cos(height) * np.cos(azimuth), np.sin(height)], -1)
