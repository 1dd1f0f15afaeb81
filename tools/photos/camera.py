"""From linear light to a finished picture: haze, framing, lens, sensor with its dust, and a film-like curve."""

import cv2
import numpy as np

LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
SATURATION = 1.05
DUST_SOFTNESS = 0.35


def hazed(picture, depth, sky, far, colour):
    """Mix with the haze colour by 1 - exp(-depth / far), the sky left as it is."""
    share = (1 - np.exp(-np.where(sky > 0.5, 0, np.nan_to_num(depth)) / far))[..., None]
    return picture * (1 - share) + np.array(colour, np.float32) * share


def framed(array, crop, turn, size, smooth=True):
    """The part ``crop`` (x0, y0, x1, y1 in 0…1), turned ``turn`` degrees about its middle, to fill ``size`` (w, h).

    Not ``smooth`` keeps covers from overshooting.
    """
    height, width = array.shape[:2]
    x0, y0, x1, y1 = crop
    middle = np.array([(x0 + x1) / 2 * width, (y0 + y1) / 2 * height])
    scale = np.array([(x1 - x0) * width / size[0], (y1 - y0) * height / size[1]])
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    inner = np.array([[c, -s], [s, c]]) @ np.diag(scale)
    move = middle - 0.5 - inner @ (np.array(size) / 2 - 0.5)
    to_source = np.concatenate([inner, move[:, None]], 1)
    way = (cv2.INTER_CUBIC if smooth else cv2.INTER_LINEAR) | cv2.WARP_INVERSE_MAP
    if scale.max() > 1.5:
        array = cv2.GaussianBlur(array, (0, 0), 0.4 * scale.max())
    return cv2.warpAffine(array, to_source, size, flags=way, borderMode=cv2.BORDER_REPLICATE)


def bloomed(picture, amount=0.06):
    """Light spread by the lens at three widths; the wide ones are blurred at an eighth of the size."""
    bright = np.minimum(picture, 30)
    size = picture.shape[1::-1]
    small = cv2.resize(bright, (size[0] // 8, size[1] // 8), interpolation=cv2.INTER_AREA)
    wide = sum(weight * cv2.GaussianBlur(small, (0, 0), sigma / 8) for weight, sigma in ((0.3, 25), (0.2, 90)))
    spread = 0.5 * cv2.GaussianBlur(bright, (0, 0), 6) + cv2.resize(wide, size, interpolation=cv2.INTER_CUBIC)
    return picture * (1 - amount) + amount * np.maximum(spread, 0)


def lens(picture):
    """Natural light fall-off and a little lateral colour error."""
    h, w = picture.shape[:2]
    y, x = np.mgrid[:h, :w].astype(np.float32)
    r2 = ((x - w / 2) ** 2 + (y - h / 2) ** 2) / ((w / 2) ** 2 + (h / 2) ** 2)
    out = picture * (1 - 0.18 * r2**1.3)[..., None]
    for channel, scale in ((0, 1.0006), (2, 0.9994)):
        to_source = np.array([[scale, 0, w / 2 * (1 - scale)], [0, scale, h / 2 * (1 - scale)]])
        way = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        out[..., channel] = cv2.warpAffine(
            np.ascontiguousarray(out[..., channel]), to_source, (w, h), flags=way, borderMode=cv2.BORDER_REPLICATE
        )
    return np.maximum(out, 0)


def dusted(picture, specks):
    """Shadows of dust on a sensor (h, w), each {"x", "y", "radius": shares of the long side, "depth": light it takes}.

    ``x`` and ``y`` are shares of the sensor's width and height.
    """
    h, w = picture.shape[:2]
    out = picture.copy()
    for speck in specks:
        middle, radius = (speck["x"] * w, speck["y"] * h), speck["radius"] * max(h, w)
        y0, x0 = max(int(middle[1] - 3 * radius), 0), max(int(middle[0] - 3 * radius), 0)
        part = out[y0 : int(middle[1] + 3 * radius) + 1, x0 : int(middle[0] + 3 * radius) + 1]
        y, x = np.mgrid[: part.shape[0], : part.shape[1]]
        away = np.hypot(x + x0 - middle[0], y + y0 - middle[1]) / radius
        part *= (1 - speck["depth"] / (1 + np.exp((away - 1) / DUST_SOFTNESS * 4)))[..., None]
    return out


def grained(picture, amount, random):
    """Photon noise in colour and brightness, growing with the root of the light."""
    colour = random.standard_normal(picture.shape, np.float32) * 0.9
    plain = cv2.GaussianBlur(random.standard_normal(picture.shape[:2], np.float32), (0, 0), 0.7)[..., None]
    return np.maximum(picture + (colour + plain) * amount * np.sqrt(picture + 0.02), 0)


def filmic(picture, contrast):
    """A soft shoulder, then the sRGB curve; 0…1."""
    y = picture**1.06 * contrast
    y = np.clip((y * (2.2 * y + 0.03)) / (y * (1.9 * y + 0.59) + 0.14), 0, 1)
    return np.where(y < 0.0031308, 12.92 * y, 1.055 * y ** (1 / 2.4) - 0.055)


def exposed(light, setting, frame, specks, random):
    """Linear light (h, w, 3), in the sensor's own orientation, to a picture uint8."""
    x = bloomed(light) * 2.0 ** frame.get("ev", 0.0) * setting.get("gain", 1.0)
    x = x * np.array(setting.get("wb", (1, 1, 1)), np.float32) * np.array(frame.get("wb", (1, 1, 1)), np.float32)
    x = grained(dusted(lens(x), specks), setting["grain"], random)
    grey = (x @ LUMA)[..., None]
    y = filmic(np.maximum(grey + (x - grey) * setting.get("saturation", SATURATION), 0), setting["contrast"])
    y = y + 0.35 * (y - cv2.GaussianBlur(y, (0, 0), 1))
    return np.rint(np.clip(y, 0, 1) * 255).astype(np.uint8)
