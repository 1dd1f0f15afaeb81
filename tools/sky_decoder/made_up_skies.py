"""Made-up skies and scenes to train on, since few photographs are traced: real foregrounds under many skies.

What stands before the sky is blended with it in linear light, as a lens does: where half the light is a bright sky's,
a soft edge already looks like sky, and a mask that followed the look would reach too far.
"""

import cv2
import numpy as np

PALETTES = [  # (top, horizon), sRGB 0…1
    ((0.30, 0.48, 0.85), (0.80, 0.88, 0.95)),
    ((0.10, 0.25, 0.60), (0.45, 0.60, 0.85)),
    ((0.90, 0.90, 0.92), (0.97, 0.96, 0.95)),
    ((0.99, 0.99, 0.99), (1.00, 1.00, 1.00)),
    ((0.50, 0.52, 0.56), (0.75, 0.75, 0.77)),
    ((0.32, 0.34, 0.38), (0.55, 0.56, 0.58)),
    ((0.95, 0.70, 0.45), (1.00, 0.90, 0.70)),
    ((0.25, 0.30, 0.50), (0.95, 0.60, 0.40)),
    ((0.80, 0.70, 0.68), (0.98, 0.90, 0.78)),
    ((0.93, 0.86, 0.78), (1.00, 0.96, 0.86)),
    ((0.60, 0.50, 0.62), (0.96, 0.75, 0.66)),
    ((0.72, 0.62, 0.55), (0.95, 0.84, 0.68)),
    ((0.06, 0.08, 0.18), (0.20, 0.20, 0.30)),
    ((0.40, 0.55, 0.58), (0.80, 0.86, 0.82)),
]


def fractal(h, w, random, slope):
    """Noise with a 1/f^slope spectrum, (h, w), mean 0, deviation 1."""
    n = max(h, w)
    fy, fx = np.fft.fftfreq(n)[:, None] * n, np.fft.rfftfreq(n)[None] * n
    f = np.hypot(fy, fx)
    f[0, 0] = 1
    spectrum = (random.normal(size=f.shape) + 1j * random.normal(size=f.shape)) / f**slope
    noise = np.fft.irfft2(spectrum, (n, n))[:h, :w]
    return (noise - noise.mean()) / noise.std()


def sky(h, w, random):
    """A sky (h, w, 3) in 0…1: a gradient, mostly with clouds, sometimes with a sun's glow."""
    top, low = (np.array(c) for c in PALETTES[random.integers(len(PALETTES))])
    y = np.linspace(0, 1, h)[:, None, None] ** random.uniform(0.6, 1.6)
    out = top * (1 - y) + low * y + np.zeros((h, w, 1))
    if random.random() < 0.65:
        stretched = cv2.resize(fractal(h, w, random, random.uniform(1.1, 1.7)), None, fx=random.uniform(1, 2.5), fy=1)
        cover = 1 / (1 + np.exp(-(stretched[:, :w] * 2 - random.uniform(-1, 2))))[..., None] * random.uniform(0.3, 0.9)
        out = out * (1 - cover) + np.clip(low * random.uniform(0.75, 1.15), 0, 1) * cover
    if random.random() < 0.3:
        cx, cy = random.uniform(0, w), random.uniform(0.3 * h, 1.1 * h)
        yy, xx = np.mgrid[:h, :w]
        glow = np.exp(-np.hypot(xx - cx, yy - cy) / (0.25 * w))[..., None]
        out = out + glow * np.array([0.5, 0.38, 0.2])
    return np.clip(out, 0, 1)


def under_new_sky(image, label, random):
    """A traced photograph (float 0…1) with its sky (``label`` 0…1, under 0 unknown) replaced."""
    share = cv2.GaussianBlur((label > 0.5).astype(np.float32), (0, 0), 1.2)[..., None]
    return encoded(linear(image) * (1 - share) + linear(sky(*label.shape, random)) * share)


def linear(x):
    """Display values 0…1 to light, near enough."""
    return np.clip(x, 0, 1) ** 2.2


def encoded(x):
    """Light to display values 0…1; what is brighter than white is clipped."""
    return np.clip(x, 0, 1) ** (1 / 2.2)


def cover(share, out, over, light):
    """Put ``light`` (h, w, 3) in front where ``over`` (h, w) is 1. In place."""
    out[:] = out * (1 - over[..., None]) + light * over[..., None]
    share *= 1 - over


def hills(share, out, colour, random, blur):
    """One to three hazy ridges or woods in front of the sky, nearly the sky's own colour far off. In place."""
    h, w = share.shape
    far = np.clip(colour * random.uniform(0.25, 0.7) * np.array([1, 1, random.uniform(0.85, 1.1)]), 0, 1)
    for _ in range(random.integers(1, 4)):
        level = random.uniform(0.25, 0.8) * h
        line = level + fractal(8, w, random, random.uniform(1.0, 2.0))[0] * random.uniform(0.02, 0.1) * h
        over = (np.arange(h)[:, None] >= line[None]).astype(np.float32)
        if random.random() < 0.5:  # woods: a ragged crown with holes
            crown = fractal(h, w, random, random.uniform(0.9, 1.4)) * 0.05 * h
            near = np.arange(h)[:, None] - line[None] + crown
            over = (near > 0).astype(np.float32)
            if random.random() < 0.6:  # seen under the crowns: sky again, between trunks
                over *= 1 - ((near > 0.12 * h) & (fractal(h, w, random, 1.2) > -0.3)).astype(np.float32)
        over = cv2.GaussianBlur(over, (0, 0), blur)
        far = far * random.uniform(0.6, 0.95)
        grain = 1 + fractal(h, w, random, 1.0)[..., None] * random.uniform(0.0, 0.12)
        cover(share, out, over, np.clip(far * grain, 0, 1))


def lines(share, out, random, blur):
    """Poles, wires, pennants and lamps across the sky. In place."""
    h, w = share.shape
    over = np.zeros((h, w), np.float32)
    tint = np.zeros((h, w, 3), np.float32) + random.uniform(0.03, 0.3, 3)
    for _ in range(random.integers(0, 5)):
        x, thick = random.integers(w), random.integers(2, max(3, w // 40))
        over[int(random.uniform(0, 0.7) * h) * random.integers(0, 2) :, x : x + thick] = 1
    for _ in range(random.integers(0, 4)):
        y0, y1, sag = random.uniform(-0.1, 0.5, 2)[0] * h, random.uniform(-0.1, 0.5) * h, random.uniform(0.02, 0.2) * h
        kind, size = random.integers(3), random.uniform(0.008, 0.03) * w
        for t in np.linspace(0, 1, random.integers(8, 30)):
            cx, cy = int(t * w), int(y0 + (y1 - y0) * t + sag * 4 * t * (1 - t))
            colour = tuple(float(c) for c in random.uniform(0.05, 0.9, 3))
            if kind == 0:
                corners = np.array([[cx - size, cy], [cx + size, cy], [cx, cy + 2.2 * size]], np.int32)
                cv2.fillPoly(over, [corners], 1)
                cv2.fillPoly(tint, [corners], colour)
            elif kind == 1:
                cv2.circle(over, (cx, cy), max(1, int(size / 2)), 1, -1)
                cv2.circle(tint, (cx, cy), max(1, int(size / 2)), (1, 0.95, 0.8), -1)
    over = cv2.GaussianBlur(over, (0, 0), blur)
    tint = cv2.GaussianBlur(tint, (0, 0), blur)
    cover(share, out, over, tint)


def water(share, out, above, line, random):
    """A stretch of water under the horizon, the sky's own colours mirrored in ripples. In place."""
    h, w = share.shape
    deep = random.uniform(0.04, 0.3) * h
    rows = np.arange(h)[:, None]
    over = ((rows >= line[None]) & (rows < line[None] + deep)).astype(np.float32)
    over = cv2.GaussianBlur(over, (0, 0), random.uniform(0.5, 3))
    ripples = cv2.resize(fractal(h, max(8, w // 8), random, random.uniform(0.7, 1.3)), (w, h))
    bright = np.clip(random.uniform(0.35, 0.9) + ripples * random.uniform(0.03, 0.25), 0, 1.2)[..., None]
    cover(share, out, over, np.clip(above[::-1] * bright, 0, 1))
    return line + deep


def made_scene(ground, subject, random):
    """(image, share): a sky over a jagged horizon, with a photograph without sky as the ground; share of sky 0…1.

    ``subject`` is None or (picture, mask) to stand in front, both of one size.
    """
    h, w = ground.shape[:2]
    level = random.uniform(0.2, 0.8) * h
    rough = fractal(8, w, random, random.uniform(0.9, 1.8))[0] * random.uniform(0.0, 0.07) * h
    line = level + rough + np.linspace(-1, 1, w) * random.uniform(-0.05, 0.05) * h
    above = linear(sky(h, w, random)) * 2 ** random.uniform(-0.3, 0.8)
    ground, blur = linear(ground), random.uniform(0.5, 9) if random.random() < 0.6 else random.uniform(0.4, 1.2)
    share, out = np.ones((h, w), np.float32), above.copy()
    if random.random() < 0.6:
        hills(share, out, np.clip(above.mean(axis=(0, 1)), 0, 1), random, blur)
    if random.random() < 0.25:
        line = water(share, out, above, line, random)
    below = (np.arange(h)[:, None] >= line[None]).astype(np.float32)
    if random.random() < 0.5:
        below = cv2.GaussianBlur(below, (0, 0), blur)
    cover(share, out, below, ground)
    if random.random() < 0.6:
        lines(share, out, random, blur)
    if subject is not None:
        picture, mask = linear(subject[0]), subject[1]
        scale = random.uniform(0.35, 0.8) * h / picture.shape[0]
        small, cut = (cv2.resize(x, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) for x in (picture, mask))
        ph, pw = min(cut.shape[0], h), min(cut.shape[1], w)
        small, cut = small[:ph, :pw], cut[:ph, :pw]
        y, x = h - ph - random.integers(0, max(1, (h - ph) // 3)), random.integers(0, max(1, w - pw + 1))
        cover(share[y : y + ph, x : x + pw], out[y : y + ph, x : x + pw], cut, small)
    if random.random() < 0.4:  # light spills from a bright sky over what stands before it
        spill = cv2.GaussianBlur((out * share[..., None]).astype(np.float32), (0, 0), random.uniform(0.01, 0.05) * w)
        out = out + spill * random.uniform(0.03, 0.25)
    return encoded(out).astype(np.float32), share


def developed(image, random):
    """Exposure, white balance far out, gamma, haze, saturation and blur as cameras and tastes vary; 0…1."""
    x = np.clip(image * 2 ** random.normal(0, 0.35), 0, 1)
    cast = random.normal(0, 0.12)
    x = x * np.array([1 + cast, 1 + random.normal(0, 0.03), 1 - cast])
    x = np.clip(x, 0, 1) ** np.exp(random.normal(0, 0.2))
    if random.random() < 0.3:
        x = x * 0.8 + 0.2 * np.clip(random.uniform(0.55, 0.95) * np.array([1 + cast, 1, 1 - cast]), 0, 1)
    if random.random() < 0.3:
        grey = x @ [0.3, 0.59, 0.11]
        x = grey[..., None] + (x - grey[..., None]) * random.uniform(0, 0.6)
    if random.random() < 0.25:
        x = cv2.GaussianBlur(x, (0, 0), random.uniform(0.8, 4))
    return np.rint(np.clip(x, 0, 1) * 255).astype(np.uint8)
