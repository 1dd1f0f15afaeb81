"""What is pressed on the first page, in the check, the book, the line-up, evening out, dust, activity and at handing
over; and what each button promises.
"""

import io
import urllib.request
import zipfile

import pytest

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import checks, deliveries, dust, evenness, frames, jobs, looks, recipes, shoots
from lenskeep.store.evenness import Need
from lenskeep.studio import dusting, many
from lenskeep.studio import looks as giving
from lenskeep.studio.cameras import learn_cameras
from tests.browser.hands import running_desk
from tests.browser.promises import BAR, AtShoot, Table, hit, is_pressed, walk
from tools.made_up import look_recipe, write_photo

pytestmark = pytest.mark.browser
BURN = {
    "id": "burn",
    "name": "Burn",
    "region": {"parts": [{"kind": "sky"}]},
    "adjustments": [{"kind": "exposure", "ev": 3.5}],
}
check, book, line_up, even, specks, handing, home, activity = tables = [Table() for _ in range(8)]


@pytest.fixture(scope="module")
def desk(tmp_path_factory):
    """One whose server may read the folder that made-up cards lie in."""
    folder = tmp_path_factory.mktemp("elsewhere")
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("LENSKEEP_FOLDERS", str(folder))
        with running_desk(folder) as own:
            yield own


@pytest.fixture
def me(desk):
    person = AtShoot(desk, 3)
    person.desk = desk
    yield person
    person.driver.get(f"{person.address}/activity")
    person.ends()


# --- the check


def checking(me):
    version = recipes.save_recipe(me.library.db, Recipe.model_validate({"name": "Burnt", "steps": [BURN]}))
    giving.give_look(me.library, me.shoot, version.id, 1.0)
    me.go("/")
    me.wait(lambda: all(f.finished for f in me.rows), 60)
    me.go(f"/shoots/{me.shoot}/check")
    me.wait(lambda: me.find("#check").get_attribute("data-begun") is not None)


def seen(me):
    return me.find("[data-name]").text


def of_seen(me):
    row = next(f for f in me.rows if f.file_name == seen(me))
    return frames.frame(me.library.db, row.id)


@check("[data-key=accept]")
def a_frame_is_good_as_it_is(me):
    checking(me)
    first = of_seen(me)
    yield
    me.wait(lambda: seen(me) != first.file_name)
    me.wait(lambda: checks.told(me.library.db, first.id)[1] == "accepted")


@check("[data-key=where]")
def where_it_is_is_shown_on_the_picture(me):
    checking(me)
    yield
    me.wait(lambda: me.find("[data-which]").is_displayed())


@check("[data-key=step]")
def the_next_step_to_blame_is_named(me):
    two = [BURN, {**BURN, "id": "more", "name": "More", "region": {"parts": [{"kind": "subject"}]}}]
    checking(me)
    version = recipes.save_recipe(me.library.db, Recipe.model_validate({"name": "Burnt twice", "steps": two}))
    giving.give_look(me.library, me.shoot, version.id, 1.0)
    me.wait(lambda: all(f.finished for f in me.rows), 60)
    me.driver.refresh()
    me.wait(lambda: me.find("#check").get_attribute("data-begun") is not None)
    first = me.find("[data-step]").text
    yield
    me.wait(lambda: me.find("[data-step]").text != first)


@check("[data-key=repair]")
def the_mask_is_mended(me):
    checking(me)
    yield
    me.wait(lambda: "repair" in me.driver.current_url)
    me.wait(lambda: me.find("#repair-bar").is_displayed())


@check("[data-key=weaken]", "[data-key=undo]")
def the_step_is_weaker_until_it_is_undone(me):
    checking(me)
    yield
    me.wait(lambda: (of_seen(me).override.of_step("", "burn").strength or 1) < 1)
    yield "[data-key=undo]"
    me.wait(lambda: of_seen(me).override.of_step("", "burn").strength is None)


@check("[data-key='leave out']")
def the_step_is_left_out_here(me):
    checking(me)
    yield
    me.wait(lambda: of_seen(me).override.of_step("", "burn").enabled is False)


@check("[data-key=region]", "[data-region]")
def the_step_works_in_another_place(me):
    checking(me)
    yield
    yield "[data-region=background]"
    me.wait(lambda: of_seen(me).override.of_step("", "burn").region is not None)
    assert of_seen(me).override.of_step("", "burn").region.parts[0].kind == "background"


@check("[data-key=base]")
def the_base_is_changed(me):
    checking(me)
    yield
    me.wait(lambda: me.find("[data-value=ev]").is_displayed())


@check("[data-key=skip]", "[data-key=back]")
def a_frame_waits_and_is_gone_back_to(me):
    checking(me)
    first = of_seen(me)
    yield
    me.wait(lambda: seen(me) != first.file_name)
    yield "[data-key=back]"
    me.wait(lambda: seen(me) == first.file_name)
    assert checks.told(me.library.db, first.id)[1] in ("", None)


@check("main a.button[href^='/shoots/']")
def the_check_is_left_for_the_wall(me):
    checking(me)
    yield
    me.wait(lambda: me.driver.current_url.endswith(f"/shoots/{me.shoot}"))


# --- the book


def in_book(me, name="Mine"):
    me.version = recipes.save_recipe(me.library.db, look_recipe(name=f"{name} {me.shoot}"))
    me.go("/recipes")
    return f"#recipe-{me.version.recipe_id}"


def fetched(me, address):
    return me.driver.execute_async_script(
        "fetch(arguments[0]).then((a) => a.text().then((t) => arguments[1]([a.status, t])))", address
    )


@book(".book-entry [x-data] > button")
def what_can_be_changed_is_listed(me):
    own = in_book(me)
    yield f"{own} [x-data] > button"
    me.wait(lambda: me.find(f"{own} [name=name]").is_displayed())


@book("form[action$='/rename'] button")
def a_recipe_is_renamed(me):
    own = in_book(me)
    hit(me, f"{own} [x-data] > button")
    me.set(me.find(f"{own} form[action$='/rename'] [name=name]"), f"Ours {me.shoot}")
    yield f"{own} form[action$='/rename'] button"
    me.wait(lambda: recipes.versions(me.library.db, me.version.recipe_id)[0].name == f"Ours {me.shoot}")


@book("form[action$='/file'] button")
def set_tags_and_note_are_kept(me):
    own = in_book(me)
    hit(me, f"{own} [x-data] > button")
    for name, value in (("shelf", "Evenings"), ("tags", "warm late"), ("note", "For the last hour.")):
        me.set(me.find(f"{own} form[action$='/file'] [name={name}]"), value)
    yield f"{own} form[action$='/file'] button"
    newest = lambda: recipes.versions(me.library.db, me.version.recipe_id)[0]  # noqa: E731
    me.wait(lambda: newest().shelf == "Evenings")
    assert newest().tags == "warm late" and newest().recipe.note == "For the last hour."


@book("form[action$='/copy'] button")
def a_copy_is_made(me):
    own = in_book(me)
    hit(me, f"{own} [x-data] > button")
    me.set(me.find(f"{own} form[action$='/copy'] [name=name]"), f"Twin {me.shoot}")
    yield f"{own} form[action$='/copy'] button"
    twin = lambda: [v for v in recipes.newest_versions(me.library.db) if v.name == f"Twin {me.shoot}"]  # noqa: E731
    me.wait(twin)
    assert twin()[0].recipe.steps == me.version.recipe.steps


@book("form[action$='/delete'] button")
def a_recipe_is_deleted_with_its_versions(me):
    own = in_book(me)
    hit(me, f"{own} [x-data] > button")
    yield f"{own} form[action$='/delete'] button"
    me.wait(lambda: not recipes.versions(me.library.db, me.version.recipe_id))


@book("a.button[href$='.json']")
def a_recipe_leaves_as_a_file(me):
    own = in_book(me)
    status, text = fetched(me, me.find(f"{own} a.button[href$='.json']").get_attribute("href"))
    assert status == 200 and f"Mine {me.shoot}" in text
    yield f"{own} a.button[href$='.json']"


@book("a.button[href$='.cube']")
def a_recipe_leaves_as_a_table(me):
    plain = [{"id": "a", "name": "All", "adjustments": [{"kind": "exposure", "ev": 0.4}]}]
    me.version = recipes.save_recipe(me.library.db, Recipe.model_validate({"name": f"Even {me.shoot}", "steps": plain}))
    me.go("/recipes")
    own = f"#recipe-{me.version.recipe_id}"
    status, text = fetched(me, me.find(f"{own} a.button[href$='.cube']").get_attribute("href"))
    assert status == 200 and "LUT_3D_SIZE" in text
    yield f"{own} a.button[href$='.cube']"


@book("form[action$='/again'] button", ".book-entry summary")
def an_earlier_version_is_given_again(me):
    first = recipes.save_recipe(me.library.db, look_recipe(name=f"Twice {me.shoot}", ev=0.3))
    me.version = recipes.save_recipe(me.library.db, look_recipe(name=f"Twice {me.shoot}", ev=0.9))
    me.go("/recipes")
    own = f"#recipe-{me.version.recipe_id}"
    yield me.all(f"{own} summary")[-1]
    yield f"{own} form[action$='/again'] button"
    me.wait(lambda: len(recipes.versions(me.library.db, first.recipe_id)) == 3)
    assert recipes.versions(me.library.db, first.recipe_id)[0].recipe.steps == first.recipe.steps


@book("form[action*='/move-on/'] button")
def a_scene_moves_on_to_the_newer_version(me):
    first = recipes.save_recipe(me.library.db, look_recipe(name=f"On {me.shoot}", ev=0.3))
    giving.give_look(me.library, me.shoot, first.id, 1.0)
    newer = recipes.save_recipe(me.library.db, look_recipe(name=f"On {me.shoot}", ev=0.9))
    me.go("/recipes")
    yield f"#recipe-{first.recipe_id} form[action*='/move-on/'] button"
    me.wait(lambda: looks.look(me.library.db, me.scenes[0].id).version.id == newer.id)


@book("form[action='/recipes/starters'] button")
def a_ready_recipe_is_in_the_book(me):
    me.go("/recipes")
    known = {v.id for v in recipes.newest_versions(me.library.db)}
    yield
    me.wait(lambda: any(v.id not in known for v in recipes.newest_versions(me.library.db)))


@book("#book-tools [x-data] > button", "form[action='/recipes/sets.json'] button")
def a_set_leaves_as_one_file(me):
    own = in_book(me)
    hit(me, f"{own} [x-data] > button")
    me.set(me.find(f"{own} [name=shelf]"), "Leaving")
    hit(me, f"{own} form[action$='/file'] button")
    me.reads("Leaving", ".chip")
    yield "#book-tools [x-data] > button"
    me.wait(lambda: me.find("form[action='/recipes/sets.json'] button").is_displayed())
    status, text = fetched(me, "/recipes/sets.json?name=Leaving")
    assert status == 200 and f"Mine {me.shoot}" in text


# --- the line-up


def lined_up(me):
    me.first = recipes.save_recipe(me.library.db, look_recipe(name=f"Lined {me.shoot}", ev=0.3))
    me.second = recipes.save_recipe(me.library.db, look_recipe(name=f"Lined {me.shoot}", ev=0.9))
    me.go(f"/scenes/{me.scenes[0].id}/line-up")
    me.wait(lambda: len(me.all("[data-tick]")) >= 3 and me.all(".line-up-cell img"))
    me.set(me.find("[data-add]"), str(me.second.id))
    me.wait(lambda: f"Lined {me.shoot}" in columns(me))
    me.ends()


def columns(me):
    return [c.text for c in me.all(".line-up thead [data-name]")]


def tick(me, *which):
    for n in which:
        hit(me, me.all("thead [data-tick]")[n])


def own_column(me):
    return columns(me).index(f"Lined {me.shoot}")


@line_up("[data-strengths]")
def one_is_seen_at_its_strengths(me):
    lined_up(me)
    tick(me, own_column(me))
    yield
    me.wait(lambda: {"50", "75", "125", "150"} <= {s.get_attribute("value") for s in me.all("thead [data-strength]")})


@line_up("[data-versions]")
def one_is_seen_in_its_versions(me):
    lined_up(me)
    tick(me, own_column(me))
    yield
    me.wait(lambda: sum(f"Lined {me.shoot}" in name for name in columns(me)) == 2)


@line_up("[data-mix]")
def two_are_mixed(me):
    lined_up(me)
    before = len(columns(me))
    tick(me, 1, own_column(me))
    yield
    me.wait(lambda: len(columns(me)) == before + 1)


@line_up("[data-only]")
def what_is_not_ticked_is_dropped(me):
    lined_up(me)
    tick(me, 1, own_column(me))
    yield
    me.wait(lambda: len(columns(me)) == 2)


@line_up("[data-drop]")
def one_is_dropped(me):
    lined_up(me)
    before = columns(me)
    yield
    me.wait(lambda: len(columns(me)) == len(before) - 1)


@line_up("[data-give]")
def the_scene_has_the_one_that_is_ticked(me):
    lined_up(me)
    tick(me, own_column(me))
    yield
    me.wait(lambda: looks.look(me.library.db, me.scenes[0].id).version.id == me.second.id)


@line_up(".line-up-cell", "[data-large-true]", "[data-large-close]")
def a_cell_is_seen_large_and_in_its_files_pixels(me):
    lined_up(me)
    yield
    me.wait(lambda: me.find("#line-up-large img").is_displayed())
    yield "[data-large-true]"
    me.wait(lambda: is_pressed(me, "[data-large-true]"))
    yield "[data-large-close]"
    me.wait(lambda: not me.find("#line-up-large").is_displayed())


@line_up("main a.button[href*='#scene-']")
def the_line_up_is_left_for_the_wall(me):
    lined_up(me)
    yield
    me.wait(lambda: f"/shoots/{me.shoot}" in me.driver.current_url)


# --- evening out


def uneven(me, page="even"):
    ids = [f.id for f in me.rows]
    needs = [
        Need(ids[0], 0.0, 0.0, 0.0, True),
        Need(ids[1], 0.8, -12.0, 0.0, True),
        Need(ids[2], -0.6, 0.0, 0.0, False),
    ]
    evenness.keep(me.library.db, me.scenes[0].id, ids[0], needs)
    me.go(f"/scenes/{me.scenes[0].id}/even" if page == "even" else f"/shoots/{me.shoot}")


def ticked(me):
    return [t.is_selected() for t in me.all(".even-tick input")]


@even("#accept-even", "form[action$='/even/undo'] button")
def what_is_ticked_is_evened_out_and_undone(me):
    uneven(me)
    yield
    me.wait(lambda: [round(f.own_base.ev, 2) for f in me.rows] == [0, 0.8, 0])
    yield "form[action$='/even/undo'] button"
    me.wait(lambda: not any(f.own_base.ev for f in me.rows))


@even("[data-tick=none]", "[data-tick=sure]")
def none_and_what_is_sure_is_ticked(me):
    uneven(me)
    yield
    me.wait(lambda: ticked(me) == [False, False])
    yield "[data-tick=sure]"
    me.wait(lambda: sorted(ticked(me)) == [False, True])


@even(".evenness a.button")
def evening_out_is_gone_to(me):
    uneven(me, "wall")
    yield
    me.wait(lambda: me.driver.current_url.endswith("/even"))


@even("[hx-post$='/measure']")
def a_scene_is_measured(me):
    uneven(me, "wall")
    before = len(jobs.jobs(me.library.db, me.shoot))
    yield
    me.wait(lambda: len(jobs.jobs(me.library.db, me.shoot)) > before)


@even("main a.button[href*='#scene-']")
def evening_out_is_left_for_the_wall(me):
    uneven(me)
    yield
    me.wait(lambda: f"/shoots/{me.shoot}" in me.driver.current_url)


# --- dust


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


# --- handing over


def at_the_door(me):
    me.go("/")
    me.wait(lambda: all(f.finished for f in me.rows), 60)
    me.go(f"/shoots/{me.shoot}/hand-over")


def downloaded(me):
    link = me.find("a[download]").get_attribute("href")
    cookie = "; ".join(f"{c['name']}={c['value']}" for c in me.driver.get_cookies())
    with urllib.request.urlopen(urllib.request.Request(link, headers={"cookie": cookie})) as answer:
        return zipfile.ZipFile(io.BytesIO(answer.read()))


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


# --- the first page, activity


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


# --- walked


@pytest.mark.parametrize(("css", "promise"), [p for t in tables for p in t.parameters()["argvalues"]],
                         ids=[i for t in tables for i in t.parameters()["ids"]])  # fmt: skip
def test_what_is_pressed_is_done(me, css, promise):
    walk(me, css, promise)


def test_no_button_elsewhere_is_without_a_promise(me):
    checking(me)
    pages = {
        f"/shoots/{me.shoot}/check": (check, ("[data-strip] *",)),
        "/recipes": (book, ()),
        f"/scenes/{me.scenes[0].id}/line-up": (line_up, ()),
        f"/scenes/{me.scenes[0].id}/even": (even, ()),
        f"/shoots/{me.shoot}/dust": (specks, ()),
        f"/shoots/{me.shoot}/hand-over": (handing, ()),
        "/": (home, ()),
        "/activity": (activity, ()),
    }
    uneven(me)
    dusty(me)
    for address, (table, more) in pages.items():
        me.go(address)
        me.ends()
        assert not (left := table.unpromised(me, (*BAR, *more))), f"{address}: {left}"
