"""Every sentence of the README's "way of a shoot" is held by tests: this table says which, sentence by sentence."""

import re
from importlib.resources import files
from pathlib import Path

import pytest

from lenskeep.core.adjust import KINDS
from lenskeep.store import frames
from lenskeep.studio.book import effects
from lenskeep.studio.proposing import Standing
from lenskeep.web.screens.evening import chart_of
from tools.made_up import ready_shoot

TESTS = Path(__file__).parent
README = TESTS.parent / "README.md"
HELD: dict[str, list[str]] = {}
"""The beginning of each sentence, and the tests that hold it: their file, ``::``, their name without "test_"."""
for line in (TESTS / "way_of_a_shoot.txt").read_text("utf-8").splitlines():
    if line.startswith(" "):
        HELD[beginning].append(line.strip())  # noqa: F821 - the line before names it
    else:
        HELD[beginning := line] = []


def sentences() -> list[str]:
    """Those of the section, without marks of lists and of emphasis."""
    text = README.read_text("utf-8").replace("’", "'")
    section = text[text.index("## The way of a shoot") : text.index("| | |")].split("\n\n", 1)[1]
    out = []
    for item in re.split(r"\n(?=\d+\. |   - )", section):
        plain = re.sub(r"^(\d+\.|-) ", "", " ".join(item.split())).replace("*", "").replace("`", "")
        out += re.split(r"(?<=[.!?])\s+(?=[A-Z\d])", plain)
    return out


def test_every_sentence_stands_in_the_table_and_none_besides():
    left = sentences()
    for beginning in HELD:
        found = [s for s in left if s.startswith(beginning)]
        assert len(found) == 1, f"{beginning}: {found}"
        left.remove(found[0])
    assert not left, "sentences that no test holds"


@pytest.mark.parametrize("beginning", HELD)
def test_the_tests_of_a_sentence_are_there(beginning):
    assert HELD[beginning]
    for named in HELD[beginning]:
        file, name = named.split("::")
        text = (TESTS / f"{file}.py").read_text("utf-8")
        assert re.search(rf"def (test_)?{name}\(", text), named


def test_there_are_as_many_as_it_says():
    ready = [f for f in files("lenskeep.starters").iterdir() if f.name[:2].isdigit()]
    text = " ".join(sentences())
    said = [int(n) for n in re.findall(r"(\d+) (?:adjustments|ready recipes|ready effects)", text)]
    assert said == [len(KINDS), len(ready), len(effects.ready())]


def test_the_chart_shows_how_much_a_subject_draws(library, tmp_path):
    """Beside light and colour, where the pull of the key frame is known."""
    shoot = ready_shoot(library, tmp_path, 3)
    with library.db.writing() as write:
        for frame, pull in zip(frames.summaries(library.db, shoot), ("20.00 0.00", "30.00 0.00", ""), strict=True):
            write.execute("UPDATE frames SET pull = ? WHERE id = ?", (pull, frame.id))
    rows = frames.summaries(library.db, shoot)
    chart = chart_of([Standing(f, n == 0, None, (0.0, 0.0, 0.0), None) for n, f in enumerate(rows)])
    key, more, unknown = (point.pull for point in chart.points)
    assert chart.pulls and more < key and unknown is None, "more is higher up"
