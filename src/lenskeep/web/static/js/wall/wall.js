// The wall: pages of tiles are asked for when they come near, and what changes is sent as it happens.
import { send } from "../shared/api.js";
import { makeDoing } from "./doing.js";
import { openLayers } from "../shared/layers.js";
import { makeSelecting } from "./selecting.js";

const NEAR = "800px";
const AT_ONCE = 4;
const EVERY_NTH = 12; // of a page's empty places is watched
const tiles = document.getElementById("tiles");
const { shoot, show } = tiles.dataset;
const onScreen = new Set();
let doing = null;
const selecting = makeSelecting({ tiles, shoot, show, changed: (picked) => doing?.tell(picked) });
doing = makeDoing({ bar: document.getElementById("selection"), selecting });

document.addEventListener("click", (event) => {
  const scene = event.target.closest("[data-open-layers]")?.dataset.openLayers;
  if (scene) openLayers(scene);
});

// --- bursts: folded to their best frame
const unfolded = new Set();
function fold(burst) {
  const on = unfolded.has(burst);
  for (const tile of tiles.querySelectorAll(`.tile[data-burst="${burst}"]`)) tile.toggleAttribute("data-folded", !on && !("best" in tile.dataset));
}
function burstCount(tile) {
  const shown = tile.querySelector("[data-burst-count]");
  if (shown) shown.textContent = `burst of ${tiles.querySelectorAll(`.tile[data-burst="${tile.dataset.burst}"]`).length}`;
}
function arrived(tile) {
  selecting.mark(tile);
  const { burst } = tile.dataset;
  if (!burst) return;
  if (tiles.querySelector(`.tile[data-burst="${burst}"][data-best]`)) fold(burst);
  for (const best of tiles.querySelectorAll(`.tile[data-burst="${burst}"][data-best]`)) burstCount(best);
}
tiles.addEventListener("click", (event) => {
  const burst = event.target.closest("[data-unfold]")?.dataset.unfold;
  if (!burst) return;
  event.preventDefault();
  if (!unfolded.delete(burst)) unfolded.add(burst);
  fold(burst);
});

// --- pages: empty places of a tile's size hold the room until their page is there, one plain element each, since
// thousands of them are laid out anew with every page that comes
function hold(page) {
  for (let i = 0; i < Number(page.dataset.count); i += 1) {
    const empty = document.createElement("span");
    empty.className = "tile tile-empty";
    page.append(empty);
    if (i % EVERY_NTH === 0) nearing.observe(empty);
  }
}
const nearing = new IntersectionObserver((seen) => {
  const pages = new Set(seen.filter((s) => s.isIntersecting).map((s) => s.target.parentElement));
  for (const page of pages) if (page?.dataset.place) fill(page);
}, { rootMargin: NEAR });

async function fill(page) {
  const { place, frame } = page.dataset;
  const { scene } = page.closest("[data-scene]").dataset;
  delete page.dataset.place; // asked for once
  filling += 1;
  try {
    await bring(page, { place, frame, scene });
  } finally {
    filling -= 1;
    if (!filling) early.clear();
  }
}
// what changes while a page is on its way is newer than the page
let filling = 0;
const early = new Map();
async function bring(page, { place, frame, scene }) {
  const answer = await fetch(`/shoots/${shoot}/tiles?${new URLSearchParams({ show, place, frame, scene })}`);
  if (!answer.ok) {
    page.dataset.place = place;
    return;
  }
  page.innerHTML = await answer.text();
  page.querySelectorAll(".tile").forEach((tile) => { arrived(tile); seen.observe(tile); });
  for (const tile of page.querySelectorAll(".tile[data-frame]")) if (early.has(tile.id)) coming.set(Number(tile.dataset.frame), early.get(tile.id));
  if (coming.size) drain();
}

// --- what somebody looks at is done before the rest
const seen = new IntersectionObserver((entries) => {
  for (const { target, isIntersecting } of entries) {
    const id = Number(target.dataset.frame);
    if (isIntersecting && target.hasAttribute("data-waits")) onScreen.add(id);
    else onScreen.delete(id);
  }
  clearTimeout(telling);
  telling = setTimeout(tell, 400);
});
let telling = 0;
let told = false;
async function tell() {
  if (told && !onScreen.size) return;
  told = true; // the first time also says that the shoot is worked on, and its pictures have to stay
  try {
    await send(`/shoots/${shoot}/on-screen`, { frames: [...onScreen].slice(0, 400) });
  } catch { /* it is done in its turn, then */ }
  onScreen.clear();
}

// --- what changes while the wall is open: some tiles a frame of the screen, so that no hand has to wait for them
const coming = new Map();
let draining = false;
function drain() {
  if (draining) return;
  draining = true;
  requestAnimationFrame(() => {
    draining = false;
    for (const [id, html] of [...coming].slice(0, AT_ONCE)) {
      coming.delete(id);
      const old = document.getElementById(`tile-${id}`);
      if (old) exchange(old, html);
    }
    if (coming.size) drain();
    else {
      document.documentElement.dataset.touched = touched;
      if (selecting.picked.size) doing.tell(selecting.picked); // what was rejected can be taken back in
    }
  });
}
function exchange(old, html) {
  const focused = old.contains(document.activeElement);
  old.outerHTML = html;
  const fresh = document.getElementById(`tile-${old.dataset.frame}`);
  if (focused) fresh.querySelector("a").focus();
  arrived(fresh);
  seen.observe(fresh);
}
let touched = Number(tiles.dataset.touched);
let source = null;
// a browser opens few connections to one place: a wall that nobody sees gives its own back, and goes on where it was
function listen() {
  source?.close();
  if (document.hidden) return;
  source = new EventSource(`/shoots/${shoot}/events?${new URLSearchParams({ since: touched, show, layout: tiles.dataset.layout })}`);
  source.addEventListener("tiles", (event) => {
    const news = JSON.parse(event.data);
    touched = news.touched;
    for (const { id, html } of news.tiles) {
      if (document.getElementById(`tile-${id}`)) coming.set(id, html);
      else if (filling) early.set(`tile-${id}`, html);
    }
    drain();
  });
  source.addEventListener("standing", (event) => {
    const old = document.getElementById("standing");
    const { heads, filters } = JSON.parse(event.data);
    for (const [id, html] of Object.entries(heads)) putHead(id, html);
    const marks = document.getElementById("filters");
    if (!marks.contains(document.activeElement)) marks.outerHTML = filters;
    if (old.querySelector("[aria-expanded=true]") || old.contains(document.activeElement)) {
      waiting = event.data; // a panel is open: not under somebody's hand
      return;
    }
    put(event.data);
  });
  source.addEventListener("layout", () => {
    redraw = true;
  });
  source.addEventListener("error", () => {
    source.close(); // begun anew from the newest change that was seen
    setTimeout(listen, 2000);
  });
}
document.addEventListener("visibilitychange", listen);
window.addEventListener("pagehide", () => source?.close());
// a panel or a dialog is open or on its way, or something is typed or selected: nothing is drawn anew under somebody's hand
const busy = () => document.documentElement.hasAttribute("data-busy")
  || document.querySelector("[data-scene-head] [aria-expanded=true], #standing [aria-expanded=true], [data-selected], dialog[open]");
function putHead(id, html) {
  const old = document.querySelector(`[data-scene-head="${id}"]`);
  if (!old || old.querySelector("[aria-expanded=true]") || old.contains(document.activeElement)) return;
  const made = document.createElement("template");
  made.innerHTML = html.trim();
  const fresh = made.content.firstElementChild;
  if (fresh.isEqualNode(old)) return;
  old.replaceWith(fresh);
  window.htmx.process(fresh);
  window.Alpine?.initTree(fresh);
}
// other scenes, or other frames in them: drawn anew when nobody works here, and not with every frame that comes in
let redraw = false;
let touchedAt = 0; // somebody who has just clicked may be on the way to another page
for (const kind of ["pointerdown", "keydown"]) document.addEventListener(kind, () => { touchedAt = Date.now(); }, true);
setInterval(() => { if (redraw && !busy() && Date.now() - touchedAt > 3000) window.location.reload(); }, 1500);
let waiting = null;
function put(data) {
  waiting = null;
  document.getElementById("standing").outerHTML = JSON.parse(data).html;
  const fresh = document.getElementById("standing");
  window.htmx.process(fresh);
  window.Alpine?.initTree(fresh);
}
document.addEventListener("click", () => setTimeout(() => {
  const now = document.getElementById("standing");
  if (waiting && !now.querySelector("[aria-expanded=true]") && !now.contains(document.activeElement)) put(waiting);
}, 300));

tiles.querySelectorAll(".wall-page[data-place]").forEach(hold);
tiles.querySelectorAll(".tile[data-frame]").forEach((tile) => { arrived(tile); seen.observe(tile); });
window.addEventListener("load", listen);
window.addEventListener("pageshow", (event) => { if (event.persisted) listen(); }); // brought back as it was left
telling = setTimeout(tell, 400);
