"""What is seen of a picture while somebody looks closely at it."""

import base64

import numpy as np

from lenskeep.core.render import Cut

SEEN = """
const c = document.querySelector('.close-canvas'), pen = c.getContext('2d');
const bytes = pen.getImageData(0, 0, c.width, c.height).data;
let text = '';
for (let i = 0; i < bytes.length; i += 32768) text += String.fromCharCode(...bytes.subarray(i, i + 32768));
return [parseFloat(c.style.left), parseFloat(c.style.top), c.width, c.height, btoa(text)];
"""


def rests(person, room="#key-frame"):
    person.wait(lambda: person.find(room).get_attribute("data-close-rests") is not None)


def seen(person):
    """(the cut of the file that is on the screen, its pixels) at 100 %."""
    x, y, w, h, data = person.driver.execute_script(SEEN)
    pixels = np.frombuffer(base64.b64decode(data), np.uint8).reshape(h, w, 4)[..., :3]
    return Cut(round(x), round(y), w, h), pixels
