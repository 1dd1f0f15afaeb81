"""What is done to a shoot as a page or the command line does it, for tests."""

from pydantic import TypeAdapter

from lenskeep.store import jobs
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.options import DeliveryOptions
from lenskeep.studio.many import Doing
from lenskeep.studio.queue import make_runner
from tools.made_up import DEMO

DUSTY = DEMO.parent / "backdrop-studio"
DUSTY_NAMES = ("BST_0501", "BST_0505", "BST_0510", "BST_0515", "BST_0520")
"""Frames of one camera, whose sensor has dust."""
ASKED = TypeAdapter(Doing)


def run(library):
    assert make_runner(library, 0).run_until_idle()


def asked(**what):
    return ASKED.validate_python(what)


def handed(library, shoot, out, **options):
    job = deliver.queue_delivery(library, shoot, DeliveryOptions(folder=str(out), **options))
    run(library)
    assert jobs.job(library.db, job).state == "done", jobs.job(library.db, job).message
    return out


def pictures(folder):
    return sorted(p.name for p in folder.iterdir() if p.suffix in (".jpg", ".png", ".tif"))
