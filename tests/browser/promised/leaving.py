"""Dust, handing over, the first page, activity."""

import io
import zipfile

from lenskeep.store import deliveries, dust, frames, jobs, shoots
from lenskeep.studio import dusting, many
from lenskeep.studio.cameras import learn_cameras
from tests.browser.promised import Table, hit
from tests.browser.promised.check import opened
from tools.made_up import write_photo

specks, handing, home, activity = Table(opened), Table(opened), Table(opened), Table(opened)


def dusty(me):
    learn_cameras(me.library, me.shoot)
    camera = dust.cameras(me.library.db, me.shoot)[0]
    for known in dusting.of_shoot(me.library, me.shoot):  # made-up frames are all of one camera
        dust.set_state(me.library.db, [known.id], "dropped")
    dust.add(me.library.db, camera, me.shoot, 0.3, 0.4, 0.004)
    me.go(f"/shoots/{me.shoot}/dust")


@specks("[hx-post$='/dust/search']")
def dust_is_looked_for(me):
    dusty(me)
    before = len(jobs.jobs(me.library.db, me.shoot))
    yield
    me.wait(lambda: len(jobs.jobs(me.library.db, me.shoot)) > before)


@specks("[hx-post$='/dust/drop']")
def ticked_specks_are_dropped(me):
    dusty(me)
    for box in me.all("[name=ids]"):
        if not box.is_selected():
            box.click()
    yield
    me.wait(lambda: not dusting.of_shoot(me.library, me.shoot))


@specks("[hx-post$='/dust/confirm']", "[hx-post$='/dust/heal']", "[hx-post$='/dust/undo']")
def ticked_specks_are_confirmed_and_healed(me):
    dusty(me)
    for box in me.all("[name=ids]"):
        if not box.is_selected():
            box.click()
    yield
    me.wait(lambda: [d.state for d in dusting.of_shoot(me.library, me.shoot)] == ["confirmed"])
    me.wait(lambda: me.find("[hx-post$='/dust/heal']").is_enabled())
    before = len(jobs.jobs(me.library.db, me.shoot))
    yield "[hx-post$='/dust/heal']"  # what it heals, and its undo, are seen on photographs with dust: test_gallery
    me.wait(lambda: len(jobs.jobs(me.library.db, me.shoot)) > before)


@specks("main a.button[href^='/shoots/']")
def dust_is_left_for_the_wall(me):
    dusty(me)
    yield
    me.wait(lambda: me.driver.current_url.endswith(f"/shoots/{me.shoot}"))


def at_the_door(me):
    me.go("/")
    me.wait(lambda: all(f.finished for f in me.rows), 60)
    me.go(f"/shoots/{me.shoot}/hand-over")


def downloaded(me):
    link = me.find("a[download]").get_attribute("href")
    return zipfile.ZipFile(io.BytesIO(me.fetched(link)))


@handing("form[action$='/hand-over'] > button.button-main", "a[download]")
def all_frames_leave_as_a_zip(me):
    at_the_door(me)
    known = {j.id for j in jobs.jobs(me.library.db, me.shoot)}
    yield
    me.wait(lambda: me.all("a[download]"), 60)
    [job] = [j for j in jobs.jobs(me.library.db, me.shoot) if j.id not in known and j.kind != "sweep"]
    assert len(deliveries.delivered(me.library.db, job.id)) == 3
    assert len([n for n in downloaded(me).namelist() if n.endswith(".jpg")]) == 3


@handing("[data-field]")
def a_field_goes_into_the_pattern_of_names(me):
    at_the_door(me)
    names = me.find("[name=names]")
    before = names.get_attribute("value")
    yield me.all("[data-field]")[-1]
    me.wait(lambda: me.find("[name=names]").get_attribute("value") not in (before, ""))
    assert me.all("[data-field]")[-1].text in me.find("[name=names]").get_attribute("value")


@handing("summary")
def what_is_folded_is_unfolded(me):
    at_the_door(me)
    yield
    me.wait(lambda: me.find("details[open]"))


@handing("main a.button[href$='/check']")
def doubtful_ones_are_checked_first(me):
    at_the_door(me)
    yield
    me.wait(lambda: me.driver.current_url.endswith("/check"))


@handing("main a.button[href^='/shoots/']:not([href$='/check'])")
def handing_over_is_left_for_the_wall(me):
    at_the_door(me)
    yield
    me.wait(lambda: me.driver.current_url.endswith(f"/shoots/{me.shoot}"))


@handing("form[action$='/lists'] button")
def a_list_is_taken_in(me):
    at_the_door(me)
    hit(me, "form[action$='/hand-over'] > button.button-main")
    me.wait(lambda: me.all("a[download]"), 60)
    bundle = downloaded(me)
    [name] = [n for n in bundle.namelist() if n.endswith(".json")]
    path = me.desk.folder / f"list-{me.shoot}.json"
    path.write_bytes(bundle.read(name))
    me.find("form[action$='/lists'] [name=file]").send_keys(str(path))
    yield
    me.reads("frames")
    me.wait(lambda: me.driver.current_url != f"{me.address}/shoots/{me.shoot}/hand-over" or me.all(".note"))


@home("#folder-form button")
def a_folder_is_brought_in(me):
    folder = me.desk.folder / f"card-of-{me.shoot}"
    for n in range(2):
        write_photo(folder / f"{n}.jpg", 900 + 7 * me.shoot + n, height=200, width=300)
    known = {s.id for s in shoots.shoots(me.library.db)}
    me.go("/")
    me.set(me.find("#folder-path"), str(folder))
    yield
    made = lambda: [s.id for s in shoots.shoots(me.library.db) if s.id not in known]  # noqa: E731
    me.wait(made)
    me.wait(lambda: len(frames.summaries(me.library.db, made()[0])) == 2, 60)


@home("#upload-open", "#upload-stop", "label.button")
def a_shoot_that_came_in_is_opened(me):
    path = write_photo(me.desk.folder / f"one-{me.shoot}.jpg", 500 + me.shoot, height=200, width=300)
    me.go("/")
    broken = me.desk.folder / f"broken-{me.shoot}.jpg"
    broken.write_bytes(b"no photograph")
    me.find("#files").send_keys(f"{path}\n{broken}")
    me.reads("broken", "#upload-refused")  # else it opens by itself
    yield
    me.wait(lambda: "/shoots/" in me.driver.current_url)


@activity("[hx-post$='/cancel']", "[hx-post$='/resume']", "#activity summary")
def a_job_is_paused_and_goes_on(me):
    many.do(me.library, me.shoot, [f.id for f in me.rows], many.SetBase(what="base", values={"ev": 0.3}))
    ids = [f.id for f in me.rows]
    with me.library.db.writing():
        job = jobs.add_job(me.library.db, "apply", me.shoot, ids, {})
        me.library.db.reader.execute("UPDATE jobs SET state = 'cancelled' WHERE id = ?", (job,))
    me.go("/activity")
    yield f"[hx-post='/jobs/{job}/resume']"
    me.wait(lambda: jobs.job(me.library.db, job).state == "done", 60)
