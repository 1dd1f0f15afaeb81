// Steps moved to any place: dragged by their grip, or with the arrows on it.
const STEP = { ArrowUp: -1, ArrowDown: 1 };
const EDGE = 40;

// `move(step, by)` moves one by so many places.
export function watchDragging(lanes, { move }) {
  let held = null; // { lane, from, to, line }

  const rows = () => [...lanes.querySelectorAll(".lane")];
  // before which row it would stand: the number of rows whose middle lies above the pointer
  // steps of a folded group stand where its head does
  const seen = (lane) => (lane.hidden ? document.getElementById(`group-${lane.dataset.group}`) : lane).getBoundingClientRect();
  const placeOf = (y) => rows().filter((lane) => { const r = seen(lane); return y > r.top + r.height / 2; }).length;

  function mark(to) {
    const all = rows();
    held.to = to;
    const next = all[to];
    if (next) next.before(held.line);
    else all[all.length - 1].after(held.line);
  }

  lanes.addEventListener("pointerdown", (event) => {
    const grip = event.target.closest("[data-grip]");
    if (!grip || event.button) return;
    const lane = grip.closest(".lane");
    const line = document.createElement("div");
    line.className = "drop-line";
    held = { lane, from: rows().indexOf(lane), to: null, line };
    grip.setPointerCapture(event.pointerId);
    lane.setAttribute("data-dragged", "");
  });
  lanes.addEventListener("pointermove", (event) => {
    if (!held) return;
    const r = lanes.getBoundingClientRect();
    if (event.clientY > r.bottom - EDGE) lanes.scrollTop += 12;
    if (event.clientY < r.top + 2 * EDGE) lanes.scrollTop -= 12;
    mark(placeOf(event.clientY));
  });
  function drop(done) {
    if (!held) return;
    const { lane, from, to, line } = held;
    held = null;
    line.remove();
    lane.removeAttribute("data-dragged");
    if (!done || to === null) return;
    const by = (to > from ? to - 1 : to) - from;
    if (by) move(lane.dataset.step, by);
  }
  lanes.addEventListener("pointerup", () => drop(true));
  lanes.addEventListener("pointercancel", () => drop(false));
  document.addEventListener("keydown", (event) => { if (event.key === "Escape") drop(false); }, true);
  lanes.addEventListener("keydown", async (event) => {
    const grip = event.target.closest("[data-grip]");
    const by = STEP[event.key];
    if (!grip || !by) return;
    event.preventDefault();
    const { step } = grip.closest(".lane").dataset;
    await move(step, by);
    lanes.querySelector(`#lane-${step} [data-grip]`)?.focus();
  });
}
