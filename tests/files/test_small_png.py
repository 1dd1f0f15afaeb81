"""Pictures of screens for the documentation: small, and not written anew for nothing."""

import io

import numpy as np
from PIL import Image

from tools.made_up import scene
from tools.small_png import MOST_BYTES, looks_the_same, small_png, write_if_changed


def png(array):
    out = io.BytesIO()
    Image.fromarray(array).save(out, "PNG")
    return out.getvalue()


def screen(seed=1):
    """A bar with writing over a picture, as a screen has them."""
    array = np.full((400, 640, 3), 250, np.uint8)
    array[40:] = scene(360, 640, seed)
    array[10:24, 20:120:3] = 20
    return array


def test_a_screen_becomes_small_and_its_colours_stay_near():
    array = np.kron(screen(), np.ones((2, 2, 1), np.uint8))
    small = small_png(png(array))
    assert len(small) <= MOST_BYTES
    back = np.asarray(Image.open(io.BytesIO(small)).convert("RGB"), np.int16)
    assert np.abs(back - array).mean() < 6
    assert np.abs(back[:80] - array[:80]).max() <= 16, "writing stays black on its ground"


def test_what_nobody_sees_is_not_written_anew(tmp_path):
    path, array = tmp_path / "a.png", screen()
    assert write_if_changed(path, png(array))
    before = path.read_bytes()
    cursor = array.copy()
    cursor[300:320, 300:302] = 0
    assert not write_if_changed(path, png(cursor))
    assert path.read_bytes() == before


def test_a_word_that_changed_is_written(tmp_path):
    path, array = tmp_path / "a.png", screen()
    write_if_changed(path, png(array))
    array[10:24, 200:260:3] = 20
    assert write_if_changed(path, png(array))
    assert looks_the_same(path.read_bytes(), small_png(png(array)))


def test_another_size_is_another_picture(tmp_path):
    assert not looks_the_same(png(screen()), png(screen()[:-1]))
