"""Made-up backgrounds without sky that look like one: paper backdrops, walls, ceilings with lamps, windows, blur.

And the other way round: crowns of trees far out of focus with sky in their gaps.
"""

import cv2
import numpy as np

from tools.sky_decoder.made_up_skies import cover, encoded, fractal, linear, sky

PAPERS = [  # sRGB 0…1
    (0.62, 0.74, 0.86), (0.45, 0.60, 0.78), (0.80, 0.86, 0.90), (0.93, 0.92, 0.90), (0.98, 0.98, 0.98),
    (0.75, 0.73, 0.70), (0.50, 0.50, 0.50), (0.25, 0.26, 0.28), (0.90, 0.80, 0.66), (0.86, 0.72, 0.68),
    (0.70, 0.76, 0.66), (0.35, 0.42, 0.50), (0.92, 0.86, 0.70), (0.60, 0.50, 0.42), (0.80, 0.60, 0.40),
    (0.72, 0.66, 0.78),
]  # fmt: skip


def made_room(ground, subject, random):
    """(image (h, w, 3) in 0…1, share of sky (h, w), all 0): a room, or what is out of focus behind a portrait."""
    h, w = ground.shape[:2]
    kind = random.choice(["paper", "paper", "paper", "wall", "ceiling", "window", "blur", "blur"])
    if kind == "blur":
        out = linear(cv2.GaussianBlur(ground.astype(np.float32), (0, 0), random.uniform(0.04, 0.15) * w))
    elif kind == "ceiling":
        out = _ceiling(h, w, random)
    else:
        out = _paper(h, w, random)
        if kind == "wall" or random.random() < 0.3:
            out = _floor(out, ground, random)
        if kind == "window":
            out = _window(out, random)
    share = np.zeros((h, w), np.float32)
    if subject is not None:
        out = stood_before(out, share, subject, random)
    noise = random.normal(0, random.uniform(0, 0.012), out.shape)
    return np.clip(encoded(out) + noise, 0, 1).astype(np.float32), share


def _paper(h, w, random):
    """Even, graded or wrinkled paper, lit from one side or with a pool of light; linear."""
    colour = linear(np.clip(np.array(PAPERS[random.integers(len(PAPERS))]) + random.normal(0, 0.04, 3), 0, 1))
    yy, xx = np.mgrid[:h, :w] / max(h, w)
    light = np.ones((h, w))
    if random.random() < 0.6:  # graded
        angle, steep = random.uniform(0, 2 * np.pi), random.uniform(0.1, 0.9)
        slope = np.cos(angle) * xx + np.sin(angle) * yy
        light = light * (1 - steep * (slope - slope.min()) / np.ptp(slope))
    if random.random() < 0.5:  # a pool of light, or a vignette
        cx, cy = random.uniform(0.1, 0.9), random.uniform(0.0, 0.7)
        light = light * (0.45 + np.exp(-((xx - cx) ** 2 + (yy - cy) ** 2) / random.uniform(0.05, 0.6)))
    if random.random() < 0.5:  # wrinkles and mottling
        light = light * (1 + fractal(h, w, random, random.uniform(1.3, 2.2)) * random.uniform(0.01, 0.12))
    if random.random() < 0.3:  # folds
        folds = np.sin(xx * random.uniform(10, 60) + fractal(h, w, random, 2.0) * random.uniform(0.2, 1.5))
        light = light * (1 + folds * random.uniform(0.01, 0.08))
    return np.clip(light, 0.02, 2.0)[..., None] * colour * 2 ** random.uniform(-0.8, 0.8)


def _floor(out, ground, random):
    """A floor, table or the paper's own sweep in front of it."""
    h, w = out.shape[:2]
    line = random.uniform(0.5, 0.95) * h
    over = np.arange(h)[:, None] >= line + np.linspace(-1, 1, w)[None] * random.uniform(-0.03, 0.03) * h
    over = cv2.GaussianBlur(over.astype(np.float32), (0, 0), random.uniform(0.6, 0.06 * h))
    below = linear(ground) if random.random() < 0.5 else out[::-1] * random.uniform(0.6, 1.3)
    return out * (1 - over[..., None]) + below * over[..., None]


def _ceiling(h, w, random):
    out = _paper(h, w, random)
    lamps = np.zeros((h, w), np.float32)
    for _ in range(random.integers(1, 14)):
        centre = (int(random.uniform(0, w)), int(random.uniform(0, 0.7 * h)))
        size = max(2, int(random.uniform(0.004, 0.03) * w))
        if random.random() < 0.6:
            cv2.circle(lamps, centre, size, 1, -1)
        else:
            cv2.rectangle(lamps, centre, (centre[0] + 6 * size, centre[1] + size), 1, -1)
    glow = cv2.GaussianBlur(lamps, (0, 0), random.uniform(0.01, 0.05) * w) * random.uniform(0.5, 3)
    warm = np.array([1.0, random.uniform(0.75, 1.0), random.uniform(0.45, 1.0)])
    return out + (cv2.GaussianBlur(lamps, (0, 0), 1.0) * 3 + glow)[..., None] * warm


def _window(out, random):
    """Bright panes between mullions: a window is part of the room."""
    h, w = out.shape[:2]
    x0, y0 = random.uniform(0, 0.6) * w, random.uniform(0, 0.4) * h
    ww, hh = random.uniform(0.15, 0.4) * w, random.uniform(0.25, 0.6) * h
    panes = np.zeros((h, w), np.float32)
    across, down = random.integers(1, 4), random.integers(1, 5)
    gap = random.uniform(0.03, 0.1)
    for i in range(across):
        for j in range(down):
            a = (int(x0 + (i + gap) * ww / across), int(y0 + (j + gap) * hh / down))
            b = (int(x0 + (i + 1 - gap) * ww / across), int(y0 + (j + 1 - gap) * hh / down))
            cv2.rectangle(panes, a, b, 1, -1)
    panes = cv2.GaussianBlur(panes, (0, 0), random.uniform(0.6, 8))[..., None]
    outside = np.array([0.9, 0.95, 1.0]) * random.uniform(0.8, 3.0)
    return out * (1 - panes) * random.uniform(0.3, 0.9) + outside * panes


def stood_before(out, share, subject, random):
    """A traced subject in front, large as in a portrait; linear light, ``share`` changed in place."""
    h, w = share.shape
    picture, mask = linear(subject[0]), subject[1]
    scale = random.uniform(0.4, 1.1) * h / picture.shape[0]
    small, cut = (cv2.resize(x, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) for x in (picture, mask))
    ph, pw = min(cut.shape[0], h), min(cut.shape[1], w)
    y, x = h - ph - random.integers(0, max(1, (h - ph) // 3)), random.integers(0, max(1, w - pw + 1))
    cover(share[y : y + ph, x : x + pw], out[y : y + ph, x : x + pw], cut[:ph, :pw], small[:ph, :pw])
    return out


def with_subject(out, share, subject, random):
    """(image (h, w, 3) in 0…1, share) of a view in linear light, with a traced subject in front if there is one."""
    if subject is not None:
        out = stood_before(out, share, subject, random)
    return encoded(out).astype(np.float32), share


def made_crowns(ground, subject, random):
    """(image, share): trees out of focus, hanging in from above or standing along the top, with sky in their gaps."""
    h, w = ground.shape[:2]
    above = linear(sky(h, w, random)) * 2 ** random.uniform(0.0, 1.2)
    share, out = np.ones((h, w), np.float32), above.copy()
    line = random.uniform(0.3, 0.75) * h + fractal(8, w, random, 1.5)[0] * random.uniform(0.0, 0.05) * h
    leaf = np.array([random.uniform(0.02, 0.16), random.uniform(0.05, 0.22), random.uniform(0.01, 0.10)])
    for _ in range(random.integers(1, 4)):
        blobs = fractal(h, w, random, random.uniform(1.0, 1.7))
        rows = np.arange(h)[:, None] / h
        dense = random.uniform(-0.6, 1.2) + random.uniform(0.0, 1.5) * rows * random.choice([-1, 1])
        crowns = (blobs + dense > 0).astype(np.float32)
        blur = random.uniform(2, 0.03 * w)
        crowns = cv2.GaussianBlur(crowns, (0, 0), blur)
        shade = 1 + cv2.GaussianBlur(fractal(h, w, random, 1.2).astype(np.float32), (0, 0), blur)[..., None] * 0.3
        cover(share, out, crowns, np.clip(leaf * shade * random.uniform(0.6, 1.6), 0, 1))
    below = cv2.GaussianBlur((np.arange(h)[:, None] >= line[None]).astype(np.float32), (0, 0), random.uniform(1, 15))
    cover(share, out, below, linear(ground))
    return with_subject(out, share, subject, random)
