// How the pictures are seen: views of the open step's region, the originals held, and the divider.
import { toast } from "../shared/api.js";
import { makeDivider, whileSpace } from "../shared/divider.js";

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

  async function originals() {
    const one = async (p) => {
      if (!p.original) await p.show("original", await ask(p, false, { view: "original" }));
    };
    await Promise.all(all.map(one));
  }
  let held = 0;
  async function hold(on) {
    const mine = (held += 1);
    if (on) await originals();
    if (mine !== held) return; // let go before the original was there
    all.forEach((p) => { p.held = on; p.paint(); });
    close().hold(on);
    overlay.toggleAttribute("hidden", on);
    at("which").hidden = !on;
    at("original").setAttribute("aria-pressed", on);
  }
  whileSpace(() => hold(true), () => hold(false));
  at("original").addEventListener("click", () => hold(at("original").getAttribute("aria-pressed") !== "true"));
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
    next: () => view(VIEWS[(VIEWS.indexOf(current) + 1) % VIEWS.length]),
    tint: () => (current === "tint" && at("tint-own").checked ? at("tint-colour").value : null),
  };
}
