// Where on an element an event is, as shares of its width and height; and whether somebody is typing.
export const TYPING = "input:not([type=range]):not([type=checkbox]), select, textarea, dialog";

export function placeOn(element, event) {
  const r = element.getBoundingClientRect();
  return [(event.clientX - r.left) / r.width, (event.clientY - r.top) / r.height];
}

// the same, held to the element
export const placeWithin = (element, event) => placeOn(element, event).map((v) => Math.min(1, Math.max(0, v)));
