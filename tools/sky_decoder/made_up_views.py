"""Made-up views where little tells sky from ground: houses that leave a sliver of sky, pale ground under a pale sky."""

import cv2
import numpy as np

from tools.sky_decoder.made_up_rooms import with_subject
from tools.sky_decoder.made_up_skies import cover, fractal, hills, linear, lines, sky

FINER = 2
"""Houses and trees are drawn at this many times the size, so that their edges are soft by a pixel."""


def made_street(ground, subject, random):
    """(image (h, w, 3) in 0…1, share of sky (h, w)): houses up to the upper edge or nearly, before a little sky."""
    h, w = ground.shape[:2]
    above = linear(sky(h, w, random)) * 2 ** random.uniform(-0.3, 1.0)
    share, out = np.ones((h, w), np.float32), above.copy()
    blur = random.uniform(1.0, 8.0) if random.random() < 0.5 else random.uniform(0.4, 0.9)
    behind = random.random() < 0.6
    for front in (False, True) if behind else (True,):  # those behind stand higher
        over, paint = _houses(h, w, above, 0.0 if front else 0.04, 0.25 * (front and behind), random)
        over, paint = (cv2.GaussianBlur(x, (0, 0), blur) for x in (over, paint))
        cover(share, out, over, paint)
    if random.random() < 0.3:
        lines(share, out, random, max(blur, 0.8))
    line = random.uniform(0.55, 0.95) * h
    below = cv2.GaussianBlur((np.arange(h)[:, None] >= line + np.zeros(w)).astype(np.float32), (0, 0), blur)
    cover(share, out, below, linear(ground) if random.random() < 0.6 else _paved(h, w, random))
    return with_subject(out, share, subject, random)


def _houses(h, w, above, higher, gaps, random):
    """(where, 0…1, colours (h, w, 3)) of a row of houses, or of the two sides of a street that run away from us."""
    big = (FINER * h, FINER * w)
    over, paint = np.zeros(big, np.float32), np.zeros((*big, 3), np.float32)
    level = random.uniform(-0.06, 0.16) - higher
    street, vanish = random.random() < 0.35, random.uniform(0.2, 0.8)
    drop = random.uniform(0.2, 0.6)
    x = -0.1
    while x < 1.05:
        wide = random.uniform(0.08, 0.4)
        top = level + random.normal(0, 0.045)
        ends = [top + drop * max(0.0, 1 - abs(at - vanish) / 0.6) * street for at in (x, x + wide)]
        _house(over, paint, (x, x + wide), ends, above, random)
        x += wide + (random.uniform(0.01, 0.12) if random.random() < gaps else 0.0)
    noise = 1 + fractal(h, w, random, random.uniform(0.6, 1.4))[..., None] * random.uniform(0.0, 0.08)
    over, paint = (cv2.resize(p, (w, h), interpolation=cv2.INTER_AREA) for p in (over, paint))
    return over, np.clip(paint * noise, 0, None).astype(np.float32)


def _house(over, paint, sides, tops, above, random):
    """One front with its roof and windows. In place."""
    h, w = over.shape
    (x0, x1), (y0, y1) = (np.array(sides) * w, np.array(tops) * h)
    wall, roof = (
        random.uniform(0.05, 0.8) * random.uniform(0.6, 1.0, 3),
        random.uniform(0.03, 0.35) * np.array([1.0, *random.uniform(0.4, 1.0, 2)]),
    )
    high = random.uniform(0.0, 0.16) * h * (random.random() < 0.7)
    ridge = random.uniform(0.15, 0.5) if random.random() < 0.6 else 0.0
    eaves = [[x0, y0 + high], [x0 + ridge * (x1 - x0), y0], [x1 - ridge * (x1 - x0), y1], [x1, y1 + high]]
    if high and ridge and random.random() < 0.4:  # a gable towards us
        eaves[1] = eaves[2] = [(x0 + x1) / 2, min(y0, y1)]
    _fill(over, paint, np.array([[x0, y0 + high], [x1, y1 + high], [x1, h], [x0, h]]), wall)
    if high:
        _fill(over, paint, np.array(eaves), roof)
    for _ in range(random.integers(0, 3)):
        cx, cw = random.uniform(x0, x1), random.uniform(0.006, 0.02) * w
        top, foot = y0 - 0.04 * h, y0 + high
        _fill(over, paint, np.array([[cx, top], [cx + cw, top], [cx + cw, foot], [cx, foot]]), roof)
    across, down = random.integers(1, 6), random.uniform(0.05, 0.16) * h
    pane = linear(random.uniform(0.1, 0.5, 3)) if random.random() < 0.6 else above[: h // 8].mean((0, 1)) * 0.8
    y = max(y0, y1) + high + 0.3 * down
    while y < h:
        for k in range(across):
            left = x0 + (k + random.uniform(0.22, 0.26)) * (x1 - x0) / across
            right, low = left + 0.5 * (x1 - x0) / across, y + 0.55 * down
            _fill(over, paint, np.array([[left, y], [right, y], [right, low], [left, low]]), pane)
        y += down


def _fill(over, paint, corners, colour):
    at = np.rint(corners).astype(np.int32)
    cv2.fillPoly(over, [at], 1.0)
    cv2.fillPoly(paint, [at], tuple(float(c) for c in colour))


def _paved(h, w, random):
    """A square of stone, lit from above: nearly as bright as the sky, with joints."""
    stone = np.array([1.0, random.uniform(0.9, 1.05), random.uniform(0.8, 1.15)]) * random.uniform(0.1, 0.7)
    light = 1 + fractal(h, w, random, random.uniform(0.8, 1.6)) * random.uniform(0.02, 0.12)
    rows = np.geomspace(1.0, random.uniform(2, 6), random.integers(5, 20))
    for y in (rows - 1) / (rows[-1] - 1) * h:
        light[int(min(y, h - 1)) : int(min(y, h - 1)) + 1] *= random.uniform(0.6, 0.95)
    return np.clip(light[..., None] * stone, 0, 1.2)


def made_pale(ground, subject, random):
    """(image, share): snow, sand, fog or pale stone under a sky hardly brighter, with bare trees along the horizon."""
    h, w = ground.shape[:2]
    above = linear(sky(h, w, random))
    above = above * (1 - (part := random.uniform(0.0, 0.8))) + part * random.uniform(0.4, 1.0)
    above = above * 2 ** random.uniform(-0.3, 0.5)
    share, out = np.ones((h, w), np.float32), above.copy()
    blur = random.uniform(0.4, 1.2) if random.random() < 0.6 else random.uniform(1.2, 7)
    if random.random() < 0.6:
        hills(share, out, np.clip(above.mean(axis=(0, 1)), 0, 1), random, blur)
    line = (
        random.uniform(0.25, 0.75) * h
        + fractal(8, w, random, random.uniform(1.2, 2.2))[0] * random.uniform(0.0, 0.03) * h
    )
    for _ in range(random.integers(0, 8)):
        over = cv2.GaussianBlur(_bare_tree(h, w, line, random), (0, 0), blur)
        cover(share, out, over, np.zeros(3) + random.uniform(0.01, 0.2))
    low = above.mean((0, 1)) * random.uniform(0.35, 1.25)
    tint = np.array(
        [1.0, random.uniform(0.9, 1.05), random.choice([random.uniform(0.55, 0.9), random.uniform(0.9, 1.3)])]
    )
    rough = fractal(h, w, random, random.uniform(1.0, 2.2)) * random.uniform(0.01, 0.14)
    rough = cv2.resize(rough[: max(8, h // 3)], (w, h))  # seen at a flat angle
    shade = 1 + np.linspace(-1, 1, h)[:, None] * random.uniform(-0.35, 0.35)
    pale = np.clip((shade * (1 + rough))[..., None] * low * tint, 0, 1.3)
    below = np.clip(np.arange(h)[:, None] - line[None] + 0.5, 0, 1).astype(np.float32)
    cover(share, out, cv2.GaussianBlur(below, (0, 0), blur), pale)
    if random.random() < 0.3:  # something real in the foreground
        near = np.arange(h)[:, None] >= random.uniform(0.7, 1.0) * h + np.zeros(w)
        cover(share, out, cv2.GaussianBlur(near.astype(np.float32), (0, 0), blur), linear(ground))
    return with_subject(out, share, subject, random)


def _bare_tree(h, w, line, random):
    """Trunk and twigs (h, w), 0…1, standing on the horizon ``line`` or somewhat before it."""
    out = np.zeros((FINER * h, FINER * w), np.float32)
    x = random.uniform(0, w)
    foot = line[int(min(x, w - 1))] + random.uniform(0.0, 0.12) * h
    size = random.uniform(0.08, 0.3) * h * FINER
    todo = [(x * FINER, foot * FINER, -np.pi / 2 + random.normal(0, 0.06), size * 0.45, max(1.0, size / 18))]
    while todo:
        x0, y0, way, long, thick = todo.pop()
        x1, y1 = x0 + np.cos(way) * long, y0 + np.sin(way) * long
        cv2.line(out, (int(x0), int(y0)), (int(x1), int(y1)), 1.0, max(1, round(thick)))
        if long < size / 16 or len(todo) > 400:
            continue
        for _ in range(random.integers(2, 4)):
            todo.append((x1, y1, way + random.normal(0, 0.5), long * random.uniform(0.6, 0.8), thick * 0.6))
    return cv2.resize(out, (w, h), interpolation=cv2.INTER_AREA)
