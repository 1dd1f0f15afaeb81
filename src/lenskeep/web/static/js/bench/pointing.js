// Pointing first: what lies under the pointer lights up by outline, name and share; clicks collect it, Alt takes it away;
// then it is said what is to be done there. Everything that was found can be chosen from a list as well.
import { send, toast } from "../shared/api.js";
import { placeWithin } from "../shared/pointer.js";
import { make } from "../shared/svg.js";

const STILL = 5; // px that a click may move
const at = (id) => document.getElementById(id);
const per = (share) => (share < 0.01 ? "under 1 %" : `${Math.round(100 * share)} %`);

// `free()` says whether the hand has nothing else to do on the picture; `opened()` is the open step's lane; `edit` does it.
export function makePointing({ overlay, base, frame, free, opened, edit }) {
  const [bar, list, told] = [at("gathered"), at("found-list"), at("lit-name")];
  const gathered = []; // { id, name, share, path, one, other, x, y, away }
  let scene = null; // { of, with }, on how many frames of the scene each kind is
  let things = null;
  let busy = false;
  let next = null;
  let lit = "";

  const clear = (name) => overlay.querySelectorAll(`.${name}`).forEach((old) => old.remove());
  const place = (event) => placeWithin(overlay, event);
  const under = async (x, y, one = null) => (await send(`${base}/under`, { frame: frame(), x, y, one })).json();
  function frames(each) {
    if (!scene || each.one || !each.mask) return "";
    return ` – on ${scene.with[each.mask] ?? 0} of ${scene.of} frames`;
  }

  // --- lighting up
  function light(each) {
    const id = each ? each.id : "";
    told.hidden = !each;
    if (each) told.textContent = `${each.name}, ${per(each.share)} of the frame${frames(each)}`;
    if (id === lit) return;
    lit = id;
    clear("lit");
    if (each) make("path", { class: "lit", d: each.path }, overlay);
  }
  // one question at a time, and the last place is always asked for
  async function ask(x, y) {
    if (busy) { next = [x, y]; return; }
    busy = true;
    try {
      const found = await under(x, y);
      const still = () => free() && overlay.matches(":hover");
      if (still()) light(found);
      if (!scene) {
        await everything();
        if (still()) light(found); // with the number of frames
      }
    } catch { /* the next move asks again */ }
    busy = false;
    const [again] = [next];
    next = null;
    if (again) ask(...again);
  }
  overlay.addEventListener("pointermove", (event) => {
    if (event.pointerType === "touch" || event.buttons) return;
    if (!free() || event.target.closest(".handle, .gradient-mark")) return light(null);
    ask(...place(event));
  });
  overlay.addEventListener("pointerleave", () => light(null));

  // --- collecting
  let down = null;
  overlay.addEventListener("pointerdown", (event) => { down = event.button === 0 && free() && !event.target.closest(".handle, .gradient-mark") ? [event.clientX, event.clientY] : null; });
  overlay.addEventListener("click", async (event) => {
    const still = down && Math.hypot(event.clientX - down[0], event.clientY - down[1]) < STILL;
    if (!still || !free()) return;
    try {
      const found = await under(...place(event));
      if (found) take(found, event.altKey);
    } catch (error) {
      toast(error.message);
    }
  });
  // again: put back; the other way round: turned
  function take(each, away) {
    const known = gathered.findIndex((g) => g.id === each.id);
    if (known >= 0 && gathered[known].away === away) gathered.splice(known, 1);
    else if (known >= 0) gathered[known].away = away;
    else gathered.push({ ...each, away });
    show();
  }
  async function turn(index) {
    const { x, y, one, away } = gathered[index];
    const other = await under(x, y, !one);
    if (other && !gathered.some((g) => g.id === other.id)) gathered[index] = { ...other, away };
    show();
  }
  function empty() {
    gathered.length = 0;
    light(null);
    show();
  }

  function show() {
    clear("gathered-outline");
    for (const each of gathered) make("path", { class: `gathered-outline ${each.away ? "gathered-away" : ""}`, d: each.path }, overlay);
    bar.hidden = gathered.length === 0;
    const chips = bar.querySelector("[data-gathered-chips]");
    chips.replaceChildren(...gathered.map((each, i) => {
      const chip = document.createElement("button");
      Object.assign(chip, { type: "button", className: "chip", textContent: `${each.away ? "without " : ""}${each.name}`, disabled: !each.other });
      chip.title = each.other ? `Press to mean ${each.one ? "its whole kind" : "this one alone"}` : "";
      chip.dataset.turn = i;
      return chip;
    }));
    at("gathered-share").textContent = gathered.length === 1 ? `${per(gathered[0].share)} of the frame${frames(gathered[0])}` : "";
    const lane = opened();
    const into = bar.querySelector("[data-gathered-into]");
    into.hidden = !lane;
    if (lane) into.textContent = `Into “${lane.querySelector("strong").textContent.trim()}”`;
    if (!list.hidden) listed();
  }
  bar.addEventListener("click", (event) => {
    const chip = event.target.closest("[data-turn]");
    if (chip) return turn(Number(chip.dataset.turn));
    if (event.target.closest("[data-gathered-clear]")) return empty();
    if (event.target.closest("[data-gathered-into]")) return done({ step: opened().dataset.step });
  });
  bar.querySelector("form").addEventListener("submit", (event) => {
    event.preventDefault();
    event.stopPropagation(); // no form of the page's own
    done({ what: event.target.elements.what.value });
  });
  async function done(more) {
    const places = gathered.map(({ x, y, one, away }) => ({ x, y, one, away }));
    empty();
    await edit("gather", { frame: frame(), places, ...more });
  }

  // --- the list of everything that was found
  async function everything() {
    const found = await (await send(`${base}/found`, { frame: frame() })).json();
    scene = { of: found.of, with: found.with };
    things = found.things;
  }
  function listed() {
    list.querySelector("[data-found-things]").replaceChildren(...things.map((each, i) => {
      const row = document.createElement("button");
      const held = gathered.find((g) => g.id === each.id);
      Object.assign(row, { type: "button", className: "option", textContent: `${each.name}, ${per(each.share)}${frames(each)}` });
      row.setAttribute("aria-pressed", Boolean(held));
      row.dataset.found = i;
      return row;
    }));
  }
  const opener = at("found-open");
  function toggle(on) {
    list.hidden = !on;
    opener.setAttribute("aria-expanded", on);
    if (!on) light(null);
  }
  opener.addEventListener("click", async () => {
    if (!list.hidden) return toggle(false);
    try {
      if (!things) await everything();
    } catch (error) {
      return toast(error.message);
    }
    listed();
    toggle(true);
    list.querySelector("[data-found]")?.focus();
  });
  for (const name of ["pointerover", "focusin"]) {
    list.addEventListener(name, (event) => {
      const row = event.target.closest("[data-found]");
      if (row) light(things[Number(row.dataset.found)]);
    });
  }
  list.addEventListener("click", (event) => {
    const row = event.target.closest("[data-found]");
    if (!row) return;
    const index = row.dataset.found;
    take(things[Number(index)], event.altKey);
    list.querySelector(`[data-found="${index}"]`)?.focus();
  });
  document.addEventListener("pointerdown", (event) => { if (!list.hidden && !event.target.closest("#found-list, #found-open, #overlay, #gathered")) toggle(false); });
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Escape" || event.target.closest?.("dialog, [data-picker]")) return;
    if (!list.hidden) { toggle(false); opener.focus(); } else if (gathered.length && free()) empty();
  });

  return { show, off: () => light(null) };
}
