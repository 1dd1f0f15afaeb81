"""Repairing masks and cleaning up on a frame's page."""

from tests.browser.promised import Table, hit
from tests.browser.promised.frame import at, opened, stroke

mending = Table(opened)


def repairing(me):
    hit(me, "#repair")
    me.wait(lambda: me.find("#repair-bar").is_displayed())


def repairs(me):
    return me.whole(1).override.repairs.done


@mending("#repair")
def masks_can_be_repaired(me):
    yield
    me.wait(lambda: me.find("#repair-bar").is_displayed())
    yield
    me.wait(lambda: not me.find("#repair-bar").is_displayed())


@mending("[data-repair-tool=brush]", "[data-repair-way=away]", "[data-repair-way=add]")
def a_brush_adds_and_takes_away(me):
    repairing(me)
    yield
    stroke(me, "[data-repair-overlay]")
    me.wait(lambda: [r.away for r in repairs(me)] == [False])
    yield "[data-repair-way=away]"
    stroke(me, "[data-repair-overlay]")
    me.wait(lambda: [r.away for r in repairs(me)] == [False, True])
    yield "[data-repair-way=add]"
    stroke(me, "[data-repair-overlay]")
    me.wait(lambda: [r.away for r in repairs(me)] == [False, True, False])


@mending("[data-repair-tool=click]")
def what_is_under_the_pointer_is_taken(me):
    repairing(me)
    yield
    at(me, "[data-repair-overlay]", 0.5, 0.15).click().perform()
    me.wait(lambda: [r.kind in ("clicked", "gap") for r in repairs(me)] == [True], 90)


@mending("[data-repair-tool=outline]")
def a_line_is_clicked_around_it(me):
    repairing(me)
    yield
    for x, y in ((0.1, 0.6), (0.3, 0.6), (0.2, 0.9)):
        at(me, "[data-repair-overlay]", x, y).click().perform()
    me.find("body").send_keys("\ue007")
    me.wait(lambda: [r.kind in ("outlined", "traced") for r in repairs(me)] == [True])


@mending("[data-repair=none]", "[data-repair=as-found]")
def the_mask_is_empty_and_as_it_was_found(me):
    repairing(me)
    yield
    me.wait(lambda: me.whole(1).facts.subject.area == 0)
    yield "[data-repair=as-found]"
    me.wait(lambda: me.whole(1).facts.subject.area > 0)


@mending("[data-repair=undo]", "[data-repair=redo]")
def a_repair_is_undone_and_done_again(me):
    repairing(me)
    stroke(me, "[data-repair-overlay]")
    me.wait(lambda: len(repairs(me)) == 1)
    yield
    me.wait(lambda: not repairs(me))
    yield "[data-repair=redo]"
    me.wait(lambda: len(repairs(me)) == 1)


@mending("[data-repair=carry]", "[data-offer] button", "[data-close-dialog]")
def a_repair_is_offered_to_the_burst_and_taken_over(me):
    repairing(me)
    stroke(me, "[data-repair-overlay]")
    me.wait(lambda: len(repairs(me)) == 1)
    yield
    yield "[data-offer] button"
    me.wait(lambda: sum(bool(me.whole(n).override.repairs.done) for n in (0, 2)) == 1)
    yield "dialog [data-close-dialog]"
    me.wait(lambda: not any(d.is_displayed() for d in me.all("dialog")))


def cleaning(me):
    hit(me, "#clean")
    me.wait(lambda: me.find("#clean-bar").is_displayed())


def marks(me):
    return [m.kind for m in me.whole(1).override.clean.done]


@mending("#clean")
def the_picture_can_be_cleaned_up(me):
    yield
    me.wait(lambda: me.find("#clean-bar").is_displayed())
    yield
    me.wait(lambda: not me.find("#clean-bar").is_displayed())


@mending("[data-clean-tool=heal]", "[data-clean=undo]", "[data-clean=redo]")
def a_stroke_heals_is_undone_and_done_again(me):
    cleaning(me)
    yield
    stroke(me, "[data-clean-overlay]")
    me.wait(lambda: marks(me) == ["heal"])
    yield "[data-clean=undo]"
    me.wait(lambda: not marks(me))
    yield "[data-clean=redo]"
    me.wait(lambda: marks(me) == ["heal"])


@mending("[data-clean-tool=colour]")
def a_stroke_takes_colour_out(me):
    cleaning(me)
    yield
    stroke(me, "[data-clean-overlay]")
    me.wait(lambda: marks(me) == ["colour"])


@mending("[data-clean-tool=clone]")
def a_stroke_covers_from_elsewhere(me):
    cleaning(me)
    yield
    me.find("[data-clean=frame]").send_keys("I")  # laid over from another frame of the burst
    stroke(me, "[data-clean-overlay]")
    me.wait(lambda: marks(me) == ["clone"])


@mending("[data-clean=another]")
def the_last_mark_is_filled_from_another_place(me):
    cleaning(me)
    stroke(me, "[data-clean-overlay]")
    me.wait(lambda: marks(me) == ["heal"])
    before = me.whole(1).override.clean.done[-1]
    yield
    me.wait(lambda: me.whole(1).override.clean.done[-1] != before)


@mending("[data-clean=masks]")
def masks_are_found_on_the_cleaned_picture(me):
    cleaning(me)
    stroke(me, "[data-clean-overlay]")
    me.wait(lambda: marks(me) == ["heal"])
    before = me.rows[1].found_at
    me.wait(lambda: me.find("[data-clean=masks]").is_enabled())
    yield
    me.wait(lambda: me.rows[1].found and me.rows[1].found_at != before, 90)


@mending("#clean-bar a.button")
def the_dust_of_the_shoot_is_gone_to(me):
    cleaning(me)
    yield
    me.wait(lambda: me.driver.current_url.endswith("/dust"))
