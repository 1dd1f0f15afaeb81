// The check: one frame after another by keys. The next pictures are decoded and made while one is looked at.
import { send, toast, told } from "../shared/api.js";
import { whileSpace } from "../shared/divider.js";
import { clearContours, drawContours } from "../shared/svg.js";

const page = document.getElementById("check");
const at = (name) => page.querySelector(`[data-${name}]`);
const { shoot } = page.dataset;
const AHEAD = 4;

let frames = []; // in the order they are looked at
let here = 0;
let done = Number(page.dataset.done);
let acting = Promise.resolve(); // one thing after another, in the order of the keys
const ready = new Map(); // address -> a decoded picture

const now = () => frames[here];
const open = () => frames.filter((f) => !f.seen).length;

function decode(address) {
  if (!ready.has(address)) {
    const image = new Image();
    image.src = address;
    ready.set(address, image.decode().catch(() => ready.delete(address)).then(() => image)); // failed, it is asked for again
    if (ready.size > 24) ready.delete(ready.keys().next().value);
  }
  return ready.get(address);
}

// the step that is dealt with stays the same while the frame is looked at, until another one is chosen
function toBlame(frame) {
  const chosen = frame.steps.find((s) => s.id === frame.chosen) ?? frame.steps[0];
  if (chosen) frame.chosen = chosen.id;
  return chosen;
}

function look() {
  const frame = now();
  at("side").hidden = !frame;
  at("end").hidden = Boolean(frame);
  at("picture").hidden = !frame;
  at("progress").textContent = frames.length ? `${done} seen, ${open()} to go` : "";
  Object.assign(at("bar"), { max: Math.max(done + open(), 1), value: done });
  at("name").textContent = frame?.name ?? "";
  strip();
  if (!frame) {
    point();
    return end();
  }
  at("picture").src = frame.picture;
  at("picture").alt = frame.name;
  at("original").src = frame.original;
  at("faults").replaceChildren(...frame.faults.map(({ kind, words }) => {
    const item = document.createElement("li");
    item.dataset.kind = kind;
    item.textContent = words;
    return item;
  }));
  page.querySelector('[data-key="where"]').hidden = !frame.faults.some((f) => f.where);
  point();
  const blamed = toBlame(frame);
  at("blamed").hidden = !blamed;
  for (const key of ["weaken", "leave out", "region"]) page.querySelector(`[data-key="${key}"]`).disabled = !blamed;
  page.querySelector('[data-key="step"]').hidden = frame.steps.length < 2;
  if (blamed) {
    at("step").textContent = blamed.name;
    at("strength").textContent = blamed.on ? `${blamed.strength} %` : "left out here";
    at("out").textContent = blamed.on ? "Leave it out here" : "Use it again here";
  }
  for (const field of page.querySelectorAll("[data-value]")) field.value = frame.base[field.dataset.value];
  ahead();
  return undefined;
}

// --- where a fault is: the contours of its mask, or stripes over the picture
let pointed = ""; // the address of what is shown, "" for nothing

// what is on the picture, in words over it
function name(words) {
  at("which").textContent = words;
  at("which").hidden = !words;
}

function unpoint() {
  pointed = "";
  point();
}
async function point() {
  const frame = now();
  const fault = frame?.faults.find((f) => f.where && f.where === pointed);
  if (!fault) pointed = "";
  const striped = Boolean(fault) && fault.kind !== "doubt";
  if (!striped) at("striped").hidden = true;
  if (!fault || striped) clearContours(at("contours"));
  [...at("faults").children].forEach((item, i) => item.toggleAttribute("data-shown", Boolean(fault) && frame.faults[i] === fault));
  const places = frame ? frame.faults.filter((f) => f.where) : [];
  at("where-word").textContent = !fault ? "Show where" : fault === places.at(-1) ? "Hide it" : "Where the next is";
  name(fault ? "looking for the place" : "");
  if (!fault) return;
  try {
    if (striped) {
      const image = await decode(fault.where);
      if (pointed !== fault.where) return;
      if (!image.naturalWidth) throw new Error("Where it is can't be shown just now.");
      at("striped").src = image.src;
      at("striped").hidden = false;
    } else {
      const answer = await fetch(fault.where);
      if (!answer.ok) throw new Error(await answer.text());
      const contours = await answer.json();
      if (pointed !== fault.where) return;
      at("contours").setAttribute("viewBox", `0 0 1000 ${(1000 * frame.height) / frame.width}`);
      drawContours(at("contours"), contours);
    }
    name(fault.words);
  } catch (error) {
    if (pointed !== fault.where) return;
    unpoint();
    toast(error.message);
  }
}

function strip() {
  const next = frames.slice(Math.max(here - 1, 0), here + 9);
  at("strip").replaceChildren(...next.map((frame) => {
    const item = document.createElement("li");
    if (frame === now()) item.setAttribute("aria-current", "true");
    item.toggleAttribute("data-seen", Boolean(frame.seen));
    const image = document.createElement("img");
    Object.assign(image, { src: frame.small, alt: frame.name });
    item.append(image);
    return item;
  }));
}

function end() {
  const left = open();
  const skipped = left === 1 ? "One was skipped. It waits for another time." : `${left} were skipped. They wait for another time.`;
  const seen = done === 1 ? "It was seen." : `All ${done} seen.`;
  const words = left ? skipped : done ? `${seen} Nothing needs an eye any more.`
    : "Nothing needs an eye here: no mask is in doubt and no guard warns.";
  // what comes next is the main one: the skipped frames, or handing over
  const again = left ? '<button class="button button-main" type="button" data-again>Look at what was skipped</button>' : "";
  at("end").innerHTML = `<p></p><p class="flex gap-2">${again}<a class="button${left ? "" : " button-main"}" href="/shoots/${shoot}/hand-over">Hand over</a>
    <a class="button" href="/shoots/${shoot}">Wall</a></p>`;
  at("end").querySelector("p").textContent = words;
}

// what comes next is decoded here, and made there if it is not what the frame wants
function ahead() {
  const next = frames.slice(here + 1, here + 1 + AHEAD);
  for (const frame of [now(), ...next]) decode(frame.picture);
  const stale = next.filter((f) => f.stale);
  if (stale.length) send(`/shoots/${shoot}/check/ahead`, { frames: stale.map((f) => f.id) }).catch(() => {});
}

function go(to) {
  pointed = "";
  here = Math.max(0, Math.min(to, frames.length));
  fold();
  look();
}
function onward() {
  let next = here + 1;
  while (next < frames.length && frames[next].seen) next += 1;
  go(next);
}

function take(frame, fresh) {
  const { said, ...rest } = fresh;
  Object.assign(frame, rest);
  if (said) told(said);
}

// done in order; the page goes on at once, and the frame's new picture follows
function act(frame, asked, then = () => {}) {
  acting = acting.then(async () => {
    try {
      take(frame, await (await send(`/frames/${frame.id}/check`, asked)).json());
      then();
      if (frame === now()) look();
      else at("progress").textContent = `${done} seen, ${open()} to go`;
      if (asked.what === "accept") return;
      for (let tries = 0; tries < 60 && frame.stale; tries += 1) {
        take(frame, await (await send(`/frames/${frame.id}/check`, { what: "look" })).json());
      }
      await decode(frame.picture);
      if (frame === now()) look();
    } catch (error) {
      if (asked.what === "accept") {
        frame.seen = false;
        done -= 1;
      }
      toast(error.message);
      look();
    }
  });
  return acting;
}

function fold() {
  at("regions").hidden = at("base").hidden = true;
  for (const key of ["region", "base"]) page.querySelector(`[data-key="${key}"]`).setAttribute("aria-expanded", false);
}
function unfold(key, box) {
  const on = at(box).hidden;
  fold();
  at(box).hidden = !on;
  page.querySelector(`[data-key="${key}"]`).setAttribute("aria-expanded", on);
  return on;
}

const keys = {
  accept() {
    const frame = now();
    frame.seen = true;
    done += 1;
    act(frame, { what: "accept" });
    onward();
  },
  repair() { window.location.assign(`/frames/${now().id}?repair&from=check`); },
  weaken() { act(now(), { what: "weaken", step: now().chosen }); },
  "leave out"() { act(now(), { what: "leave out", step: now().chosen }); },
  step() {
    const { steps, chosen } = now();
    now().chosen = steps[(steps.findIndex((s) => s.id === chosen) + 1) % steps.length].id;
    look();
  },
  where() {
    const places = now().faults.map((f) => f.where).filter(Boolean);
    pointed = places[places.indexOf(pointed) + 1] ?? "";
    point();
  },
  region() { unfold("region", "regions"); },
  base() { if (unfold("base", "base")) page.querySelector("[data-value]").select(); },
  skip() { onward(); },
  back() {
    if (!here) return;
    go(here - 1);
    const frame = now();
    if (!frame.seen) return;
    frame.seen = false;
    done -= 1;
    act(frame, { what: "back" });
  },
  undo() { if (now()) act(now(), { what: "undo" }); },
};
const letters = { enter: "accept", m: "repair", w: "weaken", v: "where", n: "step", l: "leave out", p: "region", b: "base", s: "skip", arrowleft: "back", arrowright: "skip" };

page.addEventListener("click", (event) => {
  if (event.target.closest("[data-again]")) return begin();
  const key = event.target.closest("[data-key]")?.dataset.key;
  const region = event.target.closest("[data-region]")?.dataset.region;
  if (region) { fold(); return act(now(), { what: "region", region, step: now().chosen }); }
  if (key && (now() || key === "back")) keys[key]();
  event.target.closest("button")?.blur();
  return undefined;
});
page.addEventListener("change", (event) => {
  const name = event.target.dataset.value;
  if (name && event.target.value !== "") act(now(), { what: "base", values: { [name]: Number(event.target.value) } });
});
document.addEventListener("keydown", (event) => {
  const typing = event.target.closest?.("input");
  if (typing) {
    if (event.key === "Enter" || event.key === "Escape") { event.preventDefault(); typing.blur(); fold(); }
    return;
  }
  const key = event.key.toLowerCase();
  if (event.ctrlKey || event.metaKey) {
    if (key === "z") { event.preventDefault(); keys.undo(); }
    return;
  }
  if (event.altKey || (key === "enter" && event.target.closest?.("a, button"))) return;
  if (!at("regions").hidden && /^[1-5]$/.test(key)) {
    page.querySelectorAll("[data-region]")[Number(key) - 1].click();
    return;
  }
  if (key === "escape") return pointed ? unpoint() : fold();
  if (key === "f" && now()) return window.location.assign(`/frames/${now().id}?from=check`);
  const name = letters[key];
  if (!name || (!now() && name !== "back")) return;
  if (page.querySelector(`[data-key="${name}"]`)?.disabled) return;
  event.preventDefault();
  keys[name]();
});
const held = (on) => {
  at("original").hidden = !on || !now();
  name(on ? "original" : pointed && now().faults.find((f) => f.where === pointed).words);
};
whileSpace(() => held(true), () => held(false));

async function begin() {
  try {
    const answer = await fetch(`/shoots/${shoot}/check.json`, { cache: "no-store" });
    frames = (await answer.json()).frames;
    go(0);
    page.setAttribute("data-begun", "");
    if (frames.length) send(`/shoots/${shoot}/check/ahead`, { frames: [frames[0].id] }).catch(() => {});
  } catch {
    toast("Lens Keep does not answer. Is it still running?");
  }
}
begin();
