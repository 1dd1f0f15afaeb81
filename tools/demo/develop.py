"""Develop linear path-traced renders into the demo photographs, with EXIF and true masks.

Usage: python develop.py RENDER_FOLDER JPEG_FOLDER MASK_FOLDER
RENDER_FOLDER holds NAME.npz with img (h, w, 3) linear sRGB, subj and sky (h, w) coverage 0…1 and z (h, w) depth in
metres. frames.json says which render becomes which frame: exposure (EV), white balance gains, haze, crop (x0, y0, x1,
y1 in 0…1), capture time. Needs numpy, scipy, opencv and pillow.
"""

import json
import sys
from pathlib import Path

import cv2
import numpy as np
from PIL import ExifTags, Image
from scipy import ndimage

HERE = Path(__file__).parent
LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
SETTING = {
    "p": {"contrast": 1.3, "haze_far": 2200.0, "haze_colour": (0.62, 0.40, 0.28), "grain": 0.011},
    "m": {"contrast": 1.15, "haze_far": 900.0, "haze_colour": (0.75, 0.80, 0.85), "grain": 0.009},
}
MASK_SIDE = 800


def hazed(picture, depth, sky, far, colour):
    """Mix with the haze colour by 1 - exp(-depth / far), the sky left as it is."""
    share = (1 - np.exp(-np.where(sky > 0.5, 0, np.nan_to_num(depth)) / far))[..., None]
    return picture * (1 - share) + np.array(colour, np.float32) * share


def bloomed(picture, amount=0.06):
    """Light spread by the lens at three widths."""
    bright = np.minimum(picture, 30)
    spread = sum(weight * cv2.GaussianBlur(bright, (0, 0), sigma) for weight, sigma in ((0.5, 6), (0.3, 25), (0.2, 90)))
    return picture * (1 - amount) + amount * spread


def lens(picture):
    """Natural light fall-off and a little lateral colour error."""
    h, w = picture.shape[:2]
    y, x = np.mgrid[:h, :w]
    r2 = ((x - w / 2) ** 2 + (y - h / 2) ** 2) / ((w / 2) ** 2 + (h / 2) ** 2)
    out = picture * (1 - 0.18 * r2**1.3)[..., None]
    for channel, scale in ((0, 1.0006), (2, 0.9994)):
        offset = [h / 2 * (1 - scale), w / 2 * (1 - scale)]
        out[..., channel] = ndimage.affine_transform(out[..., channel], [scale, scale], offset, order=1, mode="nearest")
    return np.maximum(out, 0)


def grained(picture, amount, random):
    """Photon noise in colour and brightness, growing with the root of the light."""
    colour = random.normal(size=picture.shape) * 0.9
    plain = ndimage.gaussian_filter(random.normal(size=picture.shape[:2]), 0.7)[..., None]
    return np.maximum(picture + (colour + plain) * amount * np.sqrt(picture + 0.02), 0)


def filmic(picture, contrast):
    """A soft shoulder, then the sRGB curve; 0…1."""
    y = picture**1.06 * contrast
    y = np.clip((y * (2.2 * y + 0.03)) / (y * (1.9 * y + 0.59) + 0.14), 0, 1)
    return np.where(y < 0.0031308, 12.92 * y, 1.055 * y ** (1 / 2.4) - 0.055)


def developed(render, frame, seed):
    """The finished picture (h, w, 3) uint8."""
    setting = SETTING[frame["render"][0]]
    far = setting["haze_far"] / frame.get("haze", 1.0)
    x = hazed(render["img"].astype(np.float32), render["z"], render["sky"], far, setting["haze_colour"])
    x = bloomed(x) * 2.0 ** frame["ev"] * np.array(frame.get("wb", (1, 1, 1)), np.float32)
    x = grained(lens(x), setting["grain"], np.random.default_rng(seed))
    light = (x @ LUMA)[..., None]
    y = filmic(np.maximum(light + (x - light) * 1.05, 0), setting["contrast"])
    y = y + 0.35 * (y - ndimage.gaussian_filter(y, (1, 1, 0)))
    return np.rint(np.clip(y, 0, 1) * 255).astype(np.uint8)


def cropped(array, crop):
    h, w = array.shape[:2]
    x0, y0, x1, y1 = crop
    return np.ascontiguousarray(array[round(y0 * h) : round(y1 * h), round(x0 * w) : round(x1 * w)])


def exif_of(frame, number):
    """Made-up camera data that fit the light."""
    exif, dusk = Image.Exif(), frame["render"][0] == "p"
    exif[ExifTags.Base.Make.value], exif[ExifTags.Base.Model.value] = "Madeup Optics", "Madeup M1"
    taken = frame["at"].replace("-", ":")
    exif[ExifTags.Base.DateTime.value] = taken
    inner = exif.get_ifd(ExifTags.IFD.Exif.value)
    inner[ExifTags.Base.DateTimeOriginal.value] = taken
    inner[ExifTags.Base.SubsecTimeOriginal.value] = f"{number * 37 % 100:02d}"
    inner[ExifTags.Base.LensModel.value] = "Madeup 85 mm f/1.8"
    inner[ExifTags.Base.FNumber.value], inner[ExifTags.Base.FocalLength.value] = 2.2, 85.0
    inner[ExifTags.Base.ISOSpeedRatings.value] = 800 if dusk else 200
    inner[ExifTags.Base.ExposureTime.value] = (1 / 320 if dusk else 1 / 1250) * 2.0 ** (frame["ev"] - 0.5)
    return exif.tobytes()


def main(renders, jpegs, masks):
    jpegs.mkdir(parents=True, exist_ok=True)
    masks.mkdir(parents=True, exist_ok=True)
    for number, frame in enumerate(json.loads((HERE / "frames.json").read_text())):
        render = {k: v.astype(np.float32) for k, v in np.load(renders / f"{frame['render']}.npz").items()}
        crop = frame.get("crop", (0, 0, 1, 1))
        picture = cropped(developed(render, frame, number), crop)
        target = jpegs / f"{frame['name']}.jpg"
        Image.fromarray(picture).save(target, quality=90, subsampling=0, exif=exif_of(frame, number))
        for kind, key in (("subject", "subj"), ("sky", "sky")):
            mask = cropped(render[key], crop)
            scale = MASK_SIDE / max(mask.shape)
            mask = cv2.resize(mask, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
            Image.fromarray(np.rint(mask * 255).astype(np.uint8)).save(
                masks / f"{frame['name']}.{kind}.png", optimize=True
            )
        print(frame["name"], picture.shape, f"{target.stat().st_size // 1024} KB")


if __name__ == "__main__":
    main(*(Path(p) for p in sys.argv[1:4]))
