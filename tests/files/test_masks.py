"""Masks on disk and brought to a photograph's own size, where they must follow its edges."""

import io

import cv2
import numpy as np
import pytest
from PIL import Image

from lenskeep.files.masks import full_size_mask, mask_bytes, mask_of_upload, read_mask
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import read_photo
from lenskeep.files.written import write_whole


def test_a_mask_comes_back_as_it_was_and_a_broken_one_says_so(tmp_path):
    mask = np.random.default_rng(0).integers(0, 256, (40, 60), dtype=np.uint8)
    write_whole(tmp_path / "m.png", mask_bytes(mask))
    assert np.array_equal(read_mask(tmp_path / "m.png"), mask)
    assert [p.name for p in tmp_path.iterdir()] == ["m.png"]
    for name, data in (("empty.png", b""), ("words.png", b"words"), ("gone.png", None)):
        if data is not None:
            (tmp_path / name).write_bytes(data)
        with pytest.raises(PhotoProblem, match=name):
            read_mask(tmp_path / name)


def test_a_small_mask_follows_the_edge_of_the_large_photograph(tmp_path):
    """An edge that lies between two proxy pixels is found where the photograph has it, not in steps."""
    height, width, factor = 900, 1500, 10
    y, x = np.mgrid[:height, :width]
    inside = x + 0.35 * y > 903.5
    pixels = np.where(inside[..., None], (205, 190, 170), (60, 70, 80)).astype(np.uint8)
    cv2.imwrite(str(tmp_path / "a.png"), pixels[..., ::-1])
    photo = read_photo(tmp_path / "a.png")
    proxy = photo.reduced(width // factor)
    small = cv2.resize(inside.astype(np.float32), proxy.shape[1::-1], interpolation=cv2.INTER_AREA)
    small = (small > 0.5).astype(np.uint8) * 255  # hard, so that all detail must come from the photograph
    full = full_size_mask(small, proxy, photo)
    assert full.shape == (height, width) and full.dtype == np.uint8
    plain = cv2.resize(small, (width, height), interpolation=cv2.INTER_LINEAR)
    wrong, wrong_plain = (float(((m > 127) != inside).mean()) for m in (full, plain))
    assert wrong < 0.5 * wrong_plain and wrong < 0.002


def test_a_mask_that_is_brought_in_is_grey_and_no_larger_than_it_may_be():
    def packed(width, height):
        out = io.BytesIO()
        Image.fromarray(np.full((height, width), 120, np.uint8)).save(out, "PNG")
        return out.getvalue()

    assert np.array_equal(mask_of_upload(packed(60, 40), "m.png"), np.full((40, 60), 120, np.uint8))
    with pytest.raises(PhotoProblem, match=r"m\.png is too large for a mask"):
        mask_of_upload(packed(8001, 5000), "m.png")  # a few thousand bytes that become 40 MB
    with pytest.raises(PhotoProblem, match="Save the mask as a grey PNG"):
        mask_of_upload(b"words", "m.png")
