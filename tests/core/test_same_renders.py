"""Pictures are what they were before scenes, layers and recipes of format 2 came in: to the bit, where that can be."""

import json

import pytest

from tests.core.renders import cases

KEPT = json.loads(cases.KEPT.read_text("utf-8"))
CASES = list(cases.cases())


def test_every_kept_render_has_its_case():
    assert [case.name for case in CASES] == list(KEPT["cases"]) and len(CASES) > 80


@pytest.mark.parametrize("case", CASES, ids=[case.name for case in CASES])
def test_a_recipe_of_format_1_renders_as_it_did(case):
    now, then = cases.summary(cases.rendered(case)), KEPT["cases"][case.name]
    if cases.probe() == KEPT["probe"]:
        assert now["sha256"] == then["sha256"]
    else:  # another processor rounds in other ways; no block of the picture may differ by a twentieth of a step
        assert max(abs(a - b) for a, b in zip(now["means"], then["means"], strict=True)) < 0.05
