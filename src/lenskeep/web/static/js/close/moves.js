// Wheel, double click, drag and keys of the close view.
const PAUSE = 220; // ms between two steps of the wheel
const PINCH = 1.3; // how far two fingers part for a step
const FIELD = "input:not([type=range]):not([type=checkbox]), select, textarea, dialog, [role=slider], [role=application], .handle";

export function watchMoves({ room, box, on, free, step, by, face, toggle }) {
  let pointer = null;
  let wheeled = 0;
  const onPicture = (event) => event.target.closest && box.contains(event.target);
  room.addEventListener("pointermove", (event) => { pointer = onPicture(event) ? [event.clientX, event.clientY] : null; });
  room.addEventListener("pointerleave", () => { pointer = null; });
  room.addEventListener("wheel", (event) => {
    if (event.ctrlKey || !onPicture(event) || Math.abs(event.deltaY) < 4) return;
    event.preventDefault();
    if (event.timeStamp - wheeled < PAUSE) return;
    wheeled = event.timeStamp;
    step(event.deltaY < 0 ? 1 : -1, [event.clientX, event.clientY]);
  }, { passive: false });
  box.addEventListener("dblclick", (event) => {
    if (free() && !event.target.closest(".handle, .split")) toggle([event.clientX, event.clientY]);
  });
  // two fingers drawn apart or together go a step nearer or farther, about the point between them
  const fingers = new Map();
  let spread = 0;
  const between = () => {
    const [a, b] = [...fingers.values()];
    return { far: Math.hypot(a[0] - b[0], a[1] - b[1]), middle: [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2] };
  };
  room.addEventListener("pointerdown", (event) => {
    if (event.pointerType !== "touch" || !onPicture(event)) return;
    fingers.set(event.pointerId, [event.clientX, event.clientY]);
    if (fingers.size === 2) spread = between().far;
  }, true);
  document.addEventListener("pointermove", (event) => {
    if (!fingers.has(event.pointerId)) return;
    fingers.set(event.pointerId, [event.clientX, event.clientY]);
    if (fingers.size !== 2 || spread === 0) return;
    const { far, middle } = between();
    if (far > spread * PINCH || far < spread / PINCH) {
      step(far > spread ? 1 : -1, middle);
      spread = far;
    }
  }, true);
  for (const name of ["pointerup", "pointercancel"]) document.addEventListener(name, (event) => fingers.delete(event.pointerId), true);
  box.addEventListener("pointerdown", (event) => {
    const middle = event.button === 1;
    if (!on() || !(middle || (event.button === 0 && free())) || event.target.closest(".handle, .split")) return;
    event.preventDefault();
    document.activeElement?.blur?.(); // a field that was typed in would take the keys that follow
    box.setPointerCapture(event.pointerId);
    room.toggleAttribute("data-close-drags", true);
    let [x, y] = [event.clientX, event.clientY];
    const move = (e) => {
      if (e.pointerId !== event.pointerId || fingers.size > 1) { [x, y] = [e.clientX, e.clientY]; return; }
      by(e.clientX - x, e.clientY - y);
      [x, y] = [e.clientX, e.clientY];
    };
    box.addEventListener("pointermove", move);
    const end = () => {
      box.removeEventListener("pointermove", move);
      room.removeAttribute("data-close-drags");
    };
    box.addEventListener("pointerup", end, { once: true });
    box.addEventListener("pointercancel", end, { once: true });
  });
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest?.(FIELD)) return;
    const key = event.key.toLowerCase();
    if (key === "z") toggle(pointer);
    else if (key === "f") face();
    else if (on() && free() && (key === "+" || key === "=" || key === "-")) step(key === "-" ? -1 : 1, pointer);
    else if (on() && !event.target.closest?.("input[type=range]")) {
      const way = { arrowleft: [1, 0], arrowright: [-1, 0], arrowup: [0, 1], arrowdown: [0, -1] }[key];
      if (!way) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      const far = event.shiftKey ? 0.1 : 0.35;
      by(way[0] * far * room.clientWidth, way[1] * far * room.clientHeight);
    }
  }, true);
}
