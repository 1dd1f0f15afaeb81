"""What every test may use: an empty library, a folder of photographs, and a watch over the originals."""

import os
import shutil
import tempfile
import uuid
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

import pytest
from hypothesis import settings

import tests.effort  # noqa: F401 - registers the profiles
from lenskeep.files.written import sum_of
from lenskeep.store.database import Database
from lenskeep.studio.library import Library
from tools.made_up import DEMO, write_photo
from tools.proof import PROOF, generator_sum

LONG = ("browser", "work", "studio", "web")
"""Folders of tests, the slowest first."""


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--all", action="store_true", help="what is slow by nature too, and 20 times as many examples")


def pytest_configure(config: pytest.Config) -> None:
    settings.load_profile("thorough" if config.getoption("--all") else "quick")


def _folder(item: pytest.Item) -> str:
    """Where a test lies below this folder; wherever the folder itself may lie."""
    return item.path.relative_to(Path(__file__).parent).parts[0]


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Those that wait for screens begin, so that what is left at the end is short. Without ``--all``, and unless they
    are asked for by name, some tests wait for the next proof of everything.
    """
    items.sort(key=lambda item: LONG.index(_folder(item)) if _folder(item) in LONG else len(LONG))
    named = {Path(str(arg).split("::")[0]).resolve() for arg in config.args}
    if config.getoption("--all"):
        return
    known = generator_sum() in PROOF.read_text("utf-8") if PROOF.is_file() else False

    def waits(item: pytest.Item) -> bool:
        if item.path in named:
            return False
        return item.get_closest_marker("slow") is not None or (known and _folder(item) == "photos")

    out = [item for item in items if waits(item)]
    if out:
        config.hook.pytest_deselected(items=out)
        items[:] = [item for item in items if not waits(item)]


def sums(folder: Path) -> dict[str, str]:
    """The sums of all files below a folder, by their paths."""
    return {str(p.relative_to(folder)): sum_of(p) for p in sorted(folder.rglob("*")) if p.is_file()}


@pytest.fixture(scope="session", autouse=True)
def originals_are_never_written_to() -> Iterator[None]:
    """Whatever all the tests do, the photographs that they bring in from the package are the same afterwards."""
    before = sums(DEMO.parent)
    yield
    assert sums(DEMO.parent) == before, "a photograph was altered by the tests' work"


@pytest.fixture(scope="session", autouse=True)
def a_new_database_is_copied(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """Every test with a library begins with an empty one: its tables are built once for all of them, by the same
    migrations, which take longer than many of those tests. Other processes, such as a server's, build their own.
    """
    folder = tmp_path_factory.mktemp("empty")
    built = folder / "built.db"
    Database(folder / "first.db").copy_to(built)
    migrate = Database._migrate

    def migrated(self: Database) -> None:
        if not self.path.exists():
            copied = self.path.with_name(f".{uuid.uuid4().hex}.copy")
            shutil.copyfile(built, copied)
            with suppress(FileExistsError):  # another process was quicker
                os.link(copied, self.path)
            copied.unlink()
        migrate(self)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Database, "_migrate", migrated)
        yield


@pytest.fixture(scope="session", autouse=True)
def nothing_waits_for_the_disk() -> Iterator[None]:
    """Tests kill processes, not machines: what a process has written is there, whether or not the disk has it yet."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("lenskeep.files.written._to_disk", lambda _: None)
        yield


@pytest.fixture(scope="session", autouse=True)
def files_may_leave_into_temporary_folders() -> Iterator[None]:
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("LENSKEEP_TARGETS", tempfile.gettempdir())
        yield


@pytest.fixture
def library(tmp_path: Path) -> Iterator[Library]:
    """A library that is not there yet. At the end, every original in it must be what came in; a test that alters one
    on purpose makes it writable first, and is passed over.
    """
    made = Library(tmp_path / "library")
    yield made
    for path in (made.home / "originals").glob("??/*"):
        if not path.stat().st_mode & 0o222:
            assert sum_of(path) == path.name[:64], f"{path.name} was altered"


@pytest.fixture
def photo_folder(tmp_path: Path) -> Callable[[int], Path]:
    """Makes a folder of so many photographs, a minute apart, named against their order in time."""

    def make(count: int) -> Path:
        folder = tmp_path / "card"
        for i in range(count):
            write_photo(folder / f"IMG_{900 - i}.jpg", i, f"2026:09:12 18:{i:02d}:00")
        return folder

    return make
