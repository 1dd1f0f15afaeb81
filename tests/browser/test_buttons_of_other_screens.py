"""Every button of the other screens does what it promises, and none is without a promise."""

import pytest

from tests.browser.hands import running_desk
from tests.browser.promised import BAR, book, check, compared, leaving, listed, walk

pytestmark = pytest.mark.browser
TABLES = (
    *(check.check, book.book, compared.line_up, compared.even),
    *(leaving.specks, leaving.handing, leaving.home, leaving.activity),
)


@pytest.fixture(scope="module")
def desk(tmp_path_factory):
    """One whose server may read the folder that made-up cards lie in."""
    folder = tmp_path_factory.mktemp("elsewhere")
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("LENSKEEP_FOLDERS", str(folder))
        with running_desk(folder) as own:
            yield own


@pytest.mark.parametrize(("table", "css", "promise"), **listed(TABLES))
def test_what_is_pressed_is_done(desk, table, css, promise):
    with table.opened(desk) as me:
        walk(me, css, promise)


def test_no_button_elsewhere_is_without_a_promise(desk):
    with check.opened(desk) as me:
        check.checking(me)
        compared.uneven(me)
        leaving.dusty(me)
        scene = me.scenes[0].id
        pages = {
            f"/shoots/{me.shoot}/check": check.check,
            "/recipes": book.book,
            f"/scenes/{scene}/line-up": compared.line_up,
            f"/scenes/{scene}/even": compared.even,
            f"/shoots/{me.shoot}/dust": leaving.specks,
            f"/shoots/{me.shoot}/hand-over": leaving.handing,
            "/": leaving.home,
            "/activity": leaving.activity,
        }
        for address, table in pages.items():
            me.go(address)
            me.ends()
            left = table.unpromised(me, [*BAR, "[data-strip] *"])
            assert not left, f"{address}: {left}"
