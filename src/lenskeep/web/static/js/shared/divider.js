// A divider that is dragged over a picture, or moved with the arrow keys. Reports its place as 0…1.
import { TYPING } from "./pointer.js";

export function makeDivider(split, box, moved) {
  let place = 0.5;
  const put = (value) => {
    place = Math.min(1, Math.max(0, value));
    split.style.left = `${100 * place}%`;
    split.setAttribute("aria-valuenow", Math.round(100 * place));
    moved(place);
  };
  split.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    split.setPointerCapture(event.pointerId);
    const follow = (e) => {
      const r = box.getBoundingClientRect();
      put((e.clientX - r.left) / r.width);
    };
    split.addEventListener("pointermove", follow);
    split.addEventListener("pointerup", () => split.removeEventListener("pointermove", follow), { once: true });
  });
  split.addEventListener("keydown", (event) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!by) return;
    event.preventDefault();
    put(place + by * (event.shiftKey ? 0.005 : 0.02));
  });
  return { show(on) { split.hidden = !on; if (on) put(place); }, get place() { return place; } };
}

// Space held down, outside of fields and buttons. ``up`` is called for every ``down``, however quick the tap.
export function whileSpace(down, up) {
  whileHeld((event) => event.code === "Space" && !event.target.closest?.("input, select, textarea, button, summary, dialog"), down, up);
}

// A letter held down, outside of fields.
export function whileKey(letter, down, up) {
  const plain = (event) => event.key.toLowerCase() === letter && !event.ctrlKey && !event.metaKey && !event.altKey;
  whileHeld((event) => plain(event) && !event.target.closest?.(TYPING), down, up);
}

function whileHeld(meant, down, up) {
  let held = false;
  const release = () => {
    if (held) up();
    held = false;
  };
  document.addEventListener("keydown", (event) => {
    if (!meant(event)) return;
    event.preventDefault();
    if (event.repeat || held) return;
    held = true;
    down();
  });
  document.addEventListener("keyup", release);
  window.addEventListener("blur", release);
}
