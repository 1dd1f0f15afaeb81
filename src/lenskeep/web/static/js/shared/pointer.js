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
