"""Home, wall, check and activity in a browser, with things that go wrong."""

import zipfile

import pytest

from lenskeep.store import frames, recipes
from lenskeep.studio import looks
from lenskeep.studio.library import Library
from tools.made_up import look_recipe, ready_shoot, write_photo
from tools.running.browser import Person
from tools.running.server import Server


@pytest.mark.browser
def test_a_zip_by_drop_names_the_shoot_and_what_is_no_photograph_is_told(chromium, tmp_path):
    with zipfile.ZipFile(tmp_path / "Lena and Tom.zip", "w") as bundle:
        bundle.write(write_photo(tmp_path / "a.jpg"), "day/a.jpg")
        bundle.writestr("day/notes.txt", "words")
    with Server(tmp_path / "home") as server:
        person = Person(chromium, server.address)
        chromium.get(server.address)
        person.reads("There are no shoots yet")
        person.find("#files").send_keys(str(tmp_path / "Lena and Tom.zip"))
        person.reads("notes.txt", "#upload-refused")
        person.press("Open the shoot")
        person.reads("Lena and Tom", "h1")
        person.reads("1 file did not come in")
        person.press("I have seen this")
        person.wait(lambda: "did not come in" not in person.find("body").text)
        person.press("Activity")
        person.reads("Masks found on 1 of 1 frames", seconds=60)
        assert person.complaints() == []


@pytest.mark.browser
def test_checking_the_doubtful_frames_one_after_the_other(chromium, tmp_path):
    library = Library(tmp_path / "home")
    shoot = ready_shoot(library, tmp_path / "card", 6)
    version = recipes.save_recipe(library.db, look_recipe())
    with Server(library.home) as server:
        looks.give_look(library, shoot, version.id, 1.0)
        person = Person(chromium, server.address)
        chromium.get(f"{server.address}/shoots/{shoot}?show=doubtful")
        person.wait(lambda: len(person.all(".tile")) == 2)
        person.wait(lambda: len(person.all(".tile img[alt*=finished]")) == 2)
        person.all(".tile")[0].click()
        person.reads("Subject and sky overlap", "#panel")
        person.press("These masks are good enough")
        person.reads("Accepted by hand", "#panel")
        person.press("Later")
        person.reads("IMG_005")
        sky = next(e for e in person.all("#panel li.sheet") if "Sky" in e.text)
        sky.find_element("css selector", "input[type=checkbox]").click()
        person.reads("own", "#panel li.sheet")
        rows = frames.frames(library.db, shoot)
        assert rows[2].accepted and rows[5].override.steps["sky"].enabled is False
        chromium.get(f"{server.address}/shoots/{shoot}?show=changed")
        person.wait(lambda: [t.text.split()[0] for t in person.all(".tile-line")] == ["IMG_005.jpg"])
        assert person.complaints() == []


@pytest.mark.browser
def test_the_dim_room_stays_over_pages_and_its_text_can_be_read(chromium, tmp_path):
    with Server(tmp_path / "home") as server:
        person = Person(chromium, server.address)
        chromium.get(server.address)
        person.press("Dim room")
        for address in ("/", "/recipes", "/activity"):
            chromium.get(server.address + address)
            person.wait(lambda: chromium.execute_script("return document.documentElement.dataset.room") == "dim")
            colours = chromium.execute_script(
                "const s = getComputedStyle(document.documentElement); return [s.color, s.backgroundColor];"
            )
            assert contrast(*colours) > 7


def contrast(front, back):
    """The contrast ratio of WCAG 2.2."""

    def luminance(colour):
        digits = colour[colour.index("(") + 1 : -1].split(",")[:3]
        linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in (float(d) / 255 for d in digits)]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    high, low = sorted((luminance(front), luminance(back)), reverse=True)
    return (high + 0.05) / (low + 0.05)
