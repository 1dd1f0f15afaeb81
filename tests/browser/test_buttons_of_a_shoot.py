"""Every button of the wall and of a frame's page does what it promises, and none is without a promise."""

import pytest

from lenskeep.store import shoots
from lenskeep.studio import many
from tests.browser.hands import running_desk
from tests.browser.promised import BAR, frame, listed, mending, selection, walk, wall
from tests.browser.promised.compared import even

pytestmark = pytest.mark.browser
TABLES = (wall.wall, selection.selection, frame.frame, mending.mending)


@pytest.fixture(scope="module")
def desk(tmp_path_factory):
    """A library of its own: scenes that are cut here are none that others count on."""
    with running_desk(tmp_path_factory.mktemp("shoot")) as own:
        yield own


@pytest.mark.parametrize(("table", "css", "promise"), **listed(TABLES))
def test_what_is_pressed_is_done(desk, table, css, promise):
    with table.opened(desk) as me:
        walk(me, css, promise)


def test_no_button_of_the_wall_is_without_a_promise(desk):
    with wall.opened(desk) as me:
        shoots.add_refusal(me.library.db, me.shoot, "broken.jpg", "It is broken.")
        many.do(me.library, me.shoot, [me.rows[2].id, me.rows[3].id], many.NewScene(what="new-scene"))
        wall.again(me)
        left = wall.wall.unpromised(me, [*BAR, *selection.selection.known, *even.known])
        assert not left, left


def test_no_button_of_a_frame_is_without_a_promise(desk):
    with frame.opened(desk) as me:
        for number in (1, 2):
            frame.open_page(me, number)
            left = frame.frame.unpromised(me, [*BAR, *mending.mending.known])
            assert not left, left
