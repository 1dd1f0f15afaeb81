"""Groups, history, and choosing by pictures at the Bench."""

from tests.browser.promised import Table, hit
from tests.browser.promised.steps import ids, more, opened

groups = Table(opened)


@groups("[data-group-steps] .button-main", ".lane-whole [x-data] > button")
def ticked_steps_become_a_group(me):
    hit(me, ".lane-whole [x-data] > button")
    for tick in me.all("[data-group-steps] [name=steps]"):
        if tick.is_selected() != (tick.get_attribute("value") in "ab"):
            tick.click()
    me.set(me.find("[data-group-steps] [name=name]"), "Both")
    yield
    me.wait(lambda: "Both" in [g.name for g in me.recipe.groups.values()])
    [own] = [k for k, g in me.recipe.groups.items() if g.name == "Both"]
    assert [s.id for s in me.recipe.steps if s.group == own] == ["a", "b"]


@groups("[data-fold-group]")
def a_group_is_folded_and_unfolded(me):
    yield "[data-fold-group=g]"
    me.wait(lambda: not me.find("#lane-b").is_displayed() and me.find("#lane-a").is_displayed())
    me.settled("#key-canvas")
    yield "[data-fold-group=g]"
    me.wait(lambda: me.find("#lane-b").is_displayed())


@groups(".group-head [aria-label^='More for']")
def what_else_can_be_done_with_a_group_is_listed(me):
    yield
    me.wait(lambda: any(e.is_displayed() for e in me.all("[data-edit*='move-group']")))


def of_group(name, more_of=""):
    return f"#group-g [data-edit*='{name}']{more_of}"


@groups("[data-edit*='move-group']")
def a_group_moves_earlier_and_later(me):
    more(me, "Pair")
    yield of_group("move-group", "[data-edit*='-1']")
    me.wait(lambda: ids(me) == "bcad")
    me.settled("#key-canvas")
    more(me, "Pair")
    yield of_group("move-group", ":not([data-edit*='-1'])")
    me.wait(lambda: ids(me) == "abcd")


@groups("[data-edit*='double-group']")
def a_group_is_there_twice(me):
    more(me, "Pair")
    yield of_group("double-group", ":not([data-edit*=opposite])")
    me.wait(lambda: len(me.recipe.groups) == 3 and len(me.recipe.steps) == 6)


@groups("[data-edit*='double-group'][data-edit*='opposite']")
def a_group_has_its_opposite(me):
    more(me, "Pair")
    yield of_group("double-group", "[data-edit*=opposite]")
    me.wait(lambda: len(me.recipe.steps) == 6)
    assert sorted(a.contrast for s in me.recipe.steps for a in s.adjustments if a.kind == "contrast") == [-25, 25]


@groups("[data-edit*='dissolve-group']")
def a_dissolved_groups_steps_stay_as_strong_as_they_were(me):
    before = me.settled("#key-canvas")
    more(me, "Pair")
    yield of_group("dissolve-group")
    me.wait(lambda: len(me.recipe.groups) == 1 and ids(me) == "abcd")
    assert me.recipe.step("b").strength == 0.8
    assert abs(me.settled("#key-canvas") - before) < 0.1


@groups("[data-edit*='remove-group']")
def a_group_goes_with_its_steps(me):
    more(me, "Pair")
    yield of_group("remove-group")
    me.wait(lambda: ids(me) == "ad")


def past(me):
    hit(me, "[data-paint=lighter]")
    me.wait(lambda: len(me.recipe.steps) == 5)
    me.settled("#key-canvas")
    hit(me, "[data-open-history]")
    me.wait(lambda: me.find("#history-dialog").is_displayed())
    me.set(me.find("#history-dialog [name=words]"), "Kept so")
    hit(me, "form[data-history=name] button")
    me.reads("Kept so", "#history-dialog strong")


@groups("[data-open-history]", "form[data-history=name] button", "[data-close-history]")
def what_was_done_is_listed_and_named(me):
    past(me)
    yield "[data-close-history]"
    me.wait(lambda: not me.find("#history-dialog").is_displayed())


@groups("[data-history=go]")
def an_earlier_state_is_gone_to(me):
    past(me)
    yield "[data-history=go]:not([aria-current])"
    me.wait(lambda: len(me.recipe.steps) == 4)


@groups("[data-history=anew]", "[data-history=come-back]")
def all_begins_from_nothing_and_a_named_state_comes_back(me):
    past(me)
    yield
    me.wait(lambda: not me.recipe.steps)
    me.settled("#key-canvas")
    yield "[data-history=come-back]"
    me.wait(lambda: len(me.recipe.steps) == 5)


@groups("[data-history=forget]")
def a_name_is_forgotten(me):
    past(me)
    names_before = len(me.all("[data-history=forget]"))
    yield
    me.wait(lambda: len(me.all("[data-history=forget]")) == names_before - 1)
    assert len(me.recipe.steps) == 5


@groups("[data-pin]")
def another_state_is_held_against_this(me):
    before = me.settled("#key-canvas")
    me.set(me.find("#lane-a .lane-row input[type=range]"), 0)
    me.wait(lambda: abs(me.settled("#key-canvas") - before) > 0.5)
    hit(me, "[data-open-history]")
    yield "#history-dialog [data-pin^=state]"
    me.wait(lambda: abs(me.settled("#key-canvas") - before) < 0.2)
    assert me.find("#pinned").is_displayed()


def choose(me, of):
    me.open(0)
    hit(me, f".lane[data-open] [data-choose={of}]")
    me.wait(lambda: me.all(f"[data-choices={of}] .choice"))


def tick(me, *which):
    for n in which:
        hit(me, me.all("[data-choice-tick]")[n])


@groups("[data-choose=blends]", "[data-choice-take]")
def a_blend_mode_is_taken_by_its_picture(me):
    me.open(0)
    yield ".lane[data-open] [data-choose=blends]"
    me.wait(lambda: me.all("[data-choices=blends] .choice"))
    yield "[data-choice='multiply'] [data-choice-take]"
    me.wait(lambda: me.recipe.step("a").blend == "multiply")


@groups("[data-choose=effects]", "[data-choices-take]")
def ticked_effects_become_steps_the_first_on(me):
    choose(me, "effects")
    tick(me, 0, 1)
    yield "[data-choices-take]"
    me.wait(lambda: len(me.recipe.steps) == 6)
    assert [s.enabled for s in me.recipe.steps if s.id not in set("abcd")] == [True, False]
    assert me.recipe.sentence(next(s for s in me.recipe.steps if s.id not in set("abcd"))) == "subject"


@groups("[data-choices-close]")
def nothing_is_chosen(me):
    before = me.recipe
    choose(me, "effects")
    yield
    me.wait(lambda: me.find("#lanes").is_displayed() and not me.all(".choice"))
    assert me.recipe == before


@groups("[data-choices-narrow]")
def what_is_not_ticked_is_dropped(me):
    choose(me, "blends")
    tick(me, 1, 3)
    yield
    me.wait(lambda: len([t for t in me.all(".choice") if t.is_displayed()]) == 2)


@groups("[data-choices-beside]")
def two_are_seen_side_by_side(me):
    choose(me, "blends")
    tick(me, 1, 3)
    yield
    me.wait(lambda: len(me.all(".choice-large figure")) == 2)


@groups("[data-choices-paint]")
def an_effect_is_painted_on(me):
    choose(me, "effects")
    tick(me, 0)
    yield
    me.wait(lambda: len(me.recipe.steps) == 5)
    made = next(s for s in me.recipe.steps if s.id not in set("abcd"))
    assert [p.kind for p in made.region.parts] == ["brush"]
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "brush")
