// The few settings that a chip opens, beside the picture where its handles are. One at a time; Escape closes it. It
// stays open, by name, when the lanes are given anew.
const GAP = 12;
const LEAST = 200;
const MOST = 300;

// `box` is the key frame; `opened(panel, byHand)` is called when one opens, `closed()` when none is open any more.
export function makePanels(lanes, { box, opened, closed }) {
  let name = null;

  const panelOf = (wanted) => lanes.querySelector(`.lane[data-open] [data-panel="${wanted}"]`);
  const chipOf = (wanted) => lanes.querySelector(`.lane[data-open] [data-chip="${wanted}"]`);

  // left of the picture, over the measures. Not in the panel's own style: that would come back with the lanes as an
  // attribute, which the page's policy forbids.
  function place() {
    const stage = document.querySelector(".stage-area").getBoundingClientRect();
    const width = Math.max(LEAST, Math.min(MOST, box.getBoundingClientRect().left - 2 * GAP));
    const where = { left: GAP, top: stage.top + GAP, width, height: stage.height - 2 * GAP };
    for (const [side, length] of Object.entries(where)) document.documentElement.style.setProperty(`--panel-${side}`, `${length}px`);
  }

  // as it should be after anything changed
  function show() {
    const panel = name && panelOf(name);
    if (!panel) name = null;
    for (const each of lanes.querySelectorAll("[data-panel]")) each.hidden = each !== panel;
    for (const chip of lanes.querySelectorAll("[data-chip]")) chip.setAttribute("aria-expanded", chip.dataset.chip === name && Boolean(chip.closest(".lane[data-open]")));
    if (panel) place();
  }

  function open(wanted, byHand = true) {
    name = wanted;
    show();
    if (name) opened(panelOf(name), byHand);
  }

  function close(andFocus = false) {
    const chip = name && chipOf(name);
    name = null;
    show();
    closed();
    if (andFocus) chip?.focus();
  }

  lanes.addEventListener("click", (event) => {
    const chip = event.target.closest("[data-chip]");
    if (chip && chip.dataset.chip === name) close();
    else if (chip) open(chip.dataset.chip);
    else if (event.target.closest("[data-panel-close]")) close(true);
  });
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Escape" || !name || event.target.closest?.("dialog, [data-picker]")) return;
    close(lanes.contains(document.activeElement));
  });
  window.addEventListener("resize", show);

  return { show, open, close, name: () => name };
}
