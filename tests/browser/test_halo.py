"""The whole way of one fault: a halo is seen at 100 %, painted away there, and gone from the file that leaves."""

import cv2
import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.plan import Plan
from lenskeep.core.render import Cut
from lenskeep.store import frames, jobs
from lenskeep.studio.bench.ready_frames import ReadyFrames
from lenskeep.studio.close.view import CloseView
from lenskeep.studio.hand_over import deliver
from tests.browser.close import rests, seen

H, W = 1400, 2100
SET = "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('change', {bubbles: true}))"
RIM = (1050 + 308 + 24, 840)
"""Just outside of the made-up subject, a disc of 308 pixels about (1050, 840)."""
EV = -1.5
STEPS = [
    {
        "id": "dark",
        "name": "Quieter ground",
        "region": {"parts": [{"kind": "background"}], "feather": 0.03},
        "adjustments": [{"kind": "exposure", "ev": EV}],
    }
]


def darkened(finished, untouched, at):
    """How much of the step is there, 0…1, about a point."""
    x, y = at
    around = np.s_[y - 5 : y + 6, x - 5 : x + 6]
    ratio = DECODE8[finished[around]].mean() / DECODE8[untouched[around]].mean()
    return float(np.log2(ratio) / EV)


@pytest.mark.browser
def test_a_halo_found_closely_is_painted_away_and_gone_from_the_file(desk):
    with desk.bench(STEPS, H, W) as person:
        frame = frames.frames(desk.library.db, person.shoot)[0]
        untouched = CloseView(desk.library, ReadyFrames()).cut(frame.id, Plan(()), Cut(0, 0, W, H), "original")

        def there():
            cut, pixels = seen(person)
            whole = np.zeros_like(untouched)
            whole[cut.y : cut.y + cut.height, cut.x : cut.x + cut.width] = pixels
            return darkened(whole, untouched, RIM)

        person.find("[data-close='1']").click()
        person.find("body").send_keys("f")
        rests(person)
        person.wait(lambda: seen(person)[0].x < RIM[0] - 300)
        assert there() < 0.75, "a rim that is brighter than the ground around it"
        person.press("Paint darker")
        person.wait(lambda: person.find("#overlay").get_attribute("data-tool") == "brush")
        for name, value in (("size", 3), ("hardness", 50), ("flow", 100), ("opacity", 70)):
            field = person.find(f".lane[data-open] [data-brush-number='{name}']")
            person.driver.execute_script(SET, field, value)
        cut, _ = seen(person)
        r = person.find("#key-frame").rect
        across, down = RIM[0] - cut.x - r["width"] / 2, RIM[1] - 60 - cut.y - r["height"] / 2
        chain = ActionChains(person.driver, duration=80)
        chain.move_to_element_with_offset(person.find("#key-frame"), round(across), round(down))
        chain.click_and_hold().move_by_offset(0, 60).move_by_offset(0, 60).release().perform()
        person.wait(lambda: there() > 0.8)
        apply_and_hand_over(person)
        assert darkened(delivered(desk, frame.file_name), untouched, RIM) > 0.8
        inside = (1050, 840)
        assert darkened(delivered(desk, frame.file_name), untouched, inside) < 0.1, "the subject is as it was"


def apply_and_hand_over(person):
    person.press("Save the recipe")
    name = person.find("#save-dialog input[name=name]")
    name.clear()
    name.send_keys("Quiet")
    person.press("Save and apply to the shoot", "#save-dialog button")
    person.wait(lambda: "/bench" not in person.driver.current_url)
    person.wait(lambda: len(person.all(".tile img[alt*=finished]")) == 4, 60)
    person.press("Hand over")
    person.press("Hand over", "form .button-main")
    person.wait(lambda: person.driver.find_elements(By.LINK_TEXT, "Download the ZIP"), 60)


def delivered(desk, name):
    """The pixels of one file of the newest hand-over."""
    job = max((j for j in jobs.jobs(desk.library.db) if j.kind == deliver.KIND), key=lambda j: j.id)
    [path] = [f.path for f in deliver.packed(desk.library, job) if f.name == name]
    return cv2.cvtColor(cv2.imread(str(path)), cv2.COLOR_BGR2RGB)
