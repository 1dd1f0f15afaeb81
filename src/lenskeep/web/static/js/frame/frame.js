// One frame: sized to its room, compared with the original, walked through with the keyboard.
import { makeBeside } from "../shared/beside.js";
import { makeDivider, whileSpace } from "../shared/divider.js";
import { clearContours, drawContours } from "../shared/svg.js";
import { send } from "../shared/api.js";
import { makeClean } from "../clean/clean.js";
import { makeClose } from "../close/close.js";
import { makeRepair } from "../repair/repair.js";
import { makeBase } from "./base.js";
import { makePanel } from "./panel.js";

const room = document.getElementById("picture");
const at = (id) => document.getElementById(id);
const asked = new URLSearchParams(window.location.search);
const only = asked.get("only") ?? "all";
const renew = () => window.htmx.ajax("POST", `/frames/${room.dataset.frame}/fresh?only=${only}`, { target: "#panel" });
let close = null;
let nearOrFar = () => {};
let clean = null;

function fit() {
  const box = at("compare");
  if (!box) return;
  if (close?.on()) { close.place(); close.look(); return; }
  const ratio = Number(room.dataset.width) / Number(room.dataset.height);
  const width = Math.min(room.clientWidth - 24, (room.clientHeight - 24) * ratio);
  box.style.width = `${width}px`;
  box.style.height = `${width / ratio}px`;
  for (const img of box.querySelectorAll("img")) { img.style.width = "100%"; img.style.height = "100%"; }
}
fit();

// --- repairing masks
const repair = at("repair") && at("compare") ? makeRepair({
  bar: at("repair-bar"),
  box: at("compare"),
  address: at("repair-bar").dataset.address,
  ratio: Number(room.dataset.width) / Number(room.dataset.height),
  settled: renew,
}) : null;
async function toggleRepair(on) {
  if (clean?.on()) await toggleClean(false);
  await repair.toggle(on);
  at("repair").setAttribute("aria-pressed", repair.on());
  fit();
  outlines();
}
if (repair) {
  at("repair").addEventListener("click", () => toggleRepair());
  if (asked.has("repair")) toggleRepair(true);
}

// --- cleaning up
clean = at("clean") && at("compare") ? makeClean({
  bar: at("clean-bar"),
  box: at("compare"),
  ratio: Number(room.dataset.width) / Number(room.dataset.height),
  seen: () => close?.renew(),
  settled: renew,
}) : null;
async function toggleClean(on) {
  if (repair?.on()) await toggleRepair(false);
  await clean.toggle(on);
  at("clean").setAttribute("aria-pressed", clean.on());
  fit();
  outlines();
}
if (clean) {
  at("clean").addEventListener("click", () => toggleClean());
  if (asked.has("clean")) toggleClean(true);
}

window.addEventListener("resize", fit);

// --- the panel, and the frame's base in it
let dividing = false;
let beside = null;
const panel = makePanel({
  panel: at("panel"), frame: room.dataset.frame, arrived, renew, moves: () => base?.moves() ?? 0,
  renewed() {
    outlines(true);
    at("divider")?.setAttribute("aria-pressed", dividing);
    at("beside")?.setAttribute("aria-pressed", Boolean(beside?.on()));
  },
});
const base = at("compare") ? makeBase({
  panel: at("panel"), box: at("compare"), free: () => !repair?.on() && !clean?.on(), follow: panel.follow,
}) : null;

// --- the close view; the next frame of a walk is seen at the same part of it
const KEPT = "close-at";
if (at("compare")) {
  const { width, height, faces, frame, after } = room.dataset;
  let opened = false;
  close = makeClose({
    room, box: at("compare"), width: Number(width), height: Number(height), address: `/frames/${frame}/cut`, fit,
    faces: faces.split(";").filter(Boolean).map((m) => m.split(",").map(Number)),
    free: () => !repair?.on() && !clean?.on() && !base.picking(),
    seen: () => nearOrFar(),
    drawn() {
      if (opened || !after) return;
      opened = true; // its original is decoded while this one is looked at
      send(`/frames/${after}/open-ahead`, {}).catch(() => {});
    },
  });
  window.addEventListener("pagehide", () => {
    try { sessionStorage.setItem(KEPT, JSON.stringify(close.where())); } catch { /* storage may be closed */ }
  });
  try {
    const where = JSON.parse(sessionStorage.getItem(KEPT) ?? "null");
    if (where && asked.has("only")) close.enter(where);
  } catch { /* nothing was kept */ }
}

if (at("before")) {
  const before = at("before");
  const split = makeDivider(at("split"), at("compare"), (place) => {
    before.style.clipPath = `inset(0 ${100 - 100 * place}% 0 0)`;
    if (dividing) close.split(place);
  });
  const held = (on) => {
    close.hold(on);
    before.hidden = !on && !dividing;
    before.style.clipPath = on ? "none" : `inset(0 ${100 - 100 * split.place}% 0 0)`;
    at("which").hidden = !on;
  };
  whileSpace(() => held(true), () => held(false));
  beside = makeBeside({
    rooms: at("rooms"), box: at("compare"), close: () => close, fit, asked: () => null, words: () => "original",
    async picture() {
      await before.decode();
      return before;
    },
  });
  nearOrFar = () => beside.renew();
  document.addEventListener("click", (event) => {
    if (event.target.closest("#beside")) {
      const on = !beside.on();
      event.target.setAttribute("aria-pressed", on);
      return beside.show(on);
    }
    if (!event.target.closest("#divider")) return;
    dividing = !dividing;
    event.target.setAttribute("aria-pressed", dividing);
    split.show(dividing);
    before.hidden = !dividing;
    close.split(dividing ? split.place : null);
  });
}

// a newer finished picture takes the place of the one that is shown, and of what was tried
function arrived(finished) {
  if (!finished || !at("after") || at("after").src.endsWith(finished)) return base?.settled();
  at("after").addEventListener("load", () => base?.settled(), { once: true });
  at("after").src = finished;
  close?.renew();
}

// --- outlines of the masks: those in doubt are shown at once
async function outlines(again = false) {
  for (const tick of document.querySelectorAll("[data-show-outline]")) {
    const svg = document.querySelector(`[data-outline="${tick.dataset.showOutline}"]`);
    if (!svg) continue;
    if (!tick.checked || repair?.on() || clean?.on()) { clearContours(svg); continue; }
    if (svg.querySelector(".contours") && !again) continue;
    const answer = await fetch(svg.dataset.address);
    if (answer.ok) drawContours(svg, await answer.json());
  }
}
document.addEventListener("change", (event) => { if (event.target.dataset.showOutline) outlines(); });
outlines();

document.addEventListener("keydown", (event) => {
  if (event.target.closest?.("input, select, textarea, [role=slider]")) return;
  if (event.key.toLowerCase() === "m" && !event.ctrlKey && !event.metaKey) {
    const ticks = [...document.querySelectorAll("[data-show-outline]")];
    const on = !ticks.some((t) => t.checked);
    ticks.forEach((t) => { t.checked = on; });
    outlines();
  }
  if (event.key.toLowerCase() === "r" && repair && !event.ctrlKey && !event.metaKey) toggleRepair();
  if (event.key.toLowerCase() === "u" && clean && !event.ctrlKey && !event.metaKey) toggleClean();
  if (event.key.toLowerCase() === "n" && !event.ctrlKey && !event.metaKey) nextDoubtful();
  if (repair?.busy()) return;
  if (event.key === "ArrowLeft" && at("earlier").href) window.location.assign(at("earlier").href);
  if (event.key === "ArrowRight" && at("later").href) window.location.assign(at("later").href);
  if (event.key === "Enter" && at("accept") && !event.target.closest("button, a")) at("accept").click();
});

// the next frame whose masks are doubtful, in the mode that one is in
async function nextDoubtful() {
  const page = at("repair-bar");
  if (!page) return;
  await repair?.rest();
  const answer = await fetch(`${page.dataset.address}/repairs`, { cache: "no-store" });
  const { nextDoubtful: next } = answer.ok ? await answer.json() : {};
  if (!next) return;
  const way = new URLSearchParams({ only });
  if (asked.has("from")) way.set("from", asked.get("from"));
  window.location.assign(`/frames/${next}?${way}${repair?.on() ? "&repair" : ""}`);
}
