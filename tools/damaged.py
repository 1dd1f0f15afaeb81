"""Damaged files of every kind that can be brought in, made from small whole ones by a seeded hand.

What a hostile or unlucky card may hold: flipped bits, cuts, swapped blocks, repeated blocks, sizes that are not so,
nesting without end, animations, presses' colours, one bit a pixel, floats.
"""

import io
import json
import random
import struct
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
import pillow_heif
import tifffile
from PIL import Image

from lenskeep.core.recipes.models import FORMAT
from tools.made_up import look_recipe, scene, write_dng

SIDE = (64, 96)
INTERESTING = (0, 1, 0x7F, 0x80, 0xFF, 0x7FFF, 0x8000, 0xFFFF, 0x10000, 0x7FFFFFFF, 0x80000000, 0xFFFFFFFF)
HUGE_SHARE = 400
"""One in so many is a whole picture of a huge size in a small file, which takes long to make."""


@dataclass(frozen=True)
class Damaged:
    """A file to be brought in; ``way`` is photo, table, picture, mask or recipe."""

    name: str
    way: str
    data: bytes
    how: str


def _saved(image: Image.Image, kind: str, **options: object) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def _tiff(pixels: np.ndarray, **options: object) -> bytes:
    out = io.BytesIO()
    tifffile.imwrite(out, pixels, **options)
    return out.getvalue()


@lru_cache(maxsize=1)
def whole() -> dict[str, list[tuple[str, bytes]]]:
    """Whole files by way: (name, bytes)."""
    pixels = scene(*SIDE)
    image = Image.fromarray(pixels)
    frames = [Image.fromarray(np.roll(pixels, n, 1)) for n in (3, 6)]
    exif = Image.Exif()
    exif[0x0112] = 6
    exif.get_ifd(0x8769)[0x9003] = "2026:09:12 18:30:05"
    heif = io.BytesIO()
    pillow_heif.from_pillow(image).save(heif, quality=60)
    with tempfile.TemporaryDirectory() as folder:
        write_dng(Path(folder) / "a.dng", np.full((*SIDE, 3), 0.2))
        dng = (Path(folder) / "a.dng").read_bytes()
    photos = [
        ("a.jpg", _saved(image, "JPEG", quality=80, exif=exif)),
        ("progressive.jpg", _saved(image, "JPEG", quality=80, progressive=True)),
        ("press.jpg", _saved(image.convert("CMYK"), "JPEG")),
        ("grey.jpg", _saved(image.convert("L"), "JPEG")),
        ("a.png", _saved(image, "PNG")),
        ("onebit.png", _saved(image.convert("1"), "PNG")),
        ("palette.png", _saved(image.quantize(16), "PNG")),
        ("clear.png", _saved(image.convert("RGBA"), "PNG")),
        ("moving.png", _saved(image, "PNG", save_all=True, append_images=frames)),
        ("a.tif", _tiff(pixels, photometric="rgb")),
        ("deflate.tif", _tiff(pixels, photometric="rgb", compression="zlib")),
        ("lzma.tif", _tiff(pixels, photometric="rgb", compression="lzma")),
        ("deep.tif", _tiff(pixels.astype(np.uint16) * 257, photometric="rgb")),
        ("half.tif", _tiff((pixels / 255).astype(np.float16), photometric="rgb")),
        ("float.tif", _tiff((pixels / 255).astype(np.float32), photometric="rgb")),
        ("onebit.tif", _saved(image.convert("1"), "TIFF", compression="group4")),
        ("press.tif", _saved(image.convert("CMYK"), "TIFF")),
        ("pages.tif", _saved(image, "TIFF", save_all=True, append_images=frames)),
        ("a.heic", heif.getvalue()),
        ("a.dng", dng),
        ("moving.gif", _saved(image, "GIF", save_all=True, append_images=frames)),
        ("moving.webp", _saved(image, "WEBP", save_all=True, append_images=frames)),
    ]
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as bundle:
        for name, data in (photos[0], photos[4]):
            bundle.writestr(f"day/{name}", data)
    bz = io.BytesIO()
    with zipfile.ZipFile(bz, "w", zipfile.ZIP_BZIP2) as bundle:
        bundle.writestr("b.jpg", photos[0][1])
    xz = io.BytesIO()
    with zipfile.ZipFile(xz, "w", zipfile.ZIP_LZMA) as bundle:
        bundle.writestr("c.jpg", photos[0][1])
    photos += [("a.zip", packed.getvalue()), ("bz.zip", bz.getvalue()), ("xz.zip", xz.getvalue())]
    cube = 'TITLE "a"\nLUT_3D_SIZE 5\n' + "\n".join(
        f"{r / 4:.3f} {g / 4:.3f} {b / 4:.3f}" for b in range(5) for g in range(5) for r in range(5)
    )
    line = "LUT_1D_SIZE 16\n" + "\n".join(f"{i / 15:.4f} {i / 15:.4f} {i / 15:.4f}" for i in range(16))
    recipe = look_recipe().model_dump_json().encode()
    return {
        "photo": photos,
        "table": [("a.cube", cube.encode()), ("line.cube", line.encode())],
        "picture": [photos[7], photos[0], photos[6]],
        "mask": [("mask.png", _saved(image.convert("L"), "PNG")), photos[5], photos[4]],
        "recipe": [("r.json", recipe), ("pretty.json", json.dumps(json.loads(recipe), indent=1).encode())],
    }


SHARES = {"photo": 0.78, "table": 0.06, "picture": 0.05, "mask": 0.05, "recipe": 0.06}


def damaged(count: int, seed: int) -> Iterator[Damaged]:
    """So many damaged files, the same for the same seed."""
    chance = random.Random(seed)
    ways, weights = list(SHARES), list(SHARES.values())
    for number in range(count):
        way = chance.choices(ways, weights)[0]
        if chance.randrange(HUGE_SHARE) == 0:
            name, data, how = _monster(way, chance)
        else:
            name, data = chance.choice(whole()[way])
            hands = HANDS_OF_TEXT if way in ("table", "recipe") and chance.random() < 0.6 else HANDS
            hand = chance.choice(hands)
            how = hand.__name__.strip("_")
            data = hand(data, chance)
        yield Damaged(f"{number:06d}-{name}", way, data, how)


def _flip(data: bytes, chance: random.Random) -> bytes:
    out = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 5, 20, 200))):
        out[chance.randrange(len(out))] ^= 1 << chance.randrange(8)
    return bytes(out)


def _flip_in_the_head(data: bytes, chance: random.Random) -> bytes:
    out = bytearray(data)
    for _ in range(chance.choice((1, 2, 4))):
        out[chance.randrange(min(len(out), 400))] ^= 1 << chance.randrange(8)
    return bytes(out)


def _cut(data: bytes, chance: random.Random) -> bytes:
    return data[: chance.randrange(len(data))]


def _cut_a_piece_out(data: bytes, chance: random.Random) -> bytes:
    a = chance.randrange(len(data))
    return data[:a] + data[a + chance.randrange(1, 64) :]


def _swap(data: bytes, chance: random.Random) -> bytes:
    size = chance.choice((1, 4, 16, 64))
    a, b = sorted(chance.randrange(max(1, len(data) - size)) for _ in range(2))
    return data[:a] + data[b : b + size] + data[a + size : b] + data[a : a + size] + data[b + size :]


def _repeat(data: bytes, chance: random.Random) -> bytes:
    a = chance.randrange(len(data))
    piece = data[a : a + chance.choice((2, 16, 200))]
    return data[:a] + piece * chance.choice((2, 50)) + data[a:]


def _odd_number(data: bytes, chance: random.Random) -> bytes:
    """A number in the file becomes one of those that programs trip over, such as a size of 4 billion."""
    width, order = chance.choice((1, 2, 4)), chance.choice(("<", ">"))
    value = chance.choice(INTERESTING) & ((1 << 8 * width) - 1)
    at = chance.randrange(max(1, min(len(data), chance.choice((64, 400, len(data)))) - width))
    return data[:at] + struct.pack(order + {1: "B", 2: "H", 4: "I"}[width], value) + data[at + width :]


def _odd_number_checked(data: bytes, chance: random.Random) -> bytes:
    """The same inside a PNG's chunks, with sums that are right, so that it is believed."""
    if data[:8] != b"\x89PNG\r\n\x1a\n":
        return _odd_number(data, chance)
    out, at = data[:8], 8
    while at + 12 <= len(data):
        size = int.from_bytes(data[at : at + 4])
        kind, body = data[at + 4 : at + 8], data[at + 8 : at + 8 + size]
        if body and (kind == b"IHDR" or chance.random() < 0.2):
            body = _odd_number(body, chance)[:size]
        out += struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
        at += 12 + size
    return out


def _other_name(data: bytes, chance: random.Random) -> bytes:
    """Something else altogether under this name."""
    other = chance.choice(whole()[chance.choice(list(SHARES))])
    return chance.choice(
        (other[1], b"", b"\0" * 500, b"GIF89a", b"<svg xmlns='x'/>", b"%PDF-1.7", chance.randbytes(900))
    )


def _odd_word(data: bytes, chance: random.Random) -> bytes:
    """A number or word of a text becomes another one."""
    words = data.split(b" ") if b" " in data else data.split(b",")
    odd = (
        b"NaN", b"Infinity", b"-Infinity", b"1e999", b"1e39", b"-1e400", b"null", b"[]", b"{}", b'""', b"true",
        b"9" * 400, b'"\\u0000"', b'"\\ud800"', b"-0", b"0x10", b"1_000", "\u0661".encode(),
        b"LUT_3D_SIZE 4000000000",
    )  # fmt: skip
    words[chance.randrange(len(words))] = chance.choice(odd)
    return (b" " if b" " in data else b",").join(words)


def _odd_value(data: bytes, chance: random.Random) -> bytes:
    """A value inside JSON becomes another one, and it stays JSON."""
    try:
        tree = json.loads(data)
    except ValueError:
        return _odd_word(data, chance)
    place = tree
    for _ in range(chance.randrange(1, 7)):
        inner = list(place.items() if isinstance(place, dict) else enumerate(place)) if place else []
        inner = [(k, v) for k, v in inner if isinstance(v, dict | list) and v]
        if not inner:
            break
        place = chance.choice(inner)[1]
    keys = list(place) if isinstance(place, dict) else list(range(len(place)))
    odd = (
        float("nan"),
        float("inf"),
        1e308,
        -1,
        10**400,
        "x" * 100_000,
        "\0",
        "\u202e",
        [[]],
        {"a": {}},
        None,
        True,
        [0] * 5000,
    )
    place[chance.choice(keys)] = chance.choice(odd)
    return json.dumps(tree).encode("utf-8", "surrogatepass")


HANDS: tuple[Callable[[bytes, random.Random], bytes], ...] = (
    _flip, _flip_in_the_head, _cut, _cut_a_piece_out, _swap, _repeat, _odd_number, _odd_number_checked, _other_name,
)  # fmt: skip
HANDS_OF_TEXT = (_odd_word, _odd_value)


@lru_cache(maxsize=8)
def _flat_png(side: int, mode: str) -> bytes:
    return _saved(Image.new(mode, (side, side)), "PNG", compress_level=9)


def _monster(way: str, chance: random.Random) -> tuple[str, bytes, str]:
    """A small file that unpacks to something huge, or is nested without end."""
    if way == "recipe":
        deep = b"[" * 100_000 if chance.random() < 0.5 else b'{"a":' * 50_000
        head = f'{{"format": "{FORMAT}", "steps": '.encode() if chance.random() < 0.5 else b""
        return "deep.json", head + deep, "nested"
    if way == "table":
        text = chance.choice(
            (b"LUT_3D_SIZE 129\n" + b"0 0 0\n" * 1_000_000, b"LUT_1D_SIZE 65536\n" + b"1e39 0 0\n" * 65536)
        )
        return "large.cube", text, "huge"
    if way == "photo" and chance.random() < 0.5:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as bundle:
            bundle.writestr("a.jpg", b"\0" * 60_000_000)
            inner = whole()["photo"][-3][1]
            for n in range(20):
                bundle.writestr(f"{n}.zip", inner)
        return "bomb.zip", out.getvalue(), "bomb"
    side = chance.choice((15_800, 12_000, 9_000, 6_000))
    return "large.png", _flat_png(side, chance.choice(("L", "1", "RGB" if side < 10_000 else "L"))), "huge"
