"""What is drawn under the hand while it paints."""

UNDER = """
const c = document.querySelector('.paint-canvas');
if (!c || c.hidden || !c.width) return null;
const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
let on = 0, light = 0;
for (let i = 3; i < d.length; i += 4) if (d[i] > 200) { on += 1; light += d[i - 2]; }
return [on / (c.width * c.height), on ? light / on : 0];
"""


def under(person):
    return person.driver.execute_script(UNDER)
