// How the pictures are seen: views of the open step's region, the originals held, and the divider.
import { toast } from "../shared/api.js";
import { makeBeside } from "../shared/beside.js";
import { makeDivider, whileKey, whileSpace } from "../shared/divider.js";

const at = (id) => document.getElementById(id);
const VIEWS = ["contours", "tint", "grey", "none"];

// `seen(name)` is called when another view is chosen; `openFirst()` opens a step where none is open.
// `ask(picture)` brings one; `close` is the close view of the key frame; `fit()` sizes the key frame to its room.
export function makeComparing({ box, key, all, overlay, opened, openFirst, seen, ask, close, fit }) {
  let current = "contours";

  function view(name) {
    current = name;
    for (const button of document.querySelectorAll("[data-view]")) button.setAttribute("aria-pressed", button.dataset.view === name);
    at("tint-choice").hidden = name !== "tint";
    if (name !== "none" && !opened() && !openFirst()) toast("Add a step first; then its region can be shown.");
    seen(name);
  }
  document.querySelectorAll("[data-view]").forEach((b) => b.addEventListener("click", () => view(b.dataset.view)));

  // what can be held in place of the finished picture: the original, a kept state, the look without one step
  let kept = null; // { which, name }
  const other = {
    original: () => ({ view: "original" }),
    base: () => ({ view: "finished", step: null, guard: null, base: true }),
    pinned: () => ({ view: "finished", step: null, guard: null, pinned: kept.which }),
  };
  const WORDS = { original: "original", base: "base: without the masked steps", pinned: () => kept.name };
  const said = (kind) => (typeof WORDS[kind] === "function" ? WORDS[kind]() : WORDS[kind]);
  async function fetched(kind) {
    await Promise.all(all.map(async (p) => { if (!p[kind]) await p.show(kind, await ask(p, false, other[kind]())); }));
  }
  const originals = () => fetched("original");
  let turn = 0;
  async function hold(kind, words = "") {
    const mine = (turn += 1);
    try {
      if (kind) await fetched(kind);
    } catch (error) {
      return toast(error.message);
    }
    if (mine !== turn) return; // let go before it was there
    all.forEach((p) => { p.held = kind; p.paint(); });
    close().hold(kind, kind ? other[kind]() : null);
    overlay.toggleAttribute("hidden", kind !== "");
    at("which").hidden = kind === "";
    at("which").textContent = words;
    for (const name of ["original", "base", "pinned"]) at(name).setAttribute("aria-pressed", kind === name);
  }
  whileSpace(() => hold("original", "original"), () => hold(""));
  const pressed = (button) => at(button).getAttribute("aria-pressed") === "true";
  at("original").addEventListener("click", () => hold(pressed("original") ? "" : "original", "original"));
  // the look changes under a base that is seen: it is made anew
  const stale = (kind) => all.forEach((p) => { p[kind]?.close?.(); p[kind] = null; });
  at("base").addEventListener("click", () => {
    stale("base");
    hold(pressed("base") ? "" : "base", said("base"));
  });
  whileKey("b", () => { stale("base"); hold("base", said("base")); }, () => hold(""));
  at("pinned").addEventListener("click", () => hold(pressed("pinned") ? "" : "pinned", kept.name));
  whileKey("p", () => { if (kept) hold("pinned", kept.name); }, () => { if (kept) hold(""); });
  function pin(which, name) {
    kept = { which, name };
    stale("pinned");
    at("pinned").hidden = false;
    at("beside-of").querySelector('[value="pinned"]').hidden = false;
    if (beside.on()) { at("beside-of").value = "pinned"; beside.renew(); } else hold("pinned", name);
  }
  // the picture without a step or a group, and nothing of it in the history
  async function without(off) {
    stale("without");
    other.without = () => ({ view: "finished", step: null, guard: null, ...off });
    await hold("without", off.off_group ? "without this group" : "without this step");
  }
  const divider = makeDivider(at("split"), box, (place) => { key.split = place; key.paint(); close().split(place); });
  at("divider").addEventListener("click", async () => {
    const on = at("divider").getAttribute("aria-pressed") !== "true";
    if (on) await originals();
    at("divider").setAttribute("aria-pressed", on);
    if (!on) { key.split = null; close().split(null); }
    divider.show(on);
    key.paint();
  });

  // --- side by side, near and far
  const left = () => at("beside-of").value;
  const beside = makeBeside({
    rooms: at("key-rooms"), box, close, fit, words: () => said(left()),
    asked: () => (left() === "original" ? null : other[left()]()),
    async picture() {
      const kind = left();
      if (!key[kind]) await key.show(kind, await ask(key, false, other[kind]()));
      return key[kind];
    },
  });
  at("beside").addEventListener("click", () => {
    const on = !beside.on();
    at("beside").setAttribute("aria-pressed", on);
    stale("base");
    beside.show(on);
  });
  at("beside-of").addEventListener("change", () => { stale("base"); beside.renew(); });

  return {
    besides: () => beside.renew(),
    // what was held against the look is made anew where it follows the look
    async rested() {
      if (!pressed("base") && !(beside.on() && left() === "base")) return;
      stale("base");
      if (beside.on()) beside.renew();
      if (pressed("base")) hold("base", said("base"));
    },
    view: () => current,
    pin, without, letGo: () => hold(""),
    next: () => view(VIEWS[(VIEWS.indexOf(current) + 1) % VIEWS.length]),
    tint: () => (current === "tint" && at("tint-own").checked ? at("tint-colour").value : null),
  };
}
