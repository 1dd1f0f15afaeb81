// Cleaning up a frame: a stroke heals, covers from elsewhere, or takes stray colour out; seen near and far.
import { send, toast, told } from "../shared/api.js";
import { TYPING, follow, placeOn } from "../shared/pointer.js";
import { make } from "../shared/svg.js";

const SETTLE = 500; // ms of rest after which the finished picture is asked for
const MASKS = 5000; // ms after which masks that were found anew are there, as a rule
const [STEP, FINE] = [0.02, 0.004]; // how far an arrow moves the brush, as a share of the frame
const brush = { size: 2, soft: 30, strength: 100 };
try { Object.assign(brush, JSON.parse(localStorage.getItem("clean-brush") ?? "{}")); } catch { /* storage may be closed */ }

// `bar` holds the controls, `box` the picture with an svg in it; `seen` shows true pixels anew, `settled` is called at rest
export function makeClean({ bar, box, ratio, seen, settled }) {
  const { address } = bar.dataset;
  const svg = box.querySelector("[data-clean-overlay]");
  const height = 1000 / ratio;
  const at = (name) => bar.querySelector(`[data-clean="${name}"]`);
  const state = { on: false, tool: "heal", source: null, offset: null, at: null, from: null };
  let [open, timer, waiting] = [0, 0, Promise.resolve()];

  const clear = (name) => svg.querySelectorAll(`.${name}`).forEach((old) => old.remove());
  const radius = () => (brush.size / 200) * Math.max(1000, height);
  const circle = (css, [x, y], r = radius()) => make("circle", { class: css, cx: 1000 * x, cy: height * y, r }, svg);
  function ring(place) {
    clear("ring");
    if (!place || !state.on) return;
    for (const css of ["ring ring-casing", "ring"]) circle(css, place);
    if (state.tool !== "clone" || at("frame").value) return;
    const from = state.offset ? [place[0] + state.offset[0], place[1] + state.offset[1]] : state.source;
    if (from) for (const css of ["ring ring-casing ring-erase", "ring ring-erase"]) circle(css, from);
  }

  function ask(path, body) {
    open += 1;
    clearTimeout(timer);
    bar.setAttribute("aria-busy", "true");
    waiting = waiting.then(async () => {
      try {
        show(await (await send(`${address}${path}`, body)).json());
      } catch (error) { toast(error.message); }
      open -= 1;
      if (open > 0) return;
      bar.removeAttribute("aria-busy");
      clear("stroke");
      seen();
      timer = setTimeout(settled, SETTLE);
    });
  }
  function show(now) {
    if (now) {
      at("undo").disabled = !now.undo;
      at("redo").disabled = !now.redo;
      at("another").disabled = !now.another;
      at("masks").disabled = !now.masks;
      bar.querySelector("[data-clean-told]").textContent = now.words;
    }
    for (const button of bar.querySelectorAll("[data-clean-tool]")) button.setAttribute("aria-pressed", button.dataset.cleanTool === state.tool);
    for (const part of bar.querySelectorAll("[data-clean-for]")) part.hidden = part.dataset.cleanFor !== state.tool;
    for (const name of ["size", "soft", "strength"]) at(name).value = brush[name];
    svg.dataset.tool = "brush";
    ring(state.at);
    try { localStorage.setItem("clean-brush", JSON.stringify(brush)); } catch { /* storage may be closed */ }
  }

  const round = (v) => Number(Math.min(1.1, Math.max(-0.1, v)).toFixed(5));
  function mark(points) {
    const one = { kind: state.tool, points: thinned(points).map((p) => p.map(round)), size: brush.size / 100, soft: brush.soft / 100, strength: brush.strength / 100 };
    if (state.tool === "clone") {
      const [across, down] = state.offset ?? [0, 0];
      Object.assign(one, { across, down, turn: Number(at("turn").value), scale: Number(at("scale").value) / 100, joined: at("joined").checked, frame: at("frame").value });
      if (one.frame) [one.across, one.down] = [0, 0];
    }
    ask("", { marks: [one] });
  }
  // at most so many points as the server takes, evenly
  function thinned(points) {
    const every = Math.ceil(points.length / 380);
    return points.filter((_, i) => i % every === 0 || i === points.length - 1);
  }
  function sourceAt(place) {
    state.source = place;
    state.offset = null;
    bar.querySelector("[data-clean-source]").textContent = "Now paint where it should go";
    ring(state.at);
  }
  // the first stroke after a source was chosen says how far away it lies; later strokes keep that
  function ready(place) {
    if (state.tool !== "clone" || at("frame").value) return true;
    if (!state.source) { toast("Say first where to take it from: hold Alt and click there."); return false; }
    state.offset ??= [state.source[0] - place[0], state.source[1] - place[1]];
    return true;
  }

  function paint(event) {
    const place = placeOn(svg, event);
    if (event.altKey && event.shiftKey) return speck(place);
    if (event.altKey && state.tool === "clone") return sourceAt(place);
    const started = brush.size;
    if (event.shiftKey) {
      return follow(svg, event, (e) => {
        brush.size = Math.min(40, Math.max(0.2, Number((started * 2 ** ((e.clientX - event.clientX) / 120)).toFixed(2))));
        at("size").value = brush.size;
        ring(place);
      }, () => show());
    }
    if (!ready(place)) return undefined;
    const points = [place];
    const line = make("path", { class: "stroke", "stroke-width": 2 * radius() }, svg);
    const draw = () => line.setAttribute("d", `M${[...points, points[points.length - 1]].map(([x, y]) => `${(1000 * x).toFixed(1)} ${(height * y).toFixed(1)}`).join("L")}`);
    draw();
    return follow(svg, event, (e) => {
      for (const each of e.getCoalescedEvents?.().length ? e.getCoalescedEvents() : [e]) {
        const next = placeOn(svg, each);
        const last = points[points.length - 1];
        if (Math.hypot(next[0] - last[0], next[1] - last[1]) > 0.0015) points.push(next);
      }
      draw();
      ring(points[points.length - 1]);
    }, () => mark(points));
  }
  // dust that the search overlooked: known from now on for every frame of this camera
  async function speck([x, y]) {
    try {
      await send(bar.dataset.dust, { x, y });
      told("Noted as dust of this camera. Heal it on the shoot’s page of dust.");
    } catch (error) { toast(error.message); }
  }

  svg.addEventListener("pointerdown", (event) => {
    if (!state.on || event.button !== 0) return;
    event.preventDefault();
    paint(event);
  });
  svg.addEventListener("pointermove", (event) => {
    if (!state.on || event.buttons) return;
    state.at = placeOn(svg, event);
    ring(state.at);
  });
  svg.addEventListener("pointerleave", () => { state.at = null; ring(null); });

  bar.addEventListener("click", (event) => {
    const button = event.target.closest("button");
    if (button?.dataset.cleanTool) { state.tool = button.dataset.cleanTool; show(); }
    const { clean } = button?.dataset ?? {};
    if (clean === "undo" || clean === "redo") ask("/back", { what: clean });
    if (clean === "masks") { ask("/masks", {}); told("Its masks are being found on the cleaned picture."); setTimeout(settled, MASKS); }
    if (clean === "another") ask("/back", { what: "another source" });
  });
  bar.addEventListener("input", (event) => {
    const name = event.target.dataset.clean;
    if (name in brush && Number.isFinite(event.target.valueAsNumber)) {
      const { min, max } = event.target;
      brush[name] = Math.min(Number(max), Math.max(Number(min), event.target.valueAsNumber));
    }
    if (event.type === "change") show();
  });
  bar.addEventListener("change", () => show());

  // the brush by keys, once the picture has the focus
  svg.addEventListener("keydown", (event) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!way && event.key !== "Enter" && event.key.toLowerCase() !== "a") return;
    if (event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    event.stopPropagation();
    state.at ??= [0.5, 0.5];
    if (way) {
      const far = event.shiftKey ? FINE : STEP;
      state.at = [state.at[0] + way[0] * far, state.at[1] + way[1] * far * ratio].map((v) => Math.min(1, Math.max(0, v)));
      ring(state.at);
    } else if (event.key === "Enter") {
      if (ready(state.at)) mark([state.at]);
    } else if (state.tool === "clone") sourceAt(state.at);
  });
  document.addEventListener("keydown", (event) => {
    if (!state.on || event.target.closest?.(TYPING)) return;
    const key = event.key.toLowerCase();
    if ((event.ctrlKey || event.metaKey) && key === "z") {
      event.preventDefault();
      return ask("/back", { what: event.shiftKey ? "redo" : "undo" });
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return undefined;
    const tool = { h: "heal", c: "clone", k: "colour" }[key];
    if (tool) { state.tool = tool; show(); }
    else if (key === "s" && !at("another").disabled) ask("/back", { what: "another source" });
    else if (key === "[" || key === "]" || key === "," || key === ".") {
      brush.size = Math.min(40, Math.max(0.2, Number((brush.size * (key === "]" || key === "." ? 1.18 : 0.85)).toFixed(2))));
      show();
    } else if (/^[0-9]$/.test(key)) { brush.strength = key === "0" ? 100 : 10 * Number(key); show(); }
    return undefined;
  });

  async function toggle(on = !state.on) {
    state.on = on;
    bar.hidden = !on;
    svg.classList.toggle("hidden", !on);
    svg.toggleAttribute("data-off", !on);
    if (!on) return ring(null);
    try { show(await (await fetch(address, { cache: "no-store" })).json()); } catch (error) { toast(error.message); }
    return undefined;
  }
  return { toggle, on: () => state.on, rest: () => waiting };
}
