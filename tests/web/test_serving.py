"""What a server does once so that nobody waits for it."""

import gc

from lenskeep.studio.warm import warm_up


def test_what_is_there_for_good_is_not_looked_at_again_and_again():
    """A collection of everything, which holds all threads, has next to nothing to do once a server is warm."""
    try:
        warm_up()
        assert gc.get_freeze_count() > 100_000
        assert len(gc.get_objects()) < 20_000
    finally:
        gc.unfreeze()
