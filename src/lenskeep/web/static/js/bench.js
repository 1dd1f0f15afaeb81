// The Bench: sends what moves under the finger, paints the key frame at once and the witnesses right after.
import { watchAdjustments } from "./adjustments.js";
import { send, toast } from "./api.js";
import { makeCurves } from "./curve.js";
import { makeDivider, whileSpace } from "./divider.js";
import { clearHandles, drawHandles, isDrawn } from "./handles.js";
import { makeMeasures } from "./measures.js";
import { Picture } from "./pictures.js";
import { watchRegions } from "./regions.js";
import { makeStageEdge } from "./stage-edge.js";
import { watchControls } from "./sliders.js";
import { clearContours, drawContours } from "./svg.js";
import { makeTools } from "./tools.js";
import { makeVersions } from "./versions.js";

const bench = document.getElementById("bench");
const at = (id) => document.getElementById(id);
const base = `/shoots/${bench.dataset.shoot}/bench`;
const VIEWS = ["contours", "tint", "grey", "none"];
const WITNESS_PAUSE = 250;
const state = { values: {}, view: "contours", moved: 0, drawn: 0, busy: false, draft: false, round: null, lastRound: 0 };

if (at("key-canvas")) start();

function start() {
  const box = at("key-box");
  const key = new Picture(at("key-canvas"), Number(bench.dataset.key), "key");
  const witnesses = [...document.querySelectorAll(".witness")].map(
    (w) => new Picture(w.querySelector("canvas"), Number(w.dataset.frame), "witness"),
  );
  const all = [key, ...witnesses];
  const overlay = at("overlay");
  const ratio = Number(box.dataset.width) / Number(box.dataset.height);
  const height = 1000 / ratio;
  overlay.setAttribute("viewBox", `0 0 1000 ${height}`);

  function fit() {
    const room = at("key-frame");
    const tall = Math.max(220, Math.min(window.innerHeight * edge.share(), 1100));
    // witnesses and measures share its height, so that what is dragged away goes to the steps
    const stage = room.parentElement;
    stage.style.height = `${tall + 24}px`;
    stage.style.setProperty("--witness", `${Math.floor(Math.min((tall - 16) / 3, window.innerWidth * 0.1))}px`);
    const width = Math.min(room.clientWidth, tall * ratio);
    box.style.width = `${width}px`;
    box.style.height = `${width / ratio}px`;
  }
  const edge = makeStageEdge(at("stage-edge"), fit);
  fit();
  window.addEventListener("resize", fit);

  const opened = () => document.querySelector(".lane[data-open]");
  const wanted = (picture, view = state.view) => {
    const step = opened()?.dataset.step ?? null;
    const seen = step && ["tint", "grey"].includes(view) ? view : "finished";
    const tint = seen === "tint" && at("tint-own").checked ? at("tint-colour").value : null;
    const guard = picture === key ? measures.guard() : null;
    return { frame: picture.frame, side: picture.side, view: seen, step, tint, guard, values: { ...state.values } };
  };

  // --- painting: the key frame first, as a draft while it moves; witnesses when it rests, or now and then before
  async function render(draft = false) {
    state.moved += 1;
    state.draft = draft;
    bench.removeAttribute("data-rests");
    if (state.busy) return;
    state.busy = true;
    try {
      while (state.drawn !== state.moved) {
        const goal = state.moved;
        await key.show("finished", await send(`${base}/picture`, { ...wanted(key), draft: state.draft }));
        state.drawn = goal;
        document.dispatchEvent(new CustomEvent("lk:key-drawn", { detail: goal }));
        if (!state.round && (state.drawn === state.moved || performance.now() - state.lastRound > WITNESS_PAUSE)) paintWitnesses();
      }
    } catch (error) {
      state.drawn = state.moved;
      toast(error.message);
    } finally {
      state.busy = false;
    }
  }

  async function paintWitnesses() {
    const goal = state.moved;
    const queue = [...witnesses];
    const one = async () => {
      for (let w = queue.shift(); w; w = queue.shift()) await w.show("finished", await send(`${base}/picture`, wanted(w)));
    };
    state.round = Promise.all([one(), one()]);
    try {
      await state.round;
      document.dispatchEvent(new CustomEvent("lk:witnesses-drawn", { detail: goal }));
    } catch (error) {
      toast(error.message);
    }
    state.round = null;
    state.lastRound = performance.now();
    if (goal !== state.moved && !state.busy) paintWitnesses();
    if (goal === state.moved) rested();
  }

  // --- small grey masks on the lanes, renewed when a region changes
  async function paintThumbs(only) {
    for (const lane of document.querySelectorAll(only ? `#lane-${only}` : ".lane")) {
      const canvas = lane.querySelector(".lane-thumb");
      const pen = canvas.getContext("2d");
      if (canvas.dataset.region === "0") { pen.fillStyle = "#fff"; pen.fillRect(0, 0, canvas.width, canvas.height); continue; }
      try {
        const response = await send(`${base}/picture`, { frame: key.frame, side: "witness", view: "grey", step: lane.dataset.step, values: state.values });
        const bitmap = await createImageBitmap(await response.blob());
        const scale = Math.min(canvas.width / bitmap.width, canvas.height / bitmap.height);
        const [w, h] = [bitmap.width * scale, bitmap.height * scale];
        pen.fillStyle = "#767676";
        pen.fillRect(0, 0, canvas.width, canvas.height);
        pen.drawImage(bitmap, (canvas.width - w) / 2, (canvas.height - h) / 2, w, h);
      } catch { /* the step may be gone by now */ }
    }
  }

  let restTimer = 0;
  let thumbs = "all";
  function rested() {
    clearTimeout(restTimer);
    if (state.draft) refine();
    else bench.toggleAttribute("data-rests", true);
    restTimer = setTimeout(() => {
      measures.measure();
      if (thumbs) paintThumbs(thumbs === "all" ? null : thumbs);
      thumbs = null;
    }, 120);
    drawRegion(true);
  }

  async function refine() {
    const goal = state.moved;
    try {
      const picture = await send(`${base}/picture`, wanted(key));
      if (goal !== state.moved || state.busy) return;
      state.draft = false;
      await key.show("finished", picture);
      if (goal === state.moved) bench.toggleAttribute("data-rests", true);
    } catch (error) {
      toast(error.message);
    }
  }

  // --- the open step's region on the picture
  const facts = {
    box: box.dataset.box ? box.dataset.box.split(",").map(Number) : null,
    line: box.dataset.skyline ? box.dataset.skyline.split(",").map(Number) : null,
  };
  let contoursBusy = false;
  let contoursAgain = false;
  const overlays = [...document.querySelectorAll(".witness svg.overlay")];
  async function drawRegion(onWitnesses = false) {
    const lane = opened();
    const wish = lane && state.view === "contours" && !measures.guard() && lane.querySelector("[data-part]");
    if (!wish) return [overlay, ...overlays].forEach(clearContours);
    if (contoursBusy) { contoursAgain = true; return; }
    contoursBusy = true;
    const one = async (picture, svg) => {
      try {
        drawContours(svg, await (await send(`${base}/contours`, { ...wanted(picture), step: lane.dataset.step })).json());
      } catch (error) {
        clearContours(svg);
      }
    };
    await one(key, overlay);
    if (onWitnesses) for (const [i, w] of witnesses.entries()) if (!contoursAgain) await one(w, overlays[i]);
    contoursBusy = false;
    if (contoursAgain) { contoursAgain = false; drawRegion(onWitnesses); }
  }

  function placeHandles() {
    clearHandles(overlay);
    const lane = opened();
    if (!lane || state.view === "none") return;
    for (const part of lane.querySelectorAll("[data-part]")) {
      const kind = part.dataset.part;
      if (!isDrawn(kind) || tools.active() === "draw") continue;
      const number = part.dataset.name.match(/\d+/)?.[0] ?? "";
      const write = (changed, done) => writePart(part.dataset.partPath, changed, done, false);
      drawHandles(overlay, { kind, values: partValues(part), number }, facts, height, write);
    }
  }

  function partValues(part) {
    const values = {};
    for (const field of part.querySelectorAll(":scope [data-path]")) {
      const shown = Number(field.dataset.shown || 1);
      values[field.dataset.path.split("/").pop()] = field.type === "number" ? Number(field.value) / shown : field.value;
    }
    return values;
  }

  // values of a part, shown in its fields; live under the hand, and set when it is done
  function writePart(path, changed, done, redraw = true) {
    const all = {};
    for (const [name, value] of Object.entries(changed)) {
      all[`${path}/${name}`] = value;
      const field = at("lanes").querySelector(`[data-path="${path}/${name}"]`);
      if (field) field.value = typeof value === "number" ? Number((value * Number(field.dataset.shown || 1)).toFixed(4)) : value;
      state.values[`${path}/${name}`] = value;
    }
    live(...Object.entries(all)[0]);
    if (done) set(all, "shaping a part");
    if (redraw) placeHandles();
  }

  // --- values: live under the finger, set when let go
  function live(path, value) {
    state.values[path] = value;
    if (path.includes("/region/") || path.includes("/shared/")) thumbs = "all";
    render(true);
    if (path.includes("/region/") || path.includes("/shared/")) drawRegion();
  }

  // one after another, so that quick changes arrive in the order of the hand
  let lastSet = Promise.resolve();
  function set(values, did) {
    lastSet = lastSet.then(() => sendSet(values, did));
  }

  async function sendSet(values, did) {
    try {
      const now = await (await send(`${base}/set`, { values, did: did || "a change", on: versions.on() })).json();
      versions.now(now.state);
      for (const path of Object.keys(values)) if (state.values[path] === values[path]) delete state.values[path];
      at("undo").disabled = !now.undo;
      at("undo-words").textContent = now.undo ?? "";
      at("redo").disabled = !now.redo;
      for (const [step, [where, what]] of Object.entries(now.words)) {
        const lane = at(`lane-${step}`);
        if (!lane) continue;
        lane.querySelectorAll("[data-sentence]").forEach((each) => { each.textContent = where; });
        lane.querySelector("[data-does]").textContent = what;
      }
      if (now.late) versions.renew(true);
    } catch (error) {
      for (const path of Object.keys(values)) delete state.values[path];
      toast(error.message);
      render();
      if (error.status === 409) versions.renew();
    }
    for (const [path, value] of Object.entries(values)) {
      const lane = document.getElementById(`lane-${path.split("/")[1]}`);
      if (lane && path.endsWith("/enabled")) lane.toggleAttribute("data-off", !value);
      if (lane && /^steps\/[^/]+\/name$/.test(path)) lane.querySelector("strong").textContent = value;
    }
    // a handle under the hand is not drawn anew
    if (Object.keys(values).some((path) => path.includes("/parts/")) && !overlay.contains(document.activeElement)) placeHandles();
  }
  watchControls(at("lanes"), { live, set });

  // --- changes of structure: the lanes come back renewed
  async function edit(op, values) {
    await lastSet;
    const form = new FormData();
    for (const [name, value] of Object.entries({ op, on: versions.on(), ...values })) form.set(name, value);
    try {
      renew(await (await send(`${base}/edit`, form)).text());
    } catch (error) {
      toast(error.message);
      if (error.status === 409) versions.renew();
    }
  }
  function renew(html) {
    const scrolled = at("lanes").scrollTop;
    at("lanes").innerHTML = html;
    window.htmx.process(at("lanes"));
    at("lanes").scrollTop = scrolled;
    versions.read();
    renewed();
  }
  const versions = makeVersions({ base, renew, settled: () => lastSet, busy: () => Object.keys(state.values).length > 0 });
  const tools = makeTools({ overlay, height, facts, base, lanes: at("lanes"), frame: () => key.frame, edit, renew, write: writePart, partValues });
  const curves = makeCurves(at("lanes"), { live, set });
  const measures = makeMeasures(at("measures"), {
    base,
    changed: () => { render(); drawRegion(); },
    asked: () => ({ frame: key.frame, step: opened()?.dataset.step ?? null, values: state.values }),
    found: ({ region, histogram }) => curves.bins((region ?? histogram).light),
  });
  const adjustments = watchAdjustments(at("lanes"), { base, renew, versions, live, set, pictures: all, overlay, settled: () => lastSet });
  const regions = watchRegions(at("lanes"), { facts, edit, write: writePart, partValues });

  // --- lanes open one at a time
  let lastOpened = opened()?.dataset.step ?? null;
  function open(step) {
    lastOpened = step;
    for (const lane of document.querySelectorAll(".lane")) {
      const on = lane.dataset.step === step;
      lane.toggleAttribute("data-open", on);
      lane.querySelector(".lane-editor").hidden = !on;
      lane.querySelector("[data-open-lane]").setAttribute("aria-expanded", on);
    }
    tools.show();
    curves.show();
    adjustments.show();
    placeHandles();
    drawRegion(true);
    measures.measure();
    if (["tint", "grey"].includes(state.view)) render();
  }
  at("lanes").addEventListener("click", (event) => {
    const button = event.target.closest("[data-open-lane]");
    if (!button) return;
    const lane = button.closest(".lane");
    open(lane.hasAttribute("data-open") ? null : lane.dataset.step);
    if (lane.hasAttribute("data-open")) lane.scrollIntoView({ block: "start" });
  });
  document.addEventListener("htmx:after:swap", (event) => {
    if (!event.target.closest?.("#lanes") && !at("lanes").contains(event.target) && event.target !== document.body) return;
    const added = at("lanes-head").dataset.added;
    versions.read();
    renewed();
    if (added) opened()?.scrollIntoView({ block: "nearest" });
  });
  function renewed() {
    state.values = {};
    thumbs = "all";
    if (opened()) lastOpened = opened().dataset.step;
    else if (lastOpened && at(`lane-${lastOpened}`)) open(lastOpened);
    regions.refold();
    tools.show();
    curves.show();
    adjustments.show();
    placeHandles();
    render();
  }

  // --- views and comparing
  function view(name) {
    state.view = name;
    for (const button of document.querySelectorAll("[data-view]")) button.setAttribute("aria-pressed", button.dataset.view === name);
    if (name !== "contours") [overlay, ...overlays].forEach(clearContours);
    at("tint-choice").hidden = name !== "tint";
    if (name !== "none" && !opened()) {
      const first = document.querySelector(".lane");
      if (first) open(first.dataset.step);
      else toast("Add a step first; then its region can be shown.");
    }
    placeHandles();
    render();
  }
  document.querySelectorAll("[data-view]").forEach((b) => b.addEventListener("click", () => view(b.dataset.view)));

  async function originals() {
    await Promise.all(all.map(async (p) => {
      if (!p.original) await p.show("original", await send(`${base}/picture`, { frame: p.frame, side: p.side, view: "original" }));
    }));
  }
  let held = 0;
  async function hold(on) {
    const mine = (held += 1);
    if (on) await originals();
    if (mine !== held) return; // let go before the original was there
    all.forEach((p) => { p.held = on; p.paint(); });
    overlay.toggleAttribute("hidden", on);
    at("which").hidden = !on;
    at("original").setAttribute("aria-pressed", on);
  }
  whileSpace(() => hold(true), () => hold(false));
  at("original").addEventListener("click", () => hold(at("original").getAttribute("aria-pressed") !== "true"));
  const divider = makeDivider(at("split"), box, (place) => { key.split = place; key.paint(); });
  at("divider").addEventListener("click", async () => {
    const on = at("divider").getAttribute("aria-pressed") !== "true";
    if (on) await originals();
    at("divider").setAttribute("aria-pressed", on);
    if (!on) key.split = null;
    divider.show(on);
    key.paint();
  });

  at("tint-choice").addEventListener("input", () => render());

  // --- keys
  document.addEventListener("keydown", (event) => {
    if (event.target.closest?.("input:not([type=range]):not([type=checkbox]), select, textarea, dialog")) return;
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
      event.preventDefault();
      const which = event.shiftKey ? "redo" : "undo";
      lastSet.then(() => at(which).click());
    } else if (event.key.toLowerCase() === "v" && !event.ctrlKey && !event.metaKey) {
      view(VIEWS[(VIEWS.indexOf(state.view) + 1) % VIEWS.length]);
    }
  });

  // --- saving
  at("save-open").addEventListener("click", () => {
    const dialog = at("save-dialog");
    dialog.replaceChildren(at("save-form").content.cloneNode(true));
    dialog.querySelector('[name="on"]').value = versions.on();
    dialog.querySelector("[data-close]").addEventListener("click", () => dialog.close());
    dialog.showModal();
  });

  placeHandles();
  render(true); // so that the first move finds everything at hand
}
