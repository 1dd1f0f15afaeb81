"""The gallery from its folder, without a server, and what a client chose in it, back as ratings; dust on its page."""

import json
import time

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lenskeep.store import frames
from lenskeep.studio import bring_in, dusting, removing
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.options import DeliveryOptions
from lenskeep.studio.library import Library
from tests.studio.doing import DUSTY, DUSTY_NAMES, run
from tools.made_up import ready_shoot
from tools.running.browser import Person, open_browser
from tools.running.server import Server

pytestmark = pytest.mark.browser


@pytest.fixture
def handed(tmp_path):
    library = Library(tmp_path / "home")
    shoot = ready_shoot(library, tmp_path / "card", 4)
    deliver.queue_delivery(library, shoot, DeliveryOptions(folder=str(tmp_path / "out"), gallery=True))
    run(library)
    return library, shoot, tmp_path / "out"


def test_a_client_ticks_favourites_by_keys_and_pointer_and_they_come_back(handed, tmp_path):
    library, shoot, out = handed
    (tmp_path / "saved").mkdir()
    driver = open_browser(tmp_path / "profile", tmp_path / "saved")
    try:
        client = Person(driver, "")
        driver.get((out / "gallery" / "index.html").as_uri())
        client.reads("4 pictures, 0 favourites", "header")
        client.wait(lambda: all(i.get_property("naturalWidth") > 100 for i in client.all("li img")))
        assert not client.find("#save").is_enabled()
        client.all("[data-tick]")[0].click()
        client.reads("1 favourite", "header")
        # by keys: open the third, choose it, go on, close
        driver.execute_script("document.querySelectorAll('.open')[2].focus()")
        ActionChains(driver).send_keys(Keys.ENTER).perform()
        client.wait(lambda: client.find("#large").get_attribute("open"))
        client.reads("3 of 4", "#large")
        ActionChains(driver).send_keys("f", Keys.ARROW_RIGHT).perform()
        client.reads("4 of 4", "#large")
        assert not client.find("#tick").is_selected() and not client.find("#after").is_enabled()
        ActionChains(driver).send_keys(Keys.ESCAPE).perform()
        client.reads("2 favourites", "header")
        client.find("#only").click()
        client.wait(lambda: sum(i.is_displayed() for i in client.all("li")) == 2)
        driver.refresh()
        client.reads("2 favourites", "header")
        client.find("#save").click()
        saved = tmp_path / "saved" / "favourites.json"
        client.wait(saved.is_file)
        time.sleep(0.3)
        assert len(json.loads(saved.read_text())["files"]) == 2
        assert not [e for e in driver.get_log("browser") if e["level"] == "SEVERE"]
        with Server(library.home) as server:
            photographer = Person(driver, server.address)
            driver.get(f"{server.address}/shoots/{shoot}/hand-over")
            photographer.find("input[name=file]").send_keys(str(saved))
            photographer.press("Take it in")
            photographer.reads("2 frames are rated 5 now")
        assert [f.rating for f in frames.frames(library.db, shoot)] == [5, 0, 5, 0]
    finally:
        driver.quit()


def test_dust_is_looked_for_confirmed_healed_and_taken_back_on_its_page(desk):
    person = Person(desk.driver, desk.address)
    shoot = bring_in.create_shoot(desk.library, "Dusty")
    for name in DUSTY_NAMES:
        bring_in.receive(desk.library, shoot, DUSTY / f"{name}.jpg", f"{name}.jpg")
    person.wait(lambda: all(f.found for f in frames.frames(desk.library.db, shoot)), 120)
    desk.driver.get(f"{desk.address}/shoots/{shoot}/dust")
    person.press("Look for dust")
    person.reads("5 specks of dust", seconds=60)
    assert len(person.all(".dust-map circle")) == 5
    person.wait(lambda: all(i.get_property("naturalWidth") > 20 for i in person.all(".dust-crop")))
    person.all("[name=ids]")[4].click()
    person.press("Confirm ticked")
    person.wait(lambda: sum(d.state == "confirmed" for d in dusting.of_shoot(desk.library, shoot)) == 4)
    person.reads("Heal 4 confirmed specks")
    time.sleep(0.5)
    person.press("Heal 4 confirmed specks")
    person.reads("healing", "#dust", 60)
    assert sum(bool(f.override.clean.done) for f in frames.frames(desk.library.db, shoot)) >= 3
    person.press("Undo", "#dust button")
    person.wait(lambda: not any(f.override.clean.done for f in frames.frames(desk.library.db, shoot)))
    desk.driver.get(desk.address)
    removing.remove_shoot(desk.library, shoot)
