// The close view: the picture's box made as large as the file, moved under its room, with the true pixels of what is seen
// laid over it. What lies on the box (outlines, handles, brush, tint) is there at every size without knowing of it.
import { send, toast } from "../shared/api.js";
import { penOf, SPACE } from "../shared/screen.js";
import { Cuts } from "./cuts.js";
import { makeMap } from "./map.js";
import { watchMoves } from "./moves.js";

const AHEAD = 0.6; // of the room, to every side
const STEPS = [null, 1, 2];

// `room` is what the box is seen through; `width` and `height` are the file's. `address` answers cuts; `asked()` is what
// else it is told; `fit()` sizes the box to the room; `free()` whether a drag on the picture may move it; `faces` lists
// middles of faces, the subject's first (or, without one, its own middle); `seen(on)` is told when it begins and ends
export function makeClose({ room, box, width, height, address, asked = () => ({}), fit, free = () => true, faces = [], seen = () => {}, drawn = () => {} }) {
  const bar = room.querySelector("[data-close-bar]") ?? document.querySelector("[data-close-bar]");
  const canvas = document.createElement("canvas");
  canvas.className = "close-canvas";
  canvas.hidden = true;
  canvas.setAttribute("aria-hidden", "true");
  box.querySelector("svg, .split, .on-picture").before(canvas);
  const pen = penOf(canvas);
  const state = { scale: null, x: width / 2, y: height / 2, turn: 0, held: false, split: null, face: -1, beside: null };
  const [finished, others] = [new Cuts(), new Cuts()];
  const ORIGINAL = JSON.stringify({ view: "original" });
  let shown = ORIGINAL; // what is held, stands left of the divider or beside, as it is asked for
  const other = () => state.held || state.split !== null || state.beside !== null;
  const map = makeMap(document.querySelector("[data-close-map]"), box, (u, v) => go(u * width, v * height));
  const ratio = () => window.devicePixelRatio || 1;
  const k = () => state.scale / ratio(); // CSS pixels a pixel of the file
  let visible = null;

  // --- where things lie
  function place() {
    const [w, h] = [room.clientWidth, room.clientHeight];
    const [bw, bh] = [width * k(), height * k()];
    const held = (at, size, span) => (size <= span ? size / 2 : Math.min(size - span / 2, Math.max(span / 2, at)));
    const [cx, cy] = [held(state.x * k(), bw, w), held(state.y * k(), bh, h)];
    [state.x, state.y] = [cx / k(), cy / k()];
    const snap = (v) => Math.round(v * ratio()) / ratio();
    const [left, top] = [snap(w / 2 - cx), snap(h / 2 - cy)];
    Object.assign(box.style, { width: `${bw}px`, height: `${bh}px`, left: `${left}px`, top: `${top}px` });
    const x0 = Math.max(0, Math.floor(-left / k()));
    const y0 = Math.max(0, Math.floor(-top / k()));
    const x1 = Math.min(width, Math.ceil((w - left) / k()));
    const y1 = Math.min(height, Math.ceil((h - top) / k()));
    visible = { x: x0, y: y0, width: Math.max(1, x1 - x0), height: Math.max(1, y1 - y0) };
    box.style.setProperty("--near", Math.max(1, bw / room.clientWidth));
    paint();
    map.show(visible, width, height);
  }

  function paint() {
    if (state.scale === null) return;
    const part = visible;
    const [w, h] = [Math.round(part.width * state.scale), Math.round(part.height * state.scale)];
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    Object.assign(canvas.style, { left: `${part.x * k()}px`, top: `${part.y * k()}px`, width: `${w / ratio()}px`, height: `${h / ratio()}px` });
    pen.clearRect(0, 0, w, h);
    if (!state.held) finished.paint(pen, part, state.scale);
    if (state.held || state.split !== null) {
      pen.save();
      pen.beginPath();
      pen.rect(0, 0, state.held ? w : Math.max(0, (state.split * width - part.x) * state.scale), h);
      pen.clip();
      others.paint(pen, part, state.scale);
      pen.restore();
    }
    if (state.beside) paintBeside(part, w, h);
  }
  function paintBeside(part, w, h) {
    const { canvas: own, of } = state.beside;
    if (own.width !== w || own.height !== h) [own.width, own.height] = [w, h];
    Object.assign(own.style, { width: `${w / ratio()}px`, height: `${h / ratio()}px` });
    if (shown !== of) return; // another is held for a moment
    const beside = penOf(own);
    beside.clearRect(0, 0, w, h);
    others.paint(beside, part, state.scale);
  }

  // --- asking for true pixels
  async function fetched(part, extra, moving = false) {
    const answer = await send(address, { ...asked(), ...extra, ...part, moving, space: SPACE });
    return createImageBitmap(await answer.blob());
  }
  let [busy, wanted, moving] = [false, false, false];
  let under = Promise.resolve();
  let strolling = true;
  // one request after the other; what is wanted meanwhile comes after it, and only the last of that
  function look(fast = false) {
    if (state.scale === null) return Promise.resolve();
    moving = fast;
    wanted = true;
    if (!busy) under = looking();
    return under;
  }
  async function looking() {
    busy = true;
    room.removeAttribute("data-close-rests");
    try {
      while (wanted && state.scale !== null) {
        wanted = false;
        const [part, of, quick] = [visible, state.turn, moving];
        const whole = `${of}${quick ? " quick" : ""}`;
        if (!finished.covers(part, `${of}`) && !finished.covers(part, whole)) finished.add(part, await fetched(part, {}, quick), whole);
        if (other() && !others.covers(part, shown)) {
          const of = shown;
          const bitmap = await fetched(part, JSON.parse(of));
          if (of === shown) others.add(part, bitmap, of);
        }
        paint();
        drawn(of);
        if (!wanted && !quick) {
          room.toggleAttribute("data-close-rests", true);
          if (strolling) ahead(part, of); // while values change, what lies beside would be made in vain
        }
      }
    } catch (error) {
      toast(error.message);
    } finally {
      busy = false;
    }
  }
  // what lies beside what is seen, while nothing else is wanted
  async function ahead(part, of) {
    const [dx, dy] = [Math.round(AHEAD * part.width), Math.round(AHEAD * part.height)];
    const more = { x: Math.max(0, part.x - dx), y: Math.max(0, part.y - dy) };
    more.width = Math.min(width, part.x + part.width + dx, more.x + 4096) - more.x;
    more.height = Math.min(height, part.y + part.height + dy, more.y + 4096) - more.y;
    const idle = () => !busy && !wanted && state.scale !== null && state.turn === of && visible === part;
    await new Promise((done) => { setTimeout(done, 250); });
    if (!idle() || finished.covers(more, `${of}`)) return;
    try {
      const bitmap = await fetched(more, {});
      if (state.turn === of && state.scale !== null) finished.add(more, bitmap, `${of}`);
      else bitmap.close();
      paint();
    } catch { /* it is asked for again when it is seen */ }
  }

  // --- near and far
  function to(scale, point = null) {
    const was = state.scale;
    const r = box.getBoundingClientRect();
    const [px, py] = point ?? [room.getBoundingClientRect().left + room.clientWidth / 2, room.getBoundingClientRect().top + room.clientHeight / 2];
    const [u, v] = [(px - r.left) / r.width, (py - r.top) / r.height];
    state.scale = scale;
    bar.querySelectorAll("[data-close]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.close === String(scale ?? "fit")));
    bar.querySelectorAll("[data-close-witnesses]").forEach((b) => { b.hidden = scale === null; });
    room.toggleAttribute("data-close-on", scale !== null);
    canvas.hidden = scale === null;
    if (scale === null) {
      Object.assign(box.style, { left: "", top: "" });
      box.style.removeProperty("--near");
      map.hide();
      finished.clear();
      others.clear();
      room.removeAttribute("data-close-rests");
      fit();
    } else {
      const middle = room.getBoundingClientRect();
      [state.x, state.y] = [u * width, v * height];
      if (point) { // what is under the pointer stays there
        state.x -= (px - middle.left - room.clientWidth / 2) / k();
        state.y -= (py - middle.top - room.clientHeight / 2) / k();
      }
      place();
      look();
    }
    if ((was === null) !== (scale === null)) seen(scale !== null);
  }
  function step(by, point) {
    const next = STEPS[STEPS.indexOf(state.scale) + by];
    if (next !== undefined && next !== state.scale) to(next, point);
  }
  function go(x, y) {
    if (state.scale === null) return;
    [state.x, state.y] = [x, y];
    strolling = true;
    place();
    look();
  }
  function by(dx, dy) {
    go(state.x - dx / k(), state.y - dy / k());
  }
  function face() {
    if (faces.length === 0) return toast("No face and no subject was found on this frame.");
    state.face = (state.face + 1) % faces.length;
    const [u, v] = faces[state.face];
    if (state.scale === null) to(1);
    go(u * width, v * height);
  }

  bar.addEventListener("click", (event) => {
    const near = event.target.closest("[data-close]")?.dataset.close;
    if (near) to(near === "fit" ? null : Number(near));
    if (event.target.closest('[data-close-go="face"]')) face();
  });
  watchMoves({ room, box, on: () => state.scale !== null, free, step, by, face, toggle: (point) => to(state.scale === null ? 1 : null, point) });
  window.addEventListener("resize", () => { if (state.scale !== null) { place(); look(); } });

  return {
    on: () => state.scale !== null,
    // something else is to be seen at the same place: `quick` while it still moves
    renew(quick = false) { state.turn += 1; strolling = false; return look(quick); },
    // `what` is how the other picture is asked for; without it, the original
    hold(on, what = null) {
      const next = on && what ? JSON.stringify(what) : on ? ORIGINAL : state.beside?.of ?? ORIGINAL;
      if (next !== shown) { others.clear(); shown = next; }
      state.held = Boolean(on);
      paint();
      if (other()) look();
    },
    // the other picture on a canvas of its own, at the same part; null ends it
    beside(own, what = null) {
      state.beside = own && { canvas: own, of: what ? JSON.stringify(what) : ORIGINAL };
      shown = state.beside?.of ?? ORIGINAL;
      others.clear();
      paint();
      look();
    },
    split(at) { state.split = at; paint(); if (at !== null) look(); },
    places: (list) => list.map(([u, v]) => [u * width, v * height]),
    go, to, place, look, face,
    // what of the frame is seen, in its pixels and as shares; null while all of it is
    part: () => (state.scale === null ? null : visible),
    seen: () => (state.scale === null ? null : { x: visible.x / width, y: visible.y / height, width: visible.width / width, height: visible.height / height }),
    where: () => (state.scale === null ? null : { scale: state.scale, u: state.x / width, v: state.y / height }),
    enter({ scale, u, v }) { to(scale); go(u * width, v * height); },
  };
}
