"""The seven steps in a browser, on the running application: from files on disk to the opened ZIP."""

import io
import time
import zipfile

import numpy as np
import pytest
from PIL import Image

from tools.made_up import DEMO
from tools.running.browser import Person
from tools.running.server import Server

FRAMES = ["LKD_0113", "LKD_0124", "LKD_0133", "LKD_0221", "LKD_0231"]


@pytest.fixture
def card(tmp_path):
    folder = tmp_path / "card"
    folder.mkdir()
    for name in FRAMES:
        image = Image.open(DEMO / f"{name}.jpg")
        small = image.resize((image.width // 2, image.height // 2))
        small.save(folder / f"{name}.jpg", quality=90, exif=image.getexif())
    (folder / "broken.jpg").write_bytes((folder / "LKD_0113.jpg").read_bytes()[:5000])
    return folder


@pytest.mark.browser
def test_from_files_to_the_opened_zip(chromium, card, tmp_path):
    with Server(tmp_path / "home") as server:
        person = Person(chromium, server.address)
        chromium.get(server.address)
        bring_in(person, card)
        make_a_look(person)
        save_twice(person)
        apply_and_change_one_frame(person)
        hand_over(person, tmp_path / "downloads", card)
        assert person.complaints() == []


def bring_in(person, card):
    person.find("input[name=name]").send_keys("Two dogs")
    person.find("#files").send_keys("\n".join(str(p) for p in sorted(card.iterdir())))
    person.reads("broken.jpg is cut off", "#upload-refused")
    person.press("Open the shoot")
    person.reads("5 frames")
    person.wait(lambda: len(person.all(".tile img")) == 5)
    person.wait(lambda: not any("waiting" in t.text for t in person.all(".tile-line")), 90)
    names = [t.text.split()[0] for t in person.all(".tile-line")]
    assert names == [f"{n}.jpg" for n in FRAMES], "in order of capture time"
    person.wait(lambda: len(person.all(".scene-head")) == 2, 30)


def make_a_look(person):
    person.press("Make a look")
    person.reads("A look is made of steps")
    person.wait(lambda: len(person.all(".witness")) == 2)  # of the first of two scenes
    untouched = person.settled("#key-canvas")
    add_step(person, "subject", "exposure")
    witness = person.settled(".witness canvas")
    move(person, "exposure", 1.4)
    lifted = person.settled("#key-canvas")
    assert lifted > untouched + 1 and person.settled(".witness canvas") > witness + 0.5
    add_step(person, "background", "saturation")
    move(person, "saturation", -70)
    add_step(person, "ramp", "haze")
    move(person, "haze", 30)
    with_haze = person.settled("#key-canvas")
    person.all(".lane-row input[type=checkbox]")[-1].click()
    assert abs(person.settled("#key-canvas") - with_haze) > 0.3
    person.find("#undo").click()
    person.wait(lambda: abs(person.picture("#key-canvas") - with_haze) < 0.2)
    person.press("Grey mask")
    grey = person.settled("#key-canvas")
    assert abs(grey - with_haze) > 3
    person.press("Contours")
    person.wait(lambda: person.all("#overlay path"))
    person.press("Original")
    person.wait(lambda: abs(person.picture("#key-canvas") - untouched) < 0.5)
    person.press("Original")
    person.wait(lambda: abs(person.picture("#key-canvas") - with_haze) < 0.5)


def add_step(person, where, what):
    before = len(person.all(".lane"))
    person.set(person.find("#add-step select[name=where]"), where)
    person.set(person.find("#add-step input[name=what]"), what)
    person.press("Add a step")
    person.wait(lambda: len(person.all(".lane")) == before + 1 and person.all(".lane[data-open]"))


def move(person, label, value):
    """Move the open lane's slider of that adjustment."""
    slider = person.find(".lane[data-open] .lane-editor [data-slider][data-path*=adjustments] input[type=range]")
    person.set(slider, value)
    person.wait(lambda: float(slider.get_attribute("value")) == pytest.approx(value), 5)


def save_twice(person):
    for version in (1, 2):
        person.press("Save the recipe")
        name = person.find("#save-dialog input[name=name]")
        name.clear()
        name.send_keys("Dogs at dusk")
        if version == 2:
            person.set(person.find("#save-dialog input[name=strength]"), 90)
        person.press("Save" if version == 1 else "Save and apply to the shoot", "#save-dialog button")
        if version == 1:
            person.reads("saved as version 1")


def apply_and_change_one_frame(person):
    person.wait(lambda: "/bench" not in person.driver.current_url)
    person.reads("Dogs at dusk")
    person.reads("version 2")
    finished = ".tile img[alt*=finished]"
    person.wait(lambda: len(person.all(finished)) == 5, 60)
    before = person.all(finished)[0].get_attribute("src")
    person.all(".tile")[0].click()
    slider = person.find("#panel input[name=strength]")
    picture = person.find("#after").get_attribute("src")
    person.set(slider, 50)
    person.wait(lambda: person.find("#after").get_attribute("src") != picture)
    person.press("Wall")
    person.reads("changed by hand", ".tile")
    assert person.all(finished)[0].get_attribute("src") != before


def hand_over(person, downloads, card):
    person.press("Hand over")
    person.press("Hand over", "form .button-main")
    person.press("Download the ZIP")
    end = time.monotonic() + 30
    while not (found := list(downloads.glob("*.zip"))):
        assert time.monotonic() < end, "nothing was downloaded"
        time.sleep(0.2)
    with zipfile.ZipFile(found[0]) as bundle:
        assert sorted(bundle.namelist()) == [
            *(f"{n}.jpg" for n in FRAMES),
            "what-was-applied.csv",
            "what-was-delivered.json",
        ]
        for name in FRAMES:
            finished = Image.open(io.BytesIO(bundle.read(f"{name}.jpg")))
            original = Image.open(card / f"{name}.jpg")
            assert finished.size == original.size and finished.getexif().get_ifd(0x8769)[0x9003]
            assert np.abs(np.asarray(finished, float) - np.asarray(original, float)).mean() > 2
        assert "0.5" in bundle.read("what-was-applied.csv").decode().splitlines()[1]
