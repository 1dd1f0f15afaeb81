"""Names that people give: what is shown is seen, and what becomes a file's name fits every disk."""

from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.names import MOST_STEM_BYTES, file_stem, shown_name, shown_text


@given(st.text(max_size=400))
def test_a_files_name_is_safe_whatever_it_came_from(text):
    stem = file_stem(text, "frame")
    assert 0 < len(stem.encode()) <= MOST_STEM_BYTES
    assert not set(stem) & set('/\\\0:*?"<>|\n\r\t') and stem[0] not in "=+-@. " and stem[-1] not in ". "
    assert file_stem(stem, "frame") == stem


@given(st.text(max_size=200))
def test_a_shown_name_can_be_seen_and_is_on_one_line(text):
    name = shown_name(text)
    assert name == name.strip() and not set(name) & set("\0\n\r\t") and shown_name(name) == name


def test_nothing_but_invisible_characters_is_no_name():
    for text in ("", "  ", "\u200b\u200d", "\u2060\ufeff", "\u3164", "\u2800 \u2800", "\0\0", "\u202e"):
        assert shown_name(text) == ""
    assert shown_name("\u200bLena\0 & \n Tom ") == "\u200bLena & Tom"


@given(st.text(max_size=60))
def test_what_was_made_fit_to_be_shown_stays_as_it_is(text):
    for fit in (shown_name, shown_text):
        assert fit(fit(text)) == fit(text)
