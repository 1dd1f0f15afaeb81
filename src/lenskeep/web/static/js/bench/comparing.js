// How the pictures are seen: views of the open step's region, the originals held, and the divider.
import { toast } from "../shared/api.js";
import { makeDivider, whileKey, whileSpace } from "../shared/divider.js";

const at = (id) => document.getElementById(id);
const VIEWS = ["contours", "tint", "grey", "none"];

// `seen(name)` is called when another view is chosen; `openFirst()` opens a step where none is open.
// `ask(picture)` brings one; `close` is the close view of the key frame.
export function makeComparing({ box, key, all, overlay, opened, openFirst, seen, ask, close }) {
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
    pinned: () => ({ view: "finished", step: null, guard: null, pinned: kept.which }),
  };
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
    at("original").setAttribute("aria-pressed", kind === "original");
    at("pinned").setAttribute("aria-pressed", kind === "pinned");
  }
  whileSpace(() => hold("original", "original"), () => hold(""));
  const pressed = (button) => at(button).getAttribute("aria-pressed") === "true";
  at("original").addEventListener("click", () => hold(pressed("original") ? "" : "original", "original"));
  at("pinned").addEventListener("click", () => hold(pressed("pinned") ? "" : "pinned", kept.name));
  whileKey("p", () => { if (kept) hold("pinned", kept.name); }, () => { if (kept) hold(""); });
  function pin(which, name) {
    kept = { which, name };
    all.forEach((p) => { p.pinned?.close?.(); p.pinned = null; });
    at("pinned").hidden = false;
    hold("pinned", name);
  }
  // a step's switch held down: the picture without it, and nothing of it in the history
  async function without(step) {
    all.forEach((p) => { p.without?.close?.(); p.without = null; });
    other.without = () => ({ view: "finished", step: null, guard: null, off: step });
    await hold("without", "without this step");
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

  return {
    view: () => current,
    pin, without, letGo: () => hold(""),
    next: () => view(VIEWS[(VIEWS.indexOf(current) + 1) % VIEWS.length]),
    tint: () => (current === "tint" && at("tint-own").checked ? at("tint-colour").value : null),
  };
}
