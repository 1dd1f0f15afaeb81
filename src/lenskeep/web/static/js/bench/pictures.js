// Pictures of the Bench: one canvas a frame, holding its finished and its untouched picture, and painting either or both.
import { penOf } from "../shared/screen.js";

export class Picture {
  constructor(canvas, frame, side) {
    Object.assign(this, { canvas, frame, side, finished: null, original: null, pinned: null, split: null, held: "" });
  }

  async show(kind, response) {
    const bitmap = await createImageBitmap(await response.blob());
    this[kind]?.close?.();
    this[kind] = bitmap;
    this.paint();
  }

  paint() {
    // `held` is what is shown in place of the finished picture while it is held: "original" or "pinned"
    const main = (this.held && this[this.held]) || this.finished || this.original;
    if (!main) return;
    if (this.canvas.width !== main.width || this.canvas.height !== main.height) {
      this.canvas.width = main.width;
      this.canvas.height = main.height;
    }
    const pen = penOf(this.canvas);
    pen.drawImage(main, 0, 0);
    if (this.split === null || !this.original || this.held) return;
    const edge = Math.round(this.split * main.width);
    if (edge > 0) pen.drawImage(this.original, 0, 0, edge, main.height, 0, 0, edge, main.height);
  }
}
