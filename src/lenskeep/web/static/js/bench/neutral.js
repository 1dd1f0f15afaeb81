// A click on something that should be neutral: the next click on the key frame says what. Escape puts it away.
import { placeWithin } from "../shared/pointer.js";

const button = () => document.querySelector("[data-neutral]");

export function makeNeutral({ lanes, overlay, frame, edit, drop }) {
  let on = false;
  function turn(next) {
    on = next;
    document.body.toggleAttribute("data-picking", on);
    button().setAttribute("aria-pressed", on);
    if (on) drop();
  }
  lanes.addEventListener("click", (event) => {
    if (event.target.closest("[data-neutral]")) turn(!on);
    const hold = event.target.closest("[data-hold]");
    if (hold) edit("hold-balance", { step: hold.closest(".lane").dataset.step, adjustment: hold.dataset.hold, frame: frame() });
  });
  overlay.addEventListener("click", (event) => {
    if (!on) return;
    event.stopImmediatePropagation();
    const [x, y] = placeWithin(overlay, event);
    turn(false);
    edit("neutral", { frame: frame(), x, y });
  }, true);
  document.addEventListener("keydown", (event) => { if (event.key === "Escape" && on) turn(false); });
  return { active: () => on };
}
