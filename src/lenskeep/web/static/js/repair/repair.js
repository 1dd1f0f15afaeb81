// Repairing a frame's masks: the mask as a tint over the picture, a brush, a click on an object, an outline.
import { TYPING, follow, placeOn } from "../shared/pointer.js";
import { send, toast } from "../shared/api.js";
import { make } from "../shared/svg.js";
import { offer } from "./carry.js";
import { makeOutline } from "./outline.js";
import { makeTint } from "./tint.js";

const TINT = [216, 27, 96];
const SWEPT = 0.012; // a click that moves further than this share of the frame is a sweep
const SETTLE = 450; // ms of rest after which the finished picture is asked for
const brush = { size: 6, hardness: 60, opacity: 100, edges: true };
try { Object.assign(brush, JSON.parse(localStorage.getItem("repair-brush") ?? "{}")); } catch { /* storage may be closed */ }

// `bar` holds the controls; `box` the picture, with a canvas and an svg in it; `settled` is called when repairs rest
export function makeRepair({ bar, box, address, ratio, settled }) {
  const canvas = box.querySelector("[data-repair-tint]");
  const svg = box.querySelector("[data-repair-overlay]");
  const height = 1000 / ratio;
  const tint = makeTint(canvas, ratio, TINT);
  const at = (name) => bar.querySelector(`[data-repair="${name}"]`);
  const state = { on: false, tool: "brush", away: false, changed: false, next: null };
  let waiting = Promise.resolve();
  let open = 0;
  let timer = 0;

  const mask = () => at("mask").value;
  const place = (event) => placeOn(svg, event);
  const clear = (name) => svg.querySelectorAll(`.${name}`).forEach((old) => old.remove());
  const outline = makeOutline(svg, height, (points) => ask("", { repair: { kind: "outlined", mask: mask(), away: state.away, points } }));

  // --- asking the server, one thing after the other
  function ask(path, body) {
    open += 1;
    state.changed = true;
    clearTimeout(timer);
    waiting = waiting.then(async () => {
      try {
        show(await (await send(`${address}/repairs${path}`, body)).json());
      } catch (error) {
        toast(error.message);
      }
      open -= 1;
      if (open > 0) return;
      await load();
      timer = setTimeout(settled, SETTLE);
    });
  }
  async function load() {
    try { await tint.load(`${address}/masks/${mask()}.png`); } catch (error) { toast(error.message); }
  }

  // --- what the controls say
  function show(now) {
    if (now) {
      at("undo").disabled = !now.undo;
      at("redo").disabled = !now.redo;
      if (at("carry")) at("carry").disabled = !now.undo;
      state.byHand = now.byHand;
      state.next = now.nextDoubtful;
    }
    at("as-found").disabled = !(state.byHand ?? []).includes(mask());
    for (const button of bar.querySelectorAll("[data-repair-tool]")) button.setAttribute("aria-pressed", button.dataset.repairTool === state.tool);
    for (const button of bar.querySelectorAll("[data-repair-way]")) button.setAttribute("aria-pressed", (button.dataset.repairWay === "away") === state.away);
    for (const part of bar.querySelectorAll("[data-repair-for]")) part.hidden = part.dataset.repairFor !== state.tool;
    at("size").value = brush.size;
    at("opacity").value = brush.opacity;
    at("edges").checked = brush.edges;
    svg.dataset.tool = state.tool;
    clear("would-take");
    ring(null);
    if (state.tool !== "outline") outline.drop();
    try { localStorage.setItem("repair-brush", JSON.stringify(brush)); } catch { /* storage may be closed */ }
  }
  function ring(event) {
    clear("ring");
    if (!event || state.tool !== "brush" || !state.on) return;
    const [x, y] = place(event);
    const r = (brush.size / 200) * Math.max(1000, height);
    for (const name of ["ring ring-casing", `ring ring-${state.away ? "erase" : "add"}`]) make("circle", { class: name, cx: 1000 * x, cy: height * y, r }, svg);
  }
  function resize(by) {
    brush.size = Math.min(60, Math.max(0.4, Number((brush.size * by).toFixed(2))));
    show();
  }

  // --- the brush; with Shift held, dragging makes it larger or smaller
  function paint(event) {
    const started = brush.size;
    if (event.shiftKey) {
      follow(svg, event, (e) => {
        brush.size = Math.min(60, Math.max(0.4, Number((started * 2 ** ((e.clientX - event.clientX) / 120)).toFixed(2))));
        at("size").value = brush.size;
        ring(event);
      }, () => show());
      return;
    }
    const away = state.away !== event.altKey;
    const how = { size: brush.size / 100, hardness: brush.hardness / 100, opacity: brush.opacity / 100, away };
    const points = [place(event)];
    tint.dab(points[0], points[0], how);
    const move = (e) => {
      ring(e);
      for (const each of e.getCoalescedEvents?.().length ? e.getCoalescedEvents() : [e]) {
        const next = place(each);
        const last = points[points.length - 1];
        if (Math.hypot(next[0] - last[0], next[1] - last[1]) < 0.002 || points.length > 590) continue;
        tint.dab(last, next, how);
        points.push(next);
      }
    };
    const round = (v) => Number(Math.min(1.5, Math.max(-0.5, v)).toFixed(4));
    follow(svg, event, move, () => ask("", {
      repair: {
        kind: "painted", mask: mask(), away, points: points.map((p) => p.map(round)), size: how.size,
        hardness: how.hardness, opacity: how.opacity, edge_aware: brush.edges,
      },
    }));
  }

  // --- a click takes what is under it; dragged, all that it crosses and what is like that
  function take(event, [x, y]) {
    const away = state.away !== event.altKey;
    const points = [[x, y]];
    const round = (v) => Number(Math.min(1, Math.max(0, v)).toFixed(4));
    clear("would-take");
    follow(svg, event, (e) => {
      points.push(place(e));
      if (points.length > 590) points.splice(1, 1);
      clear("sweep");
      const d = `M${points.map(([u, v]) => `${(1000 * u).toFixed(1)} ${(height * v).toFixed(1)}`).join("L")}`;
      for (const name of ["guide-casing", "guide"]) make("path", { class: `sweep ${name}`, d }, svg);
    }, () => {
      clear("sweep");
      const far = points.some(([u, v]) => Math.hypot(u - x, v - y) > SWEPT);
      if (far) return ask("", { repair: { kind: "swept", mask: mask(), away, points: points.map((p) => p.map(round)) } });
      return ask("", { repair: { kind: "clicked", mask: mask(), away, x: round(x), y: round(y), alone: at("alone").checked } });
    });
  }

  // --- what a click would take
  let hovering = false;
  async function hover(event) {
    if (hovering) return;
    hovering = true;
    const [x, y] = place(event).map((v) => Math.min(1, Math.max(0, v)));
    try {
      const found = await (await send(`${address}/piece`, {
        x, y, mask: mask(), away: state.away !== event.altKey, alone: at("alone").checked,
      })).json();
      clear("would-take");
      if (state.tool === "click" && found.path) make("path", { class: "would-take", d: found.path }, svg);
    } catch { /* the next move asks again */ }
    hovering = false;
  }

  svg.addEventListener("pointerdown", (event) => {
    if (!state.on || event.button !== 0) return;
    event.preventDefault();
    const [x, y] = place(event);
    if (state.tool === "brush") paint(event);
    else if (state.tool === "outline") outline.add([x, y]);
    else take(event, [x, y]);
  });
  svg.addEventListener("pointermove", (event) => {
    if (!state.on) return;
    if (state.tool === "brush" && !event.buttons) ring(event);
    if (state.tool === "click" && !event.buttons) hover(event);
    if (state.tool === "outline") outline.follow(place(event));
  });
  svg.addEventListener("pointerleave", () => { ring(null); clear("would-take"); });
  svg.addEventListener("dblclick", () => outline.close());

  bar.addEventListener("click", (event) => {
    const button = event.target.closest("button");
    if (!button) return;
    if (button.dataset.repairTool) { state.tool = button.dataset.repairTool; show(); }
    if (button.dataset.repairWay) { state.away = button.dataset.repairWay === "away"; show(); }
    if (button.dataset.repair === "none") ask("", { repair: { kind: "emptied", mask: mask() } });
    if (button.dataset.repair === "undo") ask("/back", { what: "undo" });
    if (button.dataset.repair === "redo") ask("/back", { what: "redo" });
    if (button.dataset.repair === "carry") offer(address);
    if (button.dataset.repair === "as-found") ask("/back", { what: "as found", mask: mask() });
  });
  bar.addEventListener("input", (event) => {
    if (event.target === at("size")) brush.size = Number(at("size").value);
    if (event.target === at("opacity")) brush.opacity = Number(at("opacity").value);
    if (event.target === at("edges")) brush.edges = at("edges").checked;
    show();
  });
  at("mask").addEventListener("change", () => { load(); show(); at("mask").blur(); });

  document.addEventListener("keydown", (event) => {
    if (!state.on || event.target.closest?.(TYPING)) return;
    const key = event.key.toLowerCase();
    if ((event.ctrlKey || event.metaKey) && key === "z") {
      event.preventDefault();
      return ask("/back", { what: event.shiftKey ? "redo" : "undo" });
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (key === "-") resize(0.85);
    else if (key === "+" || key === "=") resize(1.18);
    else if (/^[0-9]$/.test(key)) { brush.opacity = key === "0" ? 100 : 10 * Number(key); show(); }
    else if (key === "e") { state.away = !state.away; show(); }
    else if (key === "b" || key === "c" || key === "o") { state.tool = { b: "brush", c: "click", o: "outline" }[key]; show(); }
    else if (key === "enter" && outline.drawing()) outline.close();
    else if (key === "backspace" && outline.drawing()) outline.back();
    else if (key === "escape" && outline.drawing()) outline.drop();
  });

  async function toggle(on = !state.on) {
    state.on = on;
    bar.hidden = canvas.hidden = !on;
    svg.classList.toggle("hidden", !on);
    show();
    if (!on) return;
    await load();
    show(await (await fetch(`${address}/repairs`, { cache: "no-store" })).json());
  }
  return { toggle, on: () => state.on, changed: () => state.changed, next: () => state.next, rest: () => waiting, busy: () => outline.drawing() };
}
