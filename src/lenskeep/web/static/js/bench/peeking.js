// A step's switch held down: the picture without that step, and nothing of it in the history.
const HELD = 350; // ms after which a press is a hold
const SWITCH = ".lane-row input[data-path$='/enabled']";

export function watchPeeking(lanes, comparing) {
  let waiting = 0;
  let peeking = false;

  lanes.addEventListener("pointerdown", (event) => {
    const of = event.target.closest(SWITCH);
    if (!of?.checked) return;
    waiting = setTimeout(() => { peeking = true; comparing.without(of.closest(".lane").dataset.step); }, HELD);
  });
  for (const name of ["pointerup", "pointercancel"]) {
    document.addEventListener(name, () => {
      clearTimeout(waiting);
      if (peeking) comparing.letGo();
      setTimeout(() => { peeking = false; }, 0);
    });
  }
  lanes.addEventListener("click", (event) => { if (peeking && event.target.matches(SWITCH)) event.preventDefault(); }, true);
}
