// Controls of the lanes: sliders with number fields, check boxes, choices. A slider is live while it moves and set
// when it is let go. Double click or Delete returns to neutral; Shift with an arrow is a tenth of a step.
export function watchControls(root, { live, set }) {
  const slider = (element) => element.closest("[data-slider]");
  const real = (box, shown) => Number((shown * Number(box.dataset.scale || 1)).toFixed(6));
  const put = (box, shown) => {
    const [range, number] = box.querySelectorAll("input");
    const held = Math.min(Number(range.max), Math.max(Number(range.min), shown));
    range.step = "any";
    range.value = held;
    number.value = Number(held.toFixed(3));
    return real(box, held);
  };
  const commit = (box, shown) => {
    const value = put(box, shown);
    live(box.dataset.path, value);
    set({ [box.dataset.path]: value }, box.dataset.did);
  };

  root.addEventListener("input", (event) => {
    const box = slider(event.target);
    if (!box || event.target.type !== "range") return;
    live(box.dataset.path, put(box, stepped(event.target, Number(event.target.value))));
  });
  root.addEventListener("change", (event) => {
    const box = slider(event.target);
    if (box) {
      const shown = Number(event.target.value);
      if (event.target.value === "" || Number.isNaN(shown)) return commit(box, Number(box.dataset.neutral));
      return commit(box, event.target.type === "range" ? stepped(event.target, shown) : shown);
    }
    const { path, did } = event.target.dataset;
    if (!path) return;
    const kind = event.target.type;
    if ("anchor" in event.target.dataset) return;
    if (kind === "number" && event.target.value === "") {
      event.target.value = event.target.defaultValue; // nothing typed changes nothing
      return;
    }
    const shown = Number(event.target.dataset.shown || 1);
    const typed = Math.min(Number(event.target.max || Infinity), Math.max(Number(event.target.min || -Infinity), Number(event.target.value)));
    if (kind === "number") event.target.value = typed;
    const value = kind === "checkbox" ? event.target.checked : kind === "number" ? Number((typed / shown).toFixed(6)) : event.target.value;
    live(path, value);
    set({ [path]: value }, did);
  });
  root.addEventListener("dblclick", (event) => {
    const box = slider(event.target);
    if (box && event.target.type === "range") commit(box, Number(box.dataset.neutral));
  });
  root.addEventListener("keydown", (event) => {
    const box = slider(event.target);
    if (!box || event.target.type !== "range") return;
    if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      return commit(box, Number(box.dataset.neutral));
    }
    const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
    if (!by) return;
    event.preventDefault();
    const step = Number(box.querySelector('input[type="number"]').step) * (event.shiftKey ? 0.1 : 1);
    commit(box, Number(event.target.value) + by * step);
  });

  function stepped(range, value) {
    const step = Number(slider(range).querySelector('input[type="number"]').step);
    return Math.round(value / step) * step;
  }
}
