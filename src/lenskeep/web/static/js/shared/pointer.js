// Where on an element an event is, as shares of its width and height; and whether somebody is typing.
export const TYPING = "input:not([type=range]):not([type=checkbox]), select, textarea, dialog";

export function placeOn(element, event) {
  const r = element.getBoundingClientRect();
  return [(event.clientX - r.left) / r.width, (event.clientY - r.top) / r.height];
}

// the same, held to the element
export const placeWithin = (element, event) => placeOn(element, event).map((v) => Math.min(1, Math.max(0, v)));

// what a press on `on` goes on to: `move` at every move of that pointer, `done` once it is lifted or taken away
export function follow(on, event, move, done) {
  on.setPointerCapture(event.pointerId);
  on.addEventListener("pointermove", move);
  const end = () => {
    on.removeEventListener("pointermove", move);
    for (const name of ["pointerup", "pointercancel"]) on.removeEventListener(name, end);
    done();
  };
  for (const name of ["pointerup", "pointercancel"]) on.addEventListener(name, end);
}

// Which pointers are held down, and what waits until none is. One whose lifting went unnoticed (a menu of the system lay
// over the page) is found lifted at its next move.
const down = new Set();
const waiting = [];
function lifted(event) {
  if (!down.delete(event.pointerId) || down.size) return;
  // after the press's own events: a slider says what it was set to only once it is let go
  setTimeout(() => { if (!down.size) for (const go of waiting.splice(0)) go(); }, 0);
}
document.addEventListener("pointerdown", (event) => down.add(event.pointerId), true);
for (const name of ["pointerup", "pointercancel"]) document.addEventListener(name, lifted, true);
document.addEventListener("pointermove", (event) => { if (!event.buttons) lifted(event); }, true);

// resolved when nothing is held: what is under a hand is not exchanged for something else
export const handFree = () => (down.size ? new Promise((go) => { waiting.push(go); }) : Promise.resolve());
