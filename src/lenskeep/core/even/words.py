"""How a frame stands off beside its scene, in words."""

from lenskeep.core.even.judged import STILL


def off_words(ev: float, mired: float, duv: float) -> str:
    """Such as "a stop over, warmer, a little greener", for a frame that stands off by so much: what is above nought is
    brighter, warmer, more magenta. "even" within what counts as even.
    """
    said = []
    if abs(ev) >= STILL[0]:
        said.append(f"{_stops(abs(ev))} {'over' if ev > 0 else 'under'}")
    for value, still, more, less in ((mired, STILL[1], "warmer", "bluer"), (duv, STILL[2], "more magenta", "greener")):
        if abs(value) >= still:
            word = more if value > 0 else less
            said.append(f"much {word}" if abs(value) >= 3 * still else word)
    return ", ".join(said) or "even"


def _stops(ev: float) -> str:
    thirds = round(ev * 3)
    whole, rest = divmod(max(thirds, 1), 3)
    part = {0: "", 1: "a third of a stop", 2: "two thirds of a stop"}[rest]
    if not whole:
        return part
    stops = "a stop" if whole == 1 else f"{whole} stops"
    return f"{stops} and {'a third' if rest == 1 else 'two thirds'}" if rest else stops
