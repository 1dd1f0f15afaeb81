"""How much property tests try: so many examples in ``make test``, twenty times as many in ``make test-all``."""

from hypothesis import settings

USUAL, THOROUGH = 100, 2000
settings.register_profile("quick", deadline=None, max_examples=USUAL)  # a busy machine is no fault
settings.register_profile("thorough", deadline=None, max_examples=THOROUGH)


def examples(usual: int) -> int:
    """Of a test whose examples take longer than others': so many, or in proportion more."""
    return usual * settings.default.max_examples // USUAL
