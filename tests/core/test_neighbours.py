"""A subject that jumps between frames of one burst was found wrongly; one that moves was not."""

import pytest

from lenskeep.core.detect.neighbours import Seen, out_of_line
from lenskeep.core.facts import Finding
from tests.core.parts import at
from tools.made_up import facts_for


def frame(area=0.1, x=0.5, **changes):
    box = at(x - 0.15, 0.4, x + 0.15, 0.8)
    return facts_for(200, 300, **{"subject": Finding(trust=0.99, area=area), "subject_box": box, **changes})


def seen(facts):
    return Seen(facts.height > facts.width, facts.subject_box, facts.area("subject"))


BURST = [frame(0.1), frame(0.11, 0.52), frame(0.12, 0.48), frame(0.09)]


@pytest.mark.parametrize(
    ("odd", "words"),
    [
        (frame(0.4), "much larger"),
        (frame(0.02), "much smaller"),
        (frame(0.1, 1.2), "another place"),
        (frame(subject_box=None), "none was found"),
        (frame(0.13, 0.6), ""),
    ],
)
def test_what_is_out_of_line_is_said(odd, words):
    said = out_of_line(seen(odd), [seen(f) for f in BURST])
    assert (words in said) if words else said == ""
    marked = odd.model_copy(update={"out_of_line": said})
    assert (marked.trust < 0.8) == bool(words) and (said in marked.reasons) == bool(words)


def test_few_or_restless_neighbours_tell_nothing():
    assert out_of_line(seen(frame(0.4)), [seen(f) for f in BURST[:2]]) == ""
    restless = [frame(0.02, -0.3), frame(0.4, 1.3), frame(0.1, 0.1), frame(0.9, 0.9)]
    assert out_of_line(seen(frame(0.1, 0.5)), [seen(f) for f in restless]) == ""
    upright = [f.model_copy(update={"width": 200, "height": 300}) for f in BURST]
    assert out_of_line(seen(frame(0.4)), [seen(f) for f in upright]) == ""
