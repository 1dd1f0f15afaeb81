// The true pixels that are at hand: cuts of the frame that came from the server, the newest painted last.
const MOST_PIXELS = 24e6;

export class Cuts {
  constructor() {
    this.held = []; // { x, y, width, height, bitmap, of }
  }

  add(cut, bitmap, of) {
    // what the new one covers wholly is not needed any more
    this.#keep((c) => !(inside(c, cut) && (c.of === of || c.width * c.height <= cut.width * cut.height)));
    this.held.push({ ...cut, bitmap, of });
    let total = this.held.reduce((sum, c) => sum + c.width * c.height, 0);
    while (total > MOST_PIXELS && this.held.length > 1) {
      const old = this.held.shift();
      total -= old.width * old.height;
      old.bitmap.close();
    }
  }

  // whether one cut of the state `of` has all of a part
  covers(part, of) {
    return this.held.some((c) => c.of === of && inside(part, c));
  }

  paint(pen, part, scale) {
    pen.imageSmoothingEnabled = false;
    for (const c of this.held) pen.drawImage(c.bitmap, (c.x - part.x) * scale, (c.y - part.y) * scale, c.width * scale, c.height * scale);
  }

  clear() {
    this.#keep(() => false);
  }

  #keep(wanted) {
    this.held.filter((c) => !wanted(c)).forEach((c) => c.bitmap.close());
    this.held = this.held.filter(wanted);
  }
}

function inside(a, b) {
  return a.x >= b.x && a.y >= b.y && a.x + a.width <= b.x + b.width && a.y + a.height <= b.y + b.height;
}
