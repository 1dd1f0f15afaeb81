"""Elements that a page exchanged for others of the same place, told by the words they were found with."""

import time
from collections import OrderedDict
from contextlib import suppress

from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver.remote.webelement import WebElement

TRIES = 20
PAUSE = 0.1
MOST = 20_000


class Renewed:
    """What elements were found by: a selector, within which element, which of those it was, and how many there were."""

    def __init__(self):
        self.found = OrderedDict()

    def remember(self, selector, ids, within=None):
        for place, one in enumerate(ids):
            self.found[one] = (selector, within, place, len(ids))
        while len(self.found) > MOST:
            self.found.popitem(last=False)

    def remember_first(self, selector, one, within=None):
        """The first of as many as there may be."""
        self.found[one] = (selector, within, 0, None)

    def run(self, command, params, found, again):
        """Run a command; elements of it that are gone are those that stand in their places now.

        *found* gives the ids of what a selector finds within an element (None: on the page), *again* whether the
        command may be repeated. Raises StaleElementReferenceException where as many no longer stand there, or the
        command was at work already.
        """
        renewed = {}
        for left in reversed(range(TRIES)):
            try:
                return command(_exchanged(params, renewed))
            except StaleElementReferenceException:
                gone = set(_elements(params, self.found))
                if not left or not gone or not again():
                    raise
                time.sleep(PAUSE)  # a page being renewed may stand half done
                for old in gone:
                    with suppress(StaleElementReferenceException):
                        renewed[old] = self._now(old, found) or renewed.get(old, old)
        raise AssertionError("the last try returns or raises")

    def _now(self, old, found):
        """What stands in an element's place, None where that can't be told."""
        if old not in self.found:
            return old
        selector, within, place, count = self.found[old]
        ids = found(selector, within and self._now(within, found))
        return ids[place] if place < len(ids) and count in (None, len(ids)) else None


def _elements(value, known):
    """Ids of known elements anywhere in the parameters of a command."""
    if isinstance(value, WebElement):
        yield from _elements(value.id, known)
    elif isinstance(value, dict):
        for one in value.values():
            yield from _elements(one, known)
    elif isinstance(value, list | tuple):
        for one in value:
            yield from _elements(one, known)
    elif isinstance(value, str) and value in known:
        yield value


def _exchanged(value, renewed):
    if not renewed:
        return value
    if isinstance(value, WebElement):
        return WebElement(value.parent, renewed.get(value.id, value.id))
    if isinstance(value, dict):
        return {key: _exchanged(one, renewed) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_exchanged(one, renewed) for one in value]
    return renewed.get(value, value) if isinstance(value, str) else value
