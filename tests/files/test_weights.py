"""The networks as they are loaded: nothing is reported to anybody, and a process that loads none stays fit to fork."""

import subprocess
import sys

import numpy as np
import pytest

from lenskeep.core.detect.boxes import find_boxes
from lenskeep.core.detect.figures import posed
from lenskeep.core.detect.tensors import backbone_input, saliency_input
from lenskeep.files import networks as weights
from tools.known import known_frames
from tools.made_up import scene

ALONE = """
import threading, sys
import lenskeep.studio.tasks.find as tasks
assert [t.name for t in threading.enumerate()] == ["MainThread"], threading.enumerate()
assert not any(name.startswith("openvino") for name in sys.modules)
import socket
def refused(*a, **k): raise AssertionError("somebody wanted to be called")
socket.socket.connect = refused
socket.create_connection = refused
tasks.detectors(1)
loaded = [n for n, m in sys.modules.items() if n.startswith("openvino_telemetry") and m is not None]
assert loaded == [], loaded
assert not any("Pool" in t.name for t in threading.enumerate()), threading.enumerate()
print("quiet")
"""


def test_loading_the_networks_reports_to_nobody_and_importing_starts_no_thread():
    done = subprocess.run([sys.executable, "-c", ALONE], capture_output=True, text=True, timeout=120)
    assert done.stdout.strip().endswith("quiet"), done.stderr


def test_the_networks_give_what_they_should_in_any_number_of_threads():
    picture = scene(300, 450)
    fed = {"picture": saliency_input(picture, 320)}
    one, two = (weights.saliency_network(n).run(fed) for n in (1, 2))
    assert len(one) == 1 and one[0].shape == (1, 1, 320, 320) and one[0].min() >= 0 and one[0].max() <= 1
    np.testing.assert_allclose(one[0], two[0], atol=1e-4)
    x = backbone_input(picture, 320)
    one, two = (weights.backbone_network(n).run({"x": x}) for n in (1, 2))
    halves = [(24, 4), (48, 8), (88, 16), (120, 16), (208, 32), (352, 32)]
    assert [s.shape[1:] for s in one] == [(c, x.shape[2] // by, x.shape[3] // by) for c, by in halves]
    for a, b in zip(one, two, strict=True):
        np.testing.assert_allclose(a, b, atol=1e-3)


def test_guests_seen_from_behind_are_boxed_and_their_figures_fill_what_they_truly_are():
    guests = next(k for k in known_frames() if k.facts["shot"] == "guests")
    picture, truth = np.ascontiguousarray(guests.image()[::2, ::2]), guests.masks()["people"] > 127
    people = [one for one in find_boxes(picture, weights.boxes_network(2)) if one.seen == "person" and one.score > 0.5]
    assert len(people) >= 6
    network = weights.figure_network(2)
    figures = [posed(picture, one.box, network) for one in people]
    assert all(mask.shape == truth.shape and presence > 0.9 for mask, presence in figures)
    found = np.max([mask for mask, _ in figures], axis=0) > 0.5
    assert (found & truth).sum() / (found | truth).sum() > 0.9


def test_a_missing_weight_file_says_what_to_do(monkeypatch):
    with pytest.raises(weights.WeightsMissing, match="make setup"):
        weights._packaged("nothing.onnx")
