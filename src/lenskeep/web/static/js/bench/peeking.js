// A step's or a group's switch held down: the picture without it, and nothing of it in the history.
const HELD = 350; // ms after which a press is a hold
const SWITCH = ".lane-row input[data-path$='/enabled'], .group-head input[data-path$='/enabled']";

const whose = (of) => {
  const group = of.closest("[data-group-head]")?.dataset.groupHead;
  return group ? { off_group: group } : { off: of.closest(".lane").dataset.step };
};

export function watchPeeking(lanes, comparing) {
  let waiting = 0;
  let peeking = false;

  lanes.addEventListener("pointerdown", (event) => {
    const of = event.target.closest(SWITCH);
    if (!of?.checked) return;
    waiting = setTimeout(() => { peeking = true; comparing.without(whose(of)); }, HELD);
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
