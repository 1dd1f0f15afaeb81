"""The whole way without a screen: from a card to a client's favourites, and their prints to a service, proved."""

import pytest
from PIL import Image

from lenskeep.core.clean.models import Healed
from lenskeep.files.recipes import RecipeFile
from lenskeep.files.writing.fields import Said
from lenskeep.store import dust, frames, jobs
from lenskeep.studio import bring_in, cleaning, dusting, looks
from lenskeep.studio.book import starters
from lenskeep.studio.book.take_in import take_in
from lenskeep.studio.hand_over import coming_back, deliver, proof, ways
from lenskeep.studio.hand_over.options import DeliveryOptions
from tests.studio.doing import run
from tools.made_up import DEMO
from tools.standins import RECEIPT, client_chooses, print_service_takes, put_card_in

NAMES = ("BST_0501", "BST_0505", "BST_0510", "BST_0515")


def test_from_a_card_to_prints(library, tmp_path):
    card = put_card_in(tmp_path / "media", [DEMO.parent / "backdrop-studio" / f"{n}.jpg" for n in NAMES])
    shoot = bring_in.create_shoot(library, "Rabbits")
    assert len(bring_in.receive_folder(library, shoot, card).frame_ids) == 4
    run(library)
    look = take_in(library, RecipeFile(starters.starter("Clean colour")))
    looks.give_look(library, shoot, look.id, 0.9)
    dusting.queue_search(library, shoot)
    run(library)
    dust.set_state(library.db, [d.id for d in dusting.of_shoot(library, shoot)], "confirmed")
    dusting.queue_heal(library, shoot)
    run(library)
    own = frames.frames(library.db, shoot)
    assert all(f.finished and f.override.clean.done for f in own)
    cleaning.mark(library, own[0].id, [Healed(points=((0.9, 0.9),), size=0.04)])

    # to the client
    web = DeliveryOptions(
        folder=str(tmp_path / "web"), gallery=True, long_side=800, sharpen="screen", said=Said(author="Ö. Maker")
    )
    deliver.queue_delivery(library, shoot, web)
    run(library)
    chosen = client_chooses(tmp_path / "web" / "gallery", [0, 2])
    (tmp_path / "favourites.json").write_bytes(chosen)
    assert "2 frames are rated 5" in coming_back.take(library, shoot, tmp_path / "favourites.json", "favourites.json")

    # what the client chose, to be printed, and as masters
    ways.keep(library, "print", DeliveryOptions(form="tiff", sharpen="paper", names="{shoot}-{number}"))
    ways.keep(library, "masters", DeliveryOptions(form="openraster"))
    made = ways.queue(library, shoot, ["print", "masters"], DeliveryOptions(folder=str(tmp_path / "out"), rating=5))
    run(library)
    assert [jobs.job(library.db, j).state for j in made] == ["done", "done"]
    receipt = print_service_takes(tmp_path / "out" / "print")
    assert list(receipt.taken) == ["Rabbits-0001.tif", "Rabbits-0002.tif"] and not receipt.refused
    listed = proof.read_list(tmp_path / "out" / "print" / proof.LIST)
    assert {one.file: one.sha256 for one in listed.files} == receipt.taken, "what was printed is what was proved"
    assert [r.why for r in proof.remake(library, listed)] == ["", ""]
    assert {f.original.name for f in listed.files} == {"BST_0501.jpg", "BST_0510.jpg"}


def test_a_print_service_refuses_what_can_not_be_printed(tmp_path):
    Image.new("RGB", (900, 700)).save(tmp_path / "bare.jpg")
    Image.new("RGB", (300, 200)).save(tmp_path / "small.png")
    (tmp_path / "torn.tif").write_bytes(b"II*\0")
    receipt = print_service_takes(tmp_path)
    assert receipt.refused == {
        "bare.jpg": "has no profile",
        "small.png": "is too small to be printed",
        "torn.tif": "can't be read",
    }
    assert (tmp_path / RECEIPT).is_file()


def test_a_client_without_pictures_is_not_content(tmp_path):
    with pytest.raises(OSError):
        client_chooses(tmp_path, [0])
