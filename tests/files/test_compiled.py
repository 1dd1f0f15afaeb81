"""Compiled networks kept between processes: the same numbers, and never worse than having none."""

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from lenskeep.files import compiled as kept
from lenskeep.files import networks

FED = {"s6": np.random.default_rng(2).random((1, 352, 4, 6), np.float32)}


@pytest.fixture
def folder(tmp_path, monkeypatch) -> Path:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    return kept.cache_folder()


def small(threads: int = 1, width: int = 6) -> networks.OpenVinoNetwork:
    """The network that is compiled soonest."""
    return networks.OpenVinoNetwork("class_head.onnx", threads, {"s6": [1, 352, 4, width]})


def compiled_anew(monkeypatch) -> list[str]:
    """A list that grows whenever something is kept, which is when it was compiled."""
    seen: list[str] = []
    real = kept._keep
    monkeypatch.setattr(kept, "_keep", lambda place, blob: (seen.append(place.name), real(place, blob)))
    return seen


@pytest.mark.parametrize(
    "name",
    ["saliency.xml", "scene_backbone.xml", "boxes.xml", "sky_whole.onnx", "sky_closely.onnx", "class_head.onnx"],
)
def test_one_read_again_gives_the_same_bits(name, folder):
    shapes = {"picture": [1, 3, 64, 64]} if name == "saliency.xml" else None
    outs = []
    for _ in range(2):
        network = networks.OpenVinoNetwork(name, 1, shapes)
        random = np.random.default_rng(1)
        fed = {}
        for port in network._request.model_inputs:
            shape = [d.get_length() if d.is_static else 32 for d in port.partial_shape]
            fed[port.any_name] = random.random(shape, np.float32)
        if name.startswith("sky_"):  # its inputs are stages of one picture
            steps = {"picture": 64, "s1": 32, "s2": 16, "s3": 8, "s4": 8, "s5": 4, "s6": 4}
            fed = {k: random.random((*v.shape[:2], steps[k], steps[k]), np.float32) for k, v in fed.items()}
        outs.append(network.run(fed))
    assert all(np.array_equal(a, b) for a, b in zip(*outs, strict=True))
    assert len(list(folder.iterdir())) == 1


def test_it_is_compiled_once_for_each_size_and_number_of_threads(folder, monkeypatch):
    seen = compiled_anew(monkeypatch)
    for _ in range(2):
        small(), small(threads=2), small(width=9)
    assert len(seen) == len(set(seen)) == len(list(folder.iterdir())) == 3


@pytest.mark.parametrize(
    "harm", [lambda b: b"", lambda b: b[:-9], lambda b: b[:999] + bytes(9) + b[1008:], lambda b: b"x" * 99]
)
def test_a_damaged_one_is_compiled_anew_and_replaced(harm, folder, monkeypatch):
    before = small().run(FED)
    (file,) = folder.iterdir()
    whole = file.read_bytes()
    file.write_bytes(harm(whole))
    seen = compiled_anew(monkeypatch)
    assert np.array_equal(small().run(FED)[1], before[1])
    assert seen == [file.name] and kept._checked(file.read_bytes())


def test_where_nothing_can_be_kept_all_goes_on(tmp_path, monkeypatch):
    (tmp_path / "file").write_text("no folder")
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "file"))
    assert small().run(FED)[1].shape == (1, 4, 6)
    assert (tmp_path / "file").read_text() == "no folder"


def test_a_full_disk_leaves_no_half_file(folder, monkeypatch):
    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "replace", full)
    assert small().run(FED)[1].shape == (1, 4, 6)
    assert list(folder.iterdir()) == []


def test_old_ones_make_room(folder, monkeypatch):
    monkeypatch.setattr(kept, "MOST_KEPT", 2)
    for at, width in enumerate((6, 9, 12)):
        small(width=width)
        for file in folder.iterdir():
            os.utime(file, (at, file.stat().st_mtime))
    assert len(list(folder.iterdir())) == 2


def test_processes_that_start_together_all_get_a_whole_one(folder, tmp_path):
    code = (
        "import sys; from tests.files.test_compiled import small, FED; import numpy as np;"
        "np.save(sys.argv[1], small().run(FED)[1])"
    )
    where = [tmp_path / f"{k}.npy" for k in range(4)]
    started = [subprocess.Popen([sys.executable, "-c", code, str(out)]) for out in where]
    assert [p.wait(120) for p in started] == [0] * 4
    first, *others = (np.load(out) for out in where)
    assert all(np.array_equal(first, other) for other in others)
    assert len(list(folder.iterdir())) == 1
