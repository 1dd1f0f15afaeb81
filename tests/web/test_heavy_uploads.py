"""Large and hostile uploads: pages answer meanwhile, and nothing is decoded in the server itself."""

import inspect
import io
import threading
import time
import zlib
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from lenskeep.core.recipes.models import Recipe
from lenskeep.files.formats import FIRST
from lenskeep.store import assets
from lenskeep.studio.bench import draft as bench
from lenskeep.web.app import SCREENS
from tests.web.hands import at_the_bench
from tools.made_up import ready_shoot
from tools.running.server import Server
from tools.running.visitor import Visitor as Guest


def test_nothing_slow_can_run_on_the_event_loop():
    """Whatever is not ``async`` runs in a thread; those that have to be do nothing slow but in one."""
    handlers = [r.endpoint for screen in SCREENS for r in screen.router.routes]
    assert len(handlers) > 40
    waiting = {h.__name__: inspect.getsource(h) for h in handlers if inspect.iscoroutinefunction(h)}
    assert set(waiting) == {"arrive", "change", "events"}
    assert all("run_in_threadpool" in source and "library.db" not in source for source in waiting.values())


def cube(size):
    values = np.round(np.random.default_rng(1).random((size**3, 3)), 6)
    rows = "\n".join(f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in values)
    return f"LUT_3D_SIZE {size}\n{rows}\n".encode()


def png(side):
    """A black PNG of side² pixels in a few hundred kilobytes."""
    row = b"\0" * (1 + side)
    packer = zlib.compressobj(9)
    data = b"".join(packer.compress(row) for _ in range(side)) + packer.flush()

    def chunk(kind, body):
        return len(body).to_bytes(4) + kind + body + zlib.crc32(kind + body).to_bytes(4)

    head = side.to_bytes(4) * 2 + bytes([8, 0, 0, 0, 0])
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def test_pages_answer_while_a_large_table_is_read(tmp_path):
    from lenskeep.studio.library import Library

    library = Library(tmp_path / "home")
    shoot = ready_shoot(library, tmp_path / "card", 2)
    steps = [{"id": "a", "adjustments": [{"kind": "colour_table"}]}]
    bench.load(library, shoot, Recipe.model_validate({"name": "A", "steps": steps}))
    data, answers = cube(100), []
    assert len(data) > 25_000_000
    with Server(library.home) as server:
        guest, other = Guest(server.address), Guest(server.address)

        def send():
            form = {"step": "a", "of": "a1", "kind": "table"}
            files = {"file": ("large.cube", data)}
            answers.append(guest.http.post(f"/scenes/{shoot}/bench/file", data=form, files=files))

        sending = threading.Thread(target=send)
        sending.start()
        slowest, looked = 0.0, 0
        while sending.is_alive():
            began = time.perf_counter()
            other.get("/")
            slowest, looked = max(slowest, time.perf_counter() - began), looked + 1
            time.sleep(0.02)
        sending.join()
    assert answers[0].status_code == 200, answers[0].text
    assert looked > 3 and slowest < 1.5, f"a page took {slowest:.1f} s; 15 s before"
    table = bench.draft(library, shoot).recipe.steps[0].adjustments[0]
    assert table.size == 65, "brought to what a recipe can hold"
    assert len(assets.asset_bytes(library.db, table.data)) < 2_000_000


@pytest.mark.parametrize("kind", ["picture", "mask"])
def test_a_huge_picture_in_a_small_file_is_refused_before_it_is_decoded(visitor, shoot, kind):
    at_the_bench(
        visitor, shoot, {"id": "a", "region": {"parts": [{"kind": "image"}]}, "adjustments": [{"kind": "overlay"}]}
    )
    data = png(15_800)
    assert len(data) < 300_000
    began = time.monotonic()
    form = {"step": "a", "of": "p1" if kind == "mask" else "a1", "kind": kind}
    refused = visitor.post(f"/scenes/{shoot}/bench/file", data=form, files={"file": ("huge.png", data)})
    assert refused.status_code == 422 and "too large" in refused.text and time.monotonic() - began < 4
    brought = visitor.post(f"/shoots/{shoot}/files", files={"file": ("huge.png", data)}).json()
    assert "far more than it holds" in brought["refused"][0][1]


def test_a_large_picture_is_made_smaller_while_it_is_read(visitor, shoot):
    at_the_bench(visitor, shoot, {"id": "a", "adjustments": [{"kind": "overlay"}]})
    out = io.BytesIO()
    Image.radial_gradient("L").resize((6000, 4000)).convert("RGB").save(out, "JPEG", quality=80)
    form = {"step": "a", "of": "a1", "kind": "picture"}
    files = {"file": ("light.jpg", out.getvalue())}
    assert visitor.post(f"/scenes/{shoot}/bench/file", data=form, files=files).status_code == 200
    overlay = bench.draft(visitor.library, shoot).recipe.steps[0].adjustments[0]
    assert overlay.name == "light.jpg"
    assert len(assets.asset_bytes(visitor.library.db, overlay.picture)) < 3_000_000


def test_a_picture_inside_a_recipe_is_not_decoded_beyond_its_bound(visitor):
    import base64
    import json

    overlay = {"kind": "overlay", "picture": base64.b64encode(png(15_800)).decode()}
    part = {"kind": "image", "png": overlay["picture"]}
    for step in ({"adjustments": [overlay]}, {"region": {"parts": [part]}}):
        recipe = {"format": FIRST, "name": "Trap", "steps": [{"id": "a", **step}]}
        began = time.monotonic()
        answer = visitor.post("/recipes/import", files={"file": ("trap.json", json.dumps(recipe))})
        assert answer.status_code == 422 and "PNG" in answer.text and time.monotonic() - began < 4


def test_a_file_over_the_limit_is_refused_in_words(visitor, shoot, monkeypatch):
    from lenskeep.web.screens.bench import edits as screen

    monkeypatch.setitem(screen.MOST_BYTES, "table", 1000)
    form = {"step": "a", "of": "a1", "kind": "table"}
    refused = visitor.post(f"/scenes/{shoot}/bench/file", data=form, files={"file": ("a.cube", b"0" * 2000)})
    assert refused.status_code == 422 and "too large" in refused.text


def test_uploads_leave_no_file_open(visitor, shoot):
    """One each, and the server was out of them after 20,000."""

    def open_files():
        return len(list(Path("/proc/self/fd").iterdir()))

    for _ in range(3):
        visitor.post(f"/shoots/{shoot}/files", files={"file": ("a.jpg", b"words")})
    before = open_files()
    for n in range(30):
        visitor.post(f"/shoots/{shoot}/files", files={"file": (f"{n}.jpg", b"words")})
    assert open_files() - before < 10
