// How the pictures are seen: views of the open step's region, the originals held, and the divider.
import { send, toast } from "../shared/api.js";
import { makeDivider, whileSpace } from "../shared/divider.js";

const at = (id) => document.getElementById(id);
const VIEWS = ["contours", "tint", "grey", "none"];

// `seen(name)` is called when another view is chosen; `openFirst()` opens a step where none is open.
export function makeComparing({ base, box, key, all, overlay, opened, openFirst, seen }) {
  let current = "contours";

  function view(name) {
    current = name;
    for (const button of document.querySelectorAll("[data-view]")) button.setAttribute("aria-pressed", button.dataset.view === name);
    at("tint-choice").hidden = name !== "tint";
    if (name !== "none" && !opened() && !openFirst()) toast("Add a step first; then its region can be shown.");
    seen(name);
  }
  document.querySelectorAll("[data-view]").forEach((b) => b.addEventListener("click", () => view(b.dataset.view)));

  async function originals() {
    const one = async (p) => {
      if (!p.original) await p.show("original", await send(`${base}/picture`, { frame: p.frame, side: p.side, view: "original" }));
    };
    await Promise.all(all.map(one));
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

  return {
    view: () => current,
    next: () => view(VIEWS[(VIEWS.indexOf(current) + 1) % VIEWS.length]),
    tint: () => (current === "tint" && at("tint-own").checked ? at("tint-colour").value : null),
  };
}
