// The curve editor: points on a canvas over the histogram of the step's region, with numbers for the chosen point. The
// line itself comes from the server, as the renderer draws it.
import { send } from "../shared/api.js";

const APART = 0.01;
const SIDE = 440;
const EDGE = 14;
const INNER = SIDE - 2 * EDGE;

export function makeCurves(lanes, { live, set }) {
  let bins = null;
  const chosen = {}; // by path, so that it outlives renewed lanes
  const pointsOf = (box) => JSON.parse(box.dataset.points);
  const pick = (box) => Math.min(chosen[box.dataset.curve] ?? 0, pointsOf(box).length - 1);

  function put(box, points, done, which = pick(box)) {
    box.dataset.points = JSON.stringify(points);
    chosen[box.dataset.curve] = which;
    const rounded = points.map((p) => p.map((v) => Number(v.toFixed(4))));
    live(box.dataset.curve, rounded);
    if (done) set({ [box.dataset.curve]: rounded }, "the curve");
    draw(box);
    sample(box);
  }

  // the line through the points, asked for one at a time; what moved meanwhile is asked for after it
  const asking = new Set();
  async function sample(box) {
    const name = box.dataset.curve;
    if (asking.has(name)) return;
    asking.add(name);
    try {
      for (let points = null; points !== box.dataset.points;) {
        points = box.dataset.points;
        const { samples } = await (await send("/curve", { points: JSON.parse(points) })).json();
        box.dataset.samples = JSON.stringify(samples);
        draw(box);
      }
    } catch { /* a curve that can't be is told where it is set */ } finally {
      asking.delete(name);
    }
  }

  function moved(points, k, x, y) {
    const out = points.map((p) => [...p]);
    const low = k === 0 ? 0 : out[k - 1][0] + APART;
    const high = k === out.length - 1 ? 1 : out[k + 1][0] - APART;
    out[k] = [Math.min(Math.max(x, low), high), Math.min(Math.max(y, 0), 1)];
    return out;
  }

  function draw(box) {
    const canvas = box.querySelector("canvas");
    const pen = canvas.getContext("2d");
    const style = getComputedStyle(document.documentElement);
    const colour = (name) => style.getPropertyValue(name).trim();
    const points = pointsOf(box);
    const [px, py] = [(x) => EDGE + x * INNER, (y) => SIDE - EDGE - y * INNER];
    pen.clearRect(0, 0, SIDE, SIDE);
    pen.fillStyle = colour("--paper");
    pen.fillRect(EDGE, EDGE, INNER, INNER);
    if (bins) {
      const top = Math.max(...bins.slice(1, -1), 1e-6);
      pen.fillStyle = colour("--line");
      bins.forEach((v, i) => {
        const tall = Math.min(v / top, 1) * INNER * 0.8;
        pen.fillRect(px(i / bins.length), SIDE - EDGE - tall, INNER / bins.length + 0.5, tall);
      });
    }
    pen.strokeStyle = colour("--quiet");
    pen.globalAlpha = 0.5;
    pen.setLineDash([2, 6]);
    pen.beginPath();
    for (const t of [1 / 3, 2 / 3]) { pen.moveTo(px(t), py(0)); pen.lineTo(px(t), py(1)); pen.moveTo(px(0), py(t)); pen.lineTo(px(1), py(t)); }
    pen.moveTo(px(0), py(0));
    pen.lineTo(px(1), py(1));
    pen.stroke();
    pen.setLineDash([]);
    pen.globalAlpha = 1;
    pen.strokeStyle = colour("--ink");
    pen.lineWidth = 3;
    pen.beginPath();
    const samples = JSON.parse(box.dataset.samples);
    samples.forEach((v, i) => pen.lineTo(px(i / (samples.length - 1)), py(v)));
    pen.stroke();
    points.forEach(([x, y], i) => {
      pen.beginPath();
      pen.rect(px(x) - 8, py(y) - 8, 16, 16);
      pen.fillStyle = i === pick(box) ? colour("--kelp") : colour("--sheet");
      pen.fill();
      pen.stroke();
    });
    const k = pick(box);
    box.querySelector("[data-curve-which]").textContent = `Point ${k + 1} of ${points.length}`;
    box.querySelectorAll("[data-curve-number]").forEach((field, axis) => { if (field !== document.activeElement) field.value = Number((100 * points[k][axis]).toFixed(1)); });
  }

  const place = (canvas, event) => {
    const r = canvas.getBoundingClientRect();
    const scale = SIDE / r.width;
    return [((event.clientX - r.left) * scale - EDGE) / INNER, 1 - ((event.clientY - r.top) * scale - EDGE) / INNER];
  };

  lanes.addEventListener("pointerdown", (event) => {
    const canvas = event.target.closest("[data-curve] canvas");
    if (!canvas) return;
    const box = canvas.closest("[data-curve]");
    const [x, y] = place(canvas, event);
    let points = pointsOf(box);
    let k = points.findIndex((p) => Math.hypot(p[0] - x, p[1] - y) < 0.05);
    if (k < 0) {
      if (points.length >= 12) return;
      k = points.findIndex((p) => p[0] > x);
      if (k < 0) k = points.length;
      const before = k > 0 ? points[k - 1][0] + APART : 0;
      const after = k < points.length ? points[k][0] - APART : 1;
      if (before > after) return;
      const at = Math.min(Math.max(x, before), after);
      points = [...points.slice(0, k), [at, Math.min(Math.max(y, 0), 1)], ...points.slice(k)];
    }
    canvas.setPointerCapture(event.pointerId);
    put(box, points, false, k);
    let off = false;
    const move = (e) => {
      const [u, v] = place(canvas, e);
      off = points.length > 2 && (u < -0.12 || u > 1.12 || v < -0.12 || v > 1.12);
      const shown = off ? points.filter((_, i) => i !== k) : moved(points, k, u, v);
      if (!off) points = shown;
      put(box, shown, false, off ? Math.max(k - 1, 0) : k);
    };
    const up = () => {
      canvas.removeEventListener("pointermove", move);
      canvas.removeEventListener("pointerup", up);
      put(box, pointsOf(box), true);
    };
    canvas.addEventListener("pointermove", move);
    canvas.addEventListener("pointerup", up);
  });

  function act(box, what) {
    const points = pointsOf(box);
    const k = pick(box);
    if (what === "next") { chosen[box.dataset.curve] = (k + 1) % points.length; return draw(box); }
    if (what === "previous") { chosen[box.dataset.curve] = (k + points.length - 1) % points.length; return draw(box); }
    if (what === "straight") return put(box, [[0, 0], [1, 1]], true, 0);
    if (what === "remove" && points.length > 2) return put(box, points.filter((_, i) => i !== k), true, Math.max(k - 1, 0));
  }
  lanes.addEventListener("click", (event) => {
    const button = event.target.closest("[data-curve-do]");
    if (button) act(button.closest("[data-curve]"), button.dataset.curveDo);
  });
  lanes.addEventListener("keydown", (event) => {
    const canvas = event.target.closest("[data-curve] canvas");
    if (!canvas) return;
    const box = canvas.closest("[data-curve]");
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    const what = { n: "next", p: "previous", Delete: "remove", Backspace: "remove" }[event.key];
    if (!by && !what) return;
    event.preventDefault();
    event.stopPropagation();
    if (what) return act(box, what);
    const step = event.shiftKey ? 0.002 : 0.01;
    const points = pointsOf(box);
    const k = pick(box);
    put(box, moved(points, k, points[k][0] + step * by[0], points[k][1] + step * by[1]), true, k);
  });
  lanes.addEventListener("change", (event) => {
    const field = event.target.closest("[data-curve-number]");
    if (!field) return;
    const box = field.closest("[data-curve]");
    const points = pointsOf(box);
    const k = pick(box);
    const to = [...points[k]];
    const axis = Number(field.dataset.curveNumber);
    if (field.value === "") return; // nothing typed changes nothing
    to[axis] = Number(field.value) / 100;
    const held = moved(points, k, ...to);
    put(box, held, true, k);
    field.value = Number((100 * held[k][axis]).toFixed(1));
  });

  const drawAll = () => lanes.querySelectorAll(".lane[data-open] [data-curve]").forEach(draw);
  return { show: drawAll, bins(found) { bins = found; drawAll(); } };
}
