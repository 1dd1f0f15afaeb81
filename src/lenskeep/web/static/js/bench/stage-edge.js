// The edge between pictures and steps: dragged or moved by arrows, kept for the next visit.
const [LEAST, MOST, FIRST] = [0.3, 0.7, 0.5];

export function makeStageEdge(bar, changed) {
  let share = FIRST;
  try { share = Number(localStorage.getItem("stage-share")) || FIRST; } catch { /* storage may be closed */ }
  function put(value) {
    share = Math.min(MOST, Math.max(LEAST, value));
    bar.setAttribute("aria-valuenow", Math.round(100 * share));
    try { localStorage.setItem("stage-share", share); } catch { /* storage may be closed */ }
    changed();
  }
  bar.setAttribute("aria-valuenow", Math.round(100 * share));
  bar.addEventListener("pointerdown", (event) => {
    const [start, before] = [event.clientY, share];
    bar.setPointerCapture(event.pointerId);
    const move = (e) => put(before + (e.clientY - start) / window.innerHeight);
    bar.addEventListener("pointermove", move);
    bar.addEventListener("pointerup", () => bar.removeEventListener("pointermove", move), { once: true });
  });
  bar.addEventListener("keydown", (event) => {
    const by = { ArrowUp: -0.02, ArrowDown: 0.02 }[event.key];
    if (!by) return;
    event.preventDefault();
    put(share + by);
  });
  return { share: () => share };
}
