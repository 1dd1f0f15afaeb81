// Tools that work on the key frame itself: draw a shape, pick an object, take a colour, paint. One at a time; Escape
// puts it away. The tool stays in hand when the lanes are renewed.
import { anchored } from "./anchors.js";
import { send, toast } from "../shared/api.js";
import { drawnShape } from "./handles.js";
import { follow, placeOn, TYPING } from "../shared/pointer.js";
import { make } from "../shared/svg.js";

const MOST_POINTS = 3900;
const sized = (v) => Math.min(60, Math.max(0.5, Number(v.toFixed(1))));
const brush = { size: 8, hardness: 30, opacity: 100, flow: 60, mode: "add", edge_aware: false, shown: false };
try { Object.assign(brush, JSON.parse(localStorage.getItem("brush") ?? "{}"), { mode: "add" }); } catch { /* storage may be closed */ }

// `bench` gives: overlay, height, facts, base, frame(), lanes, edit(op, values), write(path, values, done), partValues(part)
export function makeTools(bench) {
  const { overlay, height, facts, lanes } = bench;
  let tool = null; // { name, step, part }
  let ended = null; // where the last stroke ended, and of which part
  let preparing = 0;

  const part = () => tool && lanes.querySelector(`#lane-${tool.step} [data-part][data-id="${tool.part}"]`);
  const place = (event) => placeOn(overlay, event);

  function take(name, element) {
    const owner = element.closest("[data-part]");
    const next = { name, step: element.closest(".lane").dataset.step, part: owner.dataset.id };
    tool = tool && tool.name === next.name && tool.step === next.step && tool.part === next.part ? null : next;
    show();
  }

  function show() {
    if (tool && (!part() || !part().closest(".lane[data-open]"))) tool = null;
    overlay.dataset.tool = tool?.name ?? "";
    for (const button of lanes.querySelectorAll("[data-tool]")) {
      const own = button.closest("[data-part]");
      const on = tool && button.dataset.tool === tool.name && own.dataset.id === tool.part && own.closest(".lane").dataset.step === tool.step;
      button.setAttribute("aria-pressed", Boolean(on));
    }
    lanes.querySelectorAll("[data-brush-number]").forEach((field) => { field.value = brush[field.dataset.brushNumber]; });
    lanes.querySelectorAll("[data-brush-tick]").forEach((field) => { field.checked = brush[field.dataset.brushTick]; });
    lanes.querySelectorAll("[data-stroke]").forEach((button) => button.setAttribute("aria-pressed", button.dataset.stroke === brush.mode));
    lanes.querySelectorAll(".sample").forEach((patch) => { patch.style.background = patch.dataset.colour; });
    clear("preview");
    cursor(null);
    strokes();
    clearTimeout(preparing);
    if (tool?.name === "brush") preparing = setTimeout(prepare, 250);
  }

  // what is on its way may be the part's own end: it is asked for when that is known
  function prepare() {
    if (tool?.name !== "brush" || !part()) return;
    if ("busy" in document.documentElement.dataset) { preparing = setTimeout(prepare, 100); return; }
    bench.painted.ready(tool.step, tool.part, brush.mode === "erase");
  }

  const clear = (name) => overlay.querySelectorAll(`.${name}`).forEach((old) => old.remove());
  const keep = () => { try { localStorage.setItem("brush", JSON.stringify(brush)); } catch { /* storage may be closed */ } };

  // --- the brush: its ring, its stroke while it is drawn, and what was painted before
  const anchorOf = (element) => anchored(element.querySelector("[data-anchor]")?.value ?? "frame", facts);
  function long(anchor) { return Math.max(1000 * anchor.scale[0], height * anchor.scale[1]); }
  function cursor(event) {
    clear("ring");
    if (!event || tool?.name !== "brush" || !part()) return;
    const [x, y] = place(event);
    const r = (brush.size / 200) * long(anchorOf(part()));
    for (const name of ["ring ring-casing", `ring ring-${brush.mode}`]) make("circle", { class: name, cx: 1000 * x, cy: height * y, r }, overlay);
  }
  async function strokes() {
    clear("painted");
    const lane = lanes.querySelector(".lane[data-open]");
    if (!brush.shown || !lane?.querySelector('[data-part="brush"]')) return;
    const group = make("g", { class: "painted" }, overlay);
    const found = await (await send(`${bench.base}/strokes`, { step: lane.dataset.step })).json();
    for (const { anchor, points, size, erase } of found.strokes) {
      const a = anchored(anchor, facts);
      const path = points.map(([u, v]) => { const [x, y] = a.from(u, v); return `${(1000 * x).toFixed(1)} ${(height * y).toFixed(1)}`; });
      make("path", { class: erase ? "stroke stroke-erase" : "stroke", d: `M${path.join("L")}${path.length === 1 ? "h0.1" : ""}`, "stroke-width": size * long(a) }, group);
    }
  }

  // from the end of the stroke before, where Shift is held: a straight line
  function paint(event) {
    const owner = part();
    const anchor = anchorOf(owner);
    const here = anchor.to(...place(event));
    const points = event.shiftKey && ended?.part === tool.part ? [ended.at, here] : [here];
    const pressures = [];
    const erasing = brush.mode === "erase";
    bench.painted.begin(tool.step, tool.part, brush, long(anchor) / 1000);
    points.forEach((p) => bench.painted.move(...anchor.from(...p)));
    const preview = make("path", { class: `preview stroke ${brush.mode === "erase" ? "stroke-erase" : ""}`, "stroke-width": (brush.size / 100) * long(anchor) }, overlay);
    const draw = () => preview.setAttribute("d", `M${points.map(([u, v]) => { const [x, y] = anchor.from(u, v); return `${1000 * x} ${height * y}`; }).join("L")}${points.length === 1 ? "h0.1" : ""}`);
    draw();
    const move = (e) => {
      cursor(e);
      for (const each of e.getCoalescedEvents?.().length ? e.getCoalescedEvents() : [e]) {
        const next = anchor.to(...place(each));
        const last = points[points.length - 1];
        if (each.pointerType === "pen" && each.pressure > 0) pressures.push(each.pressure);
        if (Math.hypot(next[0] - last[0], next[1] - last[1]) <= 0.004) continue;
        if (points.length >= MOST_POINTS) points.splice(0, points.length, ...points.filter((_, i) => i % 2 === 0 || i > points.length - 3)); // coarser, and whole
        points.push(next);
        bench.painted.move(...place(each));
      }
      draw();
    };
    const { step, part: of } = tool;
    follow(overlay, event, move, () => {
      const round = (v) => Number(Math.min(5, Math.max(-4, v)).toFixed(4));
      // a pen lays on more where it is pressed harder; half of its range is the flow that was set
      const press = pressures.length ? Math.min(2, (2 * pressures.reduce((a, b) => a + b, 0)) / pressures.length) : 1;
      ended = { part: of, at: points[points.length - 1] };
      bench.painted.end();
      const stroke = {
        points: points.map((p) => p.map(round)), size: brush.size / 100, hardness: brush.hardness / 100, opacity: brush.opacity / 100,
        flow: Math.min(1, Math.max(0.02, (brush.flow / 100) * press)), erase: erasing, edge_aware: brush.edge_aware,
      };
      bench.edit("stroke", { step, part: of, stroke });
    });
  }

  // a drag with Alt held makes the brush larger and smaller
  function resize(event) {
    const [from, was] = [event.clientX, brush.size];
    const move = (e) => {
      brush.size = sized(was * 1.01 ** (e.clientX - from));
      cursor(event);
    };
    follow(overlay, event, move, () => { keep(); show(); });
  }

  // --- drawing a shape anew
  function draw(event) {
    const owner = part();
    const kind = owner.dataset.part;
    const path = owner.dataset.partPath;
    const values = bench.partValues(owner);
    const start = place(event);
    let last = null;
    const move = (e) => {
      const to = place(e);
      if (Math.hypot(to[0] - start[0], to[1] - start[1]) < 0.01) return;
      last = drawnShape(kind, values, facts, height, [1000 * start[0], height * start[1]], [1000 * to[0], height * to[1]], { shift: e.shiftKey });
      bench.write(path, last, false);
    };
    follow(overlay, event, move, () => {
      if (!last) return;
      bench.write(path, last, true);
      tool = null;
      show();
    });
  }

  // --- hovering for what a click would take
  let hovering = false;
  let outlined = 0;
  async function hover(event) {
    if (hovering) return;
    hovering = true;
    const [x, y] = place(event);
    try {
      const found = await (await send(`${bench.base}/outline`, { frame: bench.frame(), x: Math.min(1, Math.max(0, x)), y: Math.min(1, Math.max(0, y)) })).json();
      if (tool?.name === "pick" && found.label !== outlined) {
        clear("preview");
        if (found.path) make("path", { class: "preview would-take", d: found.path }, overlay);
        overlay.dataset.takes = found.kind;
        outlined = found.label;
      }
    } catch { /* the next move asks again */ }
    hovering = false;
  }

  overlay.addEventListener("pointerdown", (event) => {
    if (!tool || !part() || event.target.closest(".handle")) return;
    event.preventDefault();
    const [x, y] = place(event);
    const { name, step, part: of } = tool;
    if (name === "brush" && event.altKey) resize(event);
    else if (name === "brush") paint(event);
    else if (name === "draw") draw(event);
    else if (name === "pick") bench.edit("add-pick", { step, part: of, frame: bench.frame(), x, y, away: event.altKey });
    else bench.edit("add-sample", { step, part: of, frame: bench.frame(), x, y });
  });
  overlay.addEventListener("pointermove", (event) => {
    if (tool?.name === "pick") hover(event);
    if (tool?.name === "brush" && !event.buttons) cursor(event);
  });
  overlay.addEventListener("pointerleave", () => { cursor(null); if (tool?.name === "pick") { clear("preview"); outlined = 0; } });

  lanes.addEventListener("click", (event) => {
    const button = event.target.closest("[data-tool], [data-stroke], [data-to-frame], [data-only-here]");
    if (!button) return;
    if (button.dataset.tool) return take(button.dataset.tool, button);
    const { onlyHere } = button.dataset;
    if (onlyHere) return bench.edit("only-here", { step: button.closest(".lane").dataset.step, part: onlyHere, frame: bench.frame() });
    if (button.dataset.toFrame) {
      drop(); // its brush goes with the strokes: nothing is shown of it under the hand any more
      return bench.edit("move-to-frame", { step: button.closest(".lane").dataset.step, part: button.dataset.toFrame, frame: bench.frame() });
    }
    brush.mode = button.dataset.stroke;
    show();
  });
  lanes.addEventListener("change", (event) => {
    const { brushNumber, brushTick } = event.target.dataset;
    if (brushNumber) brush[brushNumber] = Math.min(Number(event.target.max), Math.max(Number(event.target.min), Number(event.target.value) || Number(event.target.min)));
    if (brushTick) brush[brushTick] = event.target.checked;
    if (brushNumber || brushTick) { keep(); show(); }
  });
  document.addEventListener("keydown", (event) => {
    if (!tool || event.target.closest?.(TYPING)) return;
    if (event.key === "Escape") { tool = null; show(); }
    if (tool?.name !== "brush" || event.ctrlKey || event.metaKey) return;
    if (event.key === "-" || event.key === "+" || event.key === "=") {
      brush.size = sized(brush.size * (event.key === "-" ? 0.85 : 1.18));
      keep();
      show();
    } else if (/^[0-9]$/.test(event.key)) {
      brush.opacity = event.key === "0" ? 100 : 10 * Number(event.key);
      keep();
      show();
    } else if (event.key.toLowerCase() === "e") {
      brush.mode = brush.mode === "add" ? "erase" : "add";
      show();
    }
  });
  show();
  const drop = () => { tool = null; show(); };
  return { show, take, drop, active: () => tool?.name ?? null };
}
