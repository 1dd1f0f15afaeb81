// The Bench, put together: what moves under the finger is painted at once on the key frame and right after on witnesses.
import { makeAdjustments } from "./adjustments.js";
import { makeComparing } from "./comparing.js";
import { makeCurves } from "./curve.js";
import { makeChoosing } from "./choosing.js";
import { watchDragging } from "./dragging.js";
import { watchGroups } from "./groups.js";
import { makeGradientMarks } from "./gradient-marks.js";
import { makeHistory } from "./history.js";
import { makeEdges } from "./edges.js";
import { watchKeys } from "./keys.js";
import { makeLanes, opened } from "./lanes.js";
import { makeMeasures } from "./measures.js";
import { makeNeutral } from "./neutral.js";
import { makeOutlines, partValues } from "./outlines.js";
import { makePainter } from "./painting.js";
import { makePainted } from "./painted.js";
import { makePanels } from "./panels.js";
import { Picture } from "./pictures.js";
import { watchPickers } from "./pickers.js";
import { watchRegions } from "./regions.js";
import { watchControls } from "./sliders.js";
import { watchPeeking } from "./peeking.js";
import { watchReadyBrushes } from "./ready-brushes.js";
import { watchSaving } from "./saving.js";
import { makePointing } from "./pointing.js";
import { makeStageEdge } from "./stage-edge.js";
import { paintThumbs, watchMasks } from "./thumbs.js";
import { makeTools } from "./tools.js";
import { makeValues } from "./values.js";
import { makeVersions } from "./versions.js";
import { SPACE } from "../shared/screen.js";
import { makeAsking } from "./asking.js";
import { makeClose } from "../close/close.js";
import { makeWarnings } from "../close/warnings.js";
import { makeRepair } from "../repair/repair.js";
import { openLayers } from "../shared/layers.js";

const at = (id) => document.getElementById(id);

function start(bench) {
  const base = `/scenes/${bench.dataset.scene}/bench`;
  const [box, lanes, overlay] = [at("key-box"), at("lanes"), at("overlay")];
  const key = new Picture(at("key-canvas"), Number(bench.dataset.key), "key");
  const witnesses = [...document.querySelectorAll(".witness")].map((w) => new Picture(w.querySelector("canvas"), Number(w.dataset.frame), "witness"));
  const overlays = [...document.querySelectorAll(".witness svg.overlay")];
  const all = [key, ...witnesses];
  const ratio = Number(box.dataset.width) / Number(box.dataset.height);
  const height = 1000 / ratio;
  overlay.setAttribute("viewBox", `0 0 1000 ${height}`);
  const numbers = (text) => (text ? text.split(",").map(Number) : null);
  const facts = { box: numbers(box.dataset.box), line: numbers(box.dataset.skyline), face: numbers(box.dataset.face) };

  let close = null;
  function fit() {
    if (close?.on()) { close.place(); return close.look(); }
    const room = at("key-frame");
    const tall = Math.max(220, Math.min(window.innerHeight * edge.share(), 1100));
    // witnesses and measures share its height, so that what is dragged away goes to the steps
    const stage = room.closest(".stage-area");
    stage.style.height = `${tall + 24}px`;
    stage.style.setProperty("--witness", `${Math.floor(Math.min((tall - 16) / 3, window.innerWidth * 0.1))}px`);
    const width = Math.min(room.clientWidth, tall * ratio);
    box.style.width = `${width}px`;
    box.style.height = `${width / ratio}px`;
  }
  const edge = makeStageEdge(at("stage-edge"), fit);
  fit();
  window.addEventListener("resize", fit);

  let thumbs = true;
  let restTimer = 0;
  const asked = (picture) => {
    const step = opened()?.dataset.step ?? null;
    const view = step && ["tint", "grey"].includes(comparing.view()) ? comparing.view() : "finished";
    const guard = picture === key ? measures.guard() : null;
    const sharp = picture === key ? edges.now() : null;
    return { frame: picture.frame, side: picture.side, view, step, tint: comparing.tint(), guard, edges: sharp, values: values.now() };
  };
  const ask = makeAsking({ base, key, asked, close: () => close, room: at("key-frame") });
  // witnesses show another part of themselves
  function elsewhere() {
    witnesses.forEach((w) => { w.original = null; });
    painter.render();
  }
  close = makeClose({
    room: at("key-frame"), box, width: Number(box.dataset.width), height: Number(box.dataset.height), address: `${base}/cut`, fit,
    faces: (box.dataset.faces ?? "").split(";").filter(Boolean).map((m) => m.split(",").map(Number)),
    asked: () => asked(key),
    free: () => !tools.active() && !repair.on(),
    seen() {
      elsewhere();
      outlines.drawRegion();
      comparing.besides();
    },
  });
  const warnings = makeWarnings({
    address: `${base}/places`, close, told: at("key-frame").querySelector("[data-close-told]"), frame: () => key.frame,
    warned: () => measures.warned(), label: (name) => document.querySelector(`[data-guard="${name}"]`).children[1].textContent,
  });
  const nextWarning = at("key-frame").querySelector('[data-close-go="guard"]');
  nextWarning.addEventListener("click", () => warnings.next());
  at("key-frame").querySelector("[data-close-witnesses] input").addEventListener("change", elsewhere);
  const painter = makePainter({
    bench, key, witnesses, ask, close: () => close,
    rested() {
      warnings.forget();
      clearTimeout(restTimer);
      restTimer = setTimeout(() => {
        measures.measure();
        if (thumbs) paintThumbs(lanes, base, key.frame, values.plain());
        thumbs = false;
      }, 120);
      outlines.drawRegion(true);
      comparing.rested();
    },
  });
  const edges = makeEdges({ lanes, render: () => painter.render() });
  const values = makeValues({
    base, lanes, overlay, versions: () => versions, changing: () => steps.changing(), failed: () => painter.render(), placed: () => outlines.placeHandles(),
    moved(ofRegion) {
      thumbs ||= ofRegion;
      painter.render(true);
      if (ofRegion) outlines.drawRegion();
    },
  });
  const marks = makeGradientMarks({
    lanes, overlay, facts, height, seen: () => comparing.view() !== "none" && !tools.active() && !repair.on(),
    open(step, panel) {
      steps.open(step);
      panels.open(panel);
    },
  });
  const outlines = makeOutlines({
    marks,
    base, key, witnesses, overlay, overlays, height, facts, opened, asked, write: values.writePart,
    contours: () => comparing.view() === "contours" && !measures.guard(),
    handles: () => comparing.view() !== "none" && tools.active() !== "draw",
  });
  const comparing = makeComparing({
    box, key, all, overlay, opened, openFirst: () => steps.openFirst(), ask, close: () => close, fit: () => fit(),
    seen(name) {
      if (name !== "contours") outlines.clear();
      outlines.placeHandles();
      painter.render();
    },
  });
  const steps = makeLanes(lanes, {
    base, versions: () => versions, settled: values.settled,
    shown() {
      editors();
      pointing.show();
      outlines.drawRegion(true);
      measures.measure();
      if (["tint", "grey"].includes(comparing.view())) painter.render();
    },
    renewed() {
      painted.forget();
      values.clear();
      thumbs = true;
      regions.refold();
      groups.show();
      const { fresh } = at("lanes-head").dataset;
      if (fresh) regions.unfold(fresh);
      const own = fresh && lanes.querySelector(`.lane[data-open] [data-part][data-id="${fresh}"]`);
      if (own) panels.open(own.dataset.panel, false);
      editors();
      pointing.show();
      painter.render();
    },
  });
  const editors = () => {
    [panels, tools, curves, adjustments].forEach((each) => each.show());
    outlines.placeHandles();
  };
  const past = makeHistory({
    dialog: at("history-dialog"), base, versions: () => versions, settled: () => values.settled(), renew: (html) => steps.renew(html),
    pin: (which, name) => comparing.pin(which, name),
  });
  lanes.addEventListener("click", (event) => {
    if (event.target.closest("[data-open-history]")) past.open();
    if (event.target.closest("[data-open-layers]")) openLayers(bench.dataset.scene);
  });
  watchPeeking(lanes, comparing);
  const versions = makeVersions({ base, renew: steps.renew, settled: values.settled, busy: values.any });
  const { live, set, writePart } = values;
  const painted = makePainted({
    box, close: () => close, address: () => (close.on() ? `${base}/cut` : `${base}/picture`),
    asked() {
      const plain = { frame: key.frame, values: values.now() };
      return close.on() ? { ...plain, ...close.part(), moving: true, space: SPACE } : { ...plain, side: "key", space: SPACE };
    },
  });
  const tools = makeTools({ overlay, painted, height, facts, base, lanes, frame: () => key.frame, edit: steps.edit, write: writePart, partValues });
  const curves = makeCurves(lanes, { live, set });
  const measures = makeMeasures(at("measures"), {
    base, live, set,
    changed: () => { painter.render(); outlines.drawRegion(); },
    asked: () => ({ frame: key.frame, step: opened()?.dataset.step ?? null, values: values.now() }),
    found({ region, histogram }) {
      curves.bins((region ?? histogram).light);
      nextWarning.hidden = measures.warned().length === 0;
    },
  });
  const adjustments = makeAdjustments(lanes, { base, renew: steps.renew, versions, live, set, pictures: all, overlay, settled: values.settled });
  // a part's chip takes its tool in hand where it has one to work with
  const panels = makePanels(lanes, {
    box,
    opened(panel, byHand) {
      const tool = panel.querySelector('[data-tool="brush"], [data-tool="pick"], [data-tool="sample"]');
      tools.drop();
      if (tool && byHand) tools.take(tool.dataset.tool, tool);
    },
    closed: () => tools.drop(),
  });
  watchReadyBrushes(lanes, { steps, panels });
  watchDragging(lanes, { move: (step, by) => steps.edit("move-step", { step, by }) });
  watchMasks(lanes);
  const groups = watchGroups(lanes, {
    base, opened, edit: steps.edit, renew: steps.renew, versions: () => versions, settled: values.settled,
  });
  const choosing = makeChoosing({
    room: at("choosing"), lanes, stage: at("key-frame"), base, frame: () => key.frame, opened, versions: () => versions, renew: steps.renew,
    settled: values.settled, painting: () => panels.open(opened().querySelector('[data-part="brush"]').dataset.panel),
  });
  const regions = watchRegions(lanes, { facts, edit: steps.edit, write: writePart, partValues });
  watchPickers();
  watchControls(lanes, { live(path, value) { edges.moved(path); live(path, value); }, set });
  at("tint-choice").addEventListener("input", () => painter.render());

  // --- the key frame's own masks; what is anchored to them is placed anew when the mode is left
  const repair = makeRepair({
    bar: at("repair-bar"), box, address: at("repair-bar").dataset.address, ratio,
    settled() {
      thumbs = true;
      painter.render();
    },
  });
  const neutral = makeNeutral({ lanes, overlay, frame: () => key.frame, edit: steps.edit, drop: () => tools.drop() });
  const pointing = makePointing({
    overlay, base, frame: () => key.frame, opened, edit: steps.edit,
    free: () => !tools.active() && !repair.on() && !neutral.active() && !adjustments.picking() && !key.held && comparing.view() !== "none",
  });
  async function toggleRepair() {
    tools.drop();
    pointing.off();
    await repair.rest();
    await repair.toggle();
    at("repair").setAttribute("aria-pressed", repair.on());
    if (!repair.on() && repair.changed()) window.location.reload();
  }
  at("repair").addEventListener("click", toggleRepair);
  for (const witness of document.querySelectorAll(".witness")) {
    witness.addEventListener("click", (event) => {
      if (!repair.on()) return;
      event.preventDefault();
      window.location.assign(`/frames/${witness.dataset.frame}?repair&from=bench`);
    });
  }

  watchKeys({ r: toggleRepair }, () => true);
  // a tool in hand, and the curve, have keys of their own
  const handsFree = () => !repair.on() && !choosing.on() && !tools.active() && !document.activeElement?.closest("[role=application]");
  watchKeys({ ...groups.keys, c: () => choosing.open("effects") }, handsFree);
  watchKeys({ h: past.open, g: () => warnings.next(), v: comparing.next, undo: (which) => values.settled().then(() => at(which).click()) }, () => !repair.on());
  watchSaving(versions);
  outlines.placeHandles();
  painter.render(true); // so that the first move finds everything at hand
}

if (at("key-canvas")) start(at("bench"));
