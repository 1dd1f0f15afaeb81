"""Every button of the Bench does what it promises, and none is without a promise."""

import pytest

from tests.browser.promised import BAR, groups, listed, near, stage, steps, walk, what, where

pytestmark = pytest.mark.browser
TABLES = (stage.stage, near.near, steps.lanes, groups.groups, where.where, what.what)
ELSEWHERE = (".option", "#repair-bar *")
"""What can be chosen in a list that is searched: the kinds of parts and adjustments have tests of their own; and what
mends a mask, here as on a frame's page.
"""


@pytest.mark.parametrize(("table", "css", "promise"), **listed(TABLES))
def test_what_is_pressed_is_done(desk, table, css, promise):
    with table.opened(desk) as me:
        walk(me, css, promise)


@pytest.mark.parametrize("state", ["steps with every kind of sheet", "warned", "history", "choosing", "saving"])
def test_no_button_of_the_bench_is_without_a_promise(desk, state):
    with (where.opened if state.startswith("steps") else steps.opened)(desk) as me:
        if state == "warned":
            stage.warned(me)
            near.gather(me)
        elif state == "history":
            groups.past(me)
        elif state == "choosing":
            groups.choose(me, "effects")
        elif state == "saving":
            me.find("#save-open").click()
            me.find("#save-dialog [name=name]")
        left = stage.stage.unpromised(me, [*ELSEWHERE, *BAR, *(css for table in TABLES for css in table.known)])
        assert not left, left
