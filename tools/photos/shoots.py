"""A shoot's list of frames, and their development into JPEGs with camera data and known masks."""

import io
import json
from pathlib import Path

import cv2
import numpy as np
from PIL import ExifTags, Image

from tools.photos import camera, known

HERE = Path(__file__).parent
ROOT = HERE.parent.parent
JPEGS, TRUTH = ROOT / "src/lenskeep/demo", ROOT / "benchmarks/truth"
UNSEEN = ROOT / "benchmarks"
FOR_BENCHMARKS = ("unseen", "unseen_again", "passing", "festival", "hands")
TO_LEARN_FROM = ("woods",)
LONG, SHORT = 1600, 1067
MASK_LONG = 800
LARGEST = 400_000


def read(name):
    """The shoot's list: scene module, settings by scene, dust, camera data, frames."""
    return json.loads((HERE / "shoots" / f"{name}.json").read_text("utf-8"))


def save_render(path, traced, horizon):
    """Keep the linear render (float16) and covers (0…255)."""
    covers = {
        f"cover:{name}": np.rint(cover * 255).astype(np.uint8)
        for name, cover in traced.items()
        if name not in ("img", "z")
    }
    part = path.with_suffix(".part.npz")
    np.savez_compressed(part, img=traced["img"].astype(np.float16), z=np.minimum(traced["z"], 6e4).astype(np.float16),
                        horizon=np.array(horizon), **covers)  # fmt: skip
    part.rename(path)


def load_render(path):
    """(linear picture, depth, {subject or "sky": cover}), float32."""
    kept = np.load(path)
    covers = {key[6:]: kept[key].astype(np.float32) / 255 for key in kept.files if key.startswith("cover:")}
    return kept["img"].astype(np.float32), kept["z"].astype(np.float32), covers


def developed(shoot, frame, render, number):
    """(upright picture uint8, {mask: (h, w) 0…1}, boxes, skyline, pixels as the sensor has them) of one frame."""
    light, depth, covers = render
    setting = shoot["settings"][frame["scene"]]
    sky = cv2.resize(covers["sky"], light.shape[1::-1]) if "sky" in covers else np.zeros(light.shape[:2], np.float32)
    if "haze_far" in setting:
        light = camera.hazed(light, depth, sky, setting["haze_far"] / frame.get("haze", 1.0), setting["haze_colour"])
    upright = light.shape[0] > light.shape[1]
    size = (SHORT, LONG) if upright else (LONG, SHORT)
    crop, turn = frame.get("crop", (0, 0, 1, 1)), frame.get("turn", 0.0)
    light = np.maximum(camera.framed(light, crop, turn, size), 0)
    small = tuple(round(side * MASK_LONG / LONG) for side in size)
    covers = {
        name: np.clip(camera.framed(cover, crop, turn, small, smooth=False), 0, 1) for name, cover in covers.items()
    }
    # an upright frame is taken with the camera's right side up: its sensor sees it turned clockwise
    sensed = np.rot90(light, -1) if upright else light
    raw = camera.exposed(
        np.ascontiguousarray(sensed),
        setting,
        frame,
        shoot.get("dust", []),
        np.random.default_rng([shoot["seed"], number]),
    )
    masks = known.masks(covers)
    line = known.skyline(masks["sky"], masks["subject"]) if "sky" in masks else None
    return raw, masks, known.boxes(covers), line, upright


def camera_data(shoot, frame, number, upright):
    """Made-up camera data that fit the light: the exposure time follows the frame's EV."""
    body, setting = shoot["camera"], shoot["settings"][frame["scene"]]
    exif = Image.Exif()
    exif[ExifTags.Base.Make.value], exif[ExifTags.Base.Model.value] = body["make"], body["model"]
    taken = frame["at"].replace("-", ":")
    exif[ExifTags.Base.DateTime.value] = taken
    exif[ExifTags.Base.Orientation.value] = 8 if upright else 1
    inner = exif.get_ifd(ExifTags.IFD.Exif.value)
    inner[ExifTags.Base.DateTimeOriginal.value] = taken
    inner[ExifTags.Base.SubsecTimeOriginal.value] = frame.get("subsec", f"{number * 37 % 100:02d}")
    inner[ExifTags.Base.LensModel.value] = body["lens"]
    inner[ExifTags.Base.FNumber.value], inner[ExifTags.Base.FocalLength.value] = setting["f"], float(body["focal"])
    inner[ExifTags.Base.ISOSpeedRatings.value] = setting["iso"]
    inner[ExifTags.Base.ExposureTime.value] = setting["time"] * 2.0 ** frame.get("ev", 0.0)
    return exif.tobytes()


def as_jpeg(raw, exif=b""):
    """(a picture uint8 as a JPEG of at most ``LARGEST`` bytes, its quality)."""
    for quality in (93, 91, 89, 87, 84, 80, 76, 72):
        held = io.BytesIO()
        Image.fromarray(raw).save(held, "JPEG", quality=quality, subsampling=0 if quality > 85 else 2, exif=exif)
        if held.tell() <= LARGEST:
            break
    return held.getvalue(), quality


def told_apart(masks):
    """Subject and sky, and the kinds of subject where there is more than one."""
    kinds = [kind for kind in dict.fromkeys(known.KINDS.values()) if kind in masks]
    alone = len(kinds) == 1 and np.array_equal(masks[kinds[0]], masks["subject"])
    return {kind: mask for kind, mask in masks.items() if kind not in kinds} if alone else masks


def develop(name, renders, jpegs=JPEGS, truth=TRUTH, say=print):
    """Write the shoot's JPEGs, its masks and its facts; frames whose render is missing are named and left out.

    What is unseen is for the benchmark alone: its pictures lie with their masks.
    """
    shoot = read(name)
    if name in FOR_BENCHMARKS:
        jpegs = truth = UNSEEN
    jpegs, truth = jpegs / shoot["folder"], truth / shoot["folder"]
    for folder in (jpegs, truth):
        folder.mkdir(parents=True, exist_ok=True)
        for old in folder.glob("*.*"):
            old.unlink()
    facts = {"shoot": shoot["title"], "dust": shoot.get("dust", []), "frames": {}}
    for number, frame in enumerate(shoot["frames"]):
        path = renders / f"{name}-{frame['shot']}.npz"
        if not path.exists():
            say(f"{frame['name']}: left out, {path.name} is not rendered yet")
            continue
        raw, masks, boxes, line, upright = developed(shoot, frame, load_render(path), number)
        target = jpegs / f"{frame['name']}.jpg"
        data, quality = as_jpeg(raw, camera_data(shoot, frame, number, upright))
        target.write_bytes(data)
        for kind, mask in told_apart(masks).items():
            Image.fromarray(np.rint(mask * 255).astype(np.uint8)).save(
                truth / f"{frame['name']}.{kind}.png", optimize=True
            )
        facts["frames"][frame["name"]] = {
            "scene": frame["scene"],
            "shot": frame["shot"],
            "subjects": boxes,
            "skyline": line,
            "upright": upright,
        }
        say(f"{frame['name']} {frame['shot']} {target.stat().st_size // 1024} KB, quality {quality}")
    text = json.dumps(facts, indent=1)
    (truth / "facts.json").write_text(text + "\n", "utf-8")
