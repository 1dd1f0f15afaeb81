// The step's effect under the brush while it moves: the picture as if painted everywhere, seen through what was painted.
import { send } from "../shared/api.js";
import { penOf } from "../shared/screen.js";

const STOPS = 6;
const SPACING = 0.14; // of the radius, as the renderer lays its dabs

// `close` is the close view, `address()` and `asked()` say where a picture of the key frame comes from and what of it
export function makePainted({ box, close, address, asked }) {
  const canvas = document.createElement("canvas");
  canvas.className = "paint-canvas";
  canvas.hidden = true;
  canvas.setAttribute("aria-hidden", "true");
  box.querySelector("svg").before(canvas);
  const mask = document.createElement("canvas");
  let stroke = null;
  let kept = null; // the last picture, and what it is of

  async function picture(step, part, everywhere) {
    const request = { ...asked(), step, view: "finished", painted: { part, everywhere } };
    const of = JSON.stringify(request);
    if (kept?.of === of) return kept.bitmap;
    const bitmap = await createImageBitmap(await (await send(address(), request)).blob());
    kept = { of, bitmap }; // never closed by hand: a stroke may still be painting with the one before
    return bitmap;
  }

  // fetched when the brush is taken up, so that the first move finds it there
  const ready = (step, part, erase) => picture(step, part, !erase).catch(() => null);
  const forget = () => { kept = null; };

  function begin(step, part, { size, hardness, opacity, flow, mode }, long) {
    const seen = close().seen() ?? { x: 0, y: 0, width: 1, height: 1 }; // shares of the frame
    stroke = { bitmap: null, seen, last: null, hardness: hardness / 100, opacity: opacity / 100, flow: flow / 100, waiting: [] };
    canvas.hidden = true;
    picture(step, part, mode !== "erase").then((bitmap) => {
      if (!stroke) return;
      stroke.bitmap = bitmap;
      for (const each of [canvas, mask]) [each.width, each.height] = [bitmap.width, bitmap.height];
      // the radius in pixels of what is shown: `long` is the anchor's long side as a share of the frame's width
      stroke.radius = Math.max(0.5, ((size / 200) * long * bitmap.width) / seen.width);
      for (const [name, value] of [["left", seen.x], ["top", seen.y], ["width", seen.width], ["height", seen.height]]) canvas.style[name] = `${100 * value}%`;
      canvas.hidden = false;
      stroke.waiting.splice(0).forEach(([u, v]) => move(u, v));
    }).catch(() => { /* the finished picture shows it when the hand lets go */ });
  }

  function dab(pen, x, y) {
    const { radius, hardness, flow } = stroke;
    const shade = pen.createRadialGradient(x, y, 0, x, y, radius);
    shade.addColorStop(0, `rgb(0 0 0 / ${flow})`);
    shade.addColorStop(Math.min(0.995, hardness), `rgb(0 0 0 / ${flow})`);
    for (let i = 1; i <= STOPS; i += 1) {
      const t = 1 - i / STOPS; // eased from full at the hardness to nothing at the radius
      shade.addColorStop(Math.min(1, hardness + (1 - hardness) * (i / STOPS)), `rgb(0 0 0 / ${flow * t * t * (3 - 2 * t)})`);
    }
    pen.fillStyle = shade;
    pen.fillRect(x - radius, y - radius, 2 * radius, 2 * radius);
  }

  // one more place of the stroke, in shares of the frame
  function move(u, v) {
    if (!stroke) return;
    if (!stroke.bitmap) { stroke.waiting.push([u, v]); return; }
    const { seen, radius } = stroke;
    const at = [((u - seen.x) / seen.width) * mask.width, ((v - seen.y) / seen.height) * mask.height];
    const from = stroke.last ?? at;
    const far = Math.hypot(at[0] - from[0], at[1] - from[1]);
    const step = Math.max(0.5, SPACING * radius);
    const pen = mask.getContext("2d");
    const count = stroke.last ? Math.floor(far / step) : 1;
    if (stroke.last && count === 0) return;
    for (let i = 1; i <= count; i += 1) {
      const share = stroke.last ? (i * step) / far : 0;
      dab(pen, from[0] + share * (at[0] - from[0]), from[1] + share * (at[1] - from[1]));
    }
    const reach = (count * step) / (far || 1);
    stroke.last = stroke.last ? [from[0] + reach * (at[0] - from[0]), from[1] + reach * (at[1] - from[1])] : at;
    show(Math.min(from[0], at[0]) - radius - 2, Math.min(from[1], at[1]) - radius - 2, Math.abs(at[0] - from[0]) + 2 * radius + 4, Math.abs(at[1] - from[1]) + 2 * radius + 4);
  }

  // only where something changed is drawn anew
  function show(x, y, w, h) {
    const pen = penOf(canvas);
    const [x0, y0] = [Math.max(0, Math.floor(x)), Math.max(0, Math.floor(y))];
    const [x1, y1] = [Math.min(canvas.width, Math.ceil(x + w)), Math.min(canvas.height, Math.ceil(y + h))];
    if (x1 <= x0 || y1 <= y0) return;
    pen.save();
    pen.beginPath();
    pen.rect(x0, y0, x1 - x0, y1 - y0);
    pen.clip();
    pen.globalCompositeOperation = "copy";
    pen.globalAlpha = stroke.opacity;
    pen.drawImage(mask, x0, y0, x1 - x0, y1 - y0, x0, y0, x1 - x0, y1 - y0);
    pen.globalCompositeOperation = "source-in";
    pen.globalAlpha = 1;
    pen.drawImage(stroke.bitmap, x0, y0, x1 - x0, y1 - y0, x0, y0, x1 - x0, y1 - y0);
    pen.restore();
    document.dispatchEvent(new CustomEvent("lk:painted"));
  }

  // the hand let go: what was painted stays until the finished picture is there
  function end() {
    const done = stroke;
    stroke = null;
    forget();
    const gone = () => { if (!stroke) canvas.hidden = true; };
    if (!done) return gone();
    document.addEventListener("lk:key-drawn", gone, { once: true });
    setTimeout(gone, 4000);
  }

  return { ready, begin, move, end, forget };
}
