// The frame's base: tried on the picture while a slider moves, set when it is let go; a click on something neutral.
import { watchControls } from "../bench/sliders.js";
import { send, toast } from "../shared/api.js";
import { placeWithin } from "../shared/pointer.js";
import { SPACE, penOf } from "../shared/screen.js";

// `panel` holds the controls, `box` the picture, whose canvas is laid over it while something is tried; `follow` has the
// finished picture shown once it is there.
export function makeBase({ panel, box, free, follow }) {
  const section = () => panel.querySelector("#base");
  const canvas = box.querySelector("[data-trying]");
  let picking = false;
  let asking = false;
  let wanted = null;
  let moves = 0;
  let over = 0;

  function values() {
    const out = {};
    for (const slider of section().querySelectorAll("[data-slider]")) {
      out[slider.dataset.path] = Number(slider.querySelector('input[type="number"]').value);
    }
    return out;
  }

  // One picture at a time: the newest values are asked for when the one before has come; a draft while a slider moves,
  // the picture itself when it rests. `moves` counts what the hand does, `over` how
  // often what was tried gave way to what is kept.
  async function show(draft) {
    wanted = { draft };
    if (asking) return;
    asking = true;
    while (wanted) {
      const now = wanted;
      const [mine, before] = [moves, over];
      wanted = null;
      try {
        const answer = await send(`${section().dataset.address}/picture`, { base: values(), draft: now.draft, space: SPACE });
        const bitmap = await createImageBitmap(await answer.blob());
        if (before !== over || (mine !== moves && !now.draft)) continue;
        Object.assign(canvas, { width: bitmap.width, height: bitmap.height, hidden: false });
        penOf(canvas).drawImage(bitmap, 0, 0);
      } catch (error) {
        toast(error.message);
      }
    }
    asking = false;
  }

  const address = () => section().dataset.address;
  const post = (to, given = {}, target = "#panel") => window.htmx.ajax("POST", `${to}?only=${section().dataset.only}`, {
    target, values: given,
  });
  const make = (how, given) => post(`${address()}/${how}`, given);

  function settle() {
    show(false);
    return follow();
  }

  watchControls(panel, {
    live() { moves += 1; show(true); },
    set(changed) { post(address(), changed, "#base-rest").then(settle); },
  });

  function pick(on) {
    picking = on;
    section()?.querySelector('[data-base="neutral"]').setAttribute("aria-pressed", on);
    box.toggleAttribute("data-picking", on);
  }
  panel.addEventListener("click", (event) => {
    const how = event.target.closest("[data-base]")?.dataset.base;
    if (how === "neutral") return pick(!picking);
    if (how) return make(how);
    const way = event.target.closest("[data-deed]")?.dataset.deed;
    if (way) deed(way);
  });
  box.addEventListener("click", (event) => {
    if (!picking) return;
    event.stopImmediatePropagation();
    const [x, y] = placeWithin(box, event);
    pick(false);
    make("neutral", { x, y });
  }, true);
  const deed = (way) => post(address().replace(/base$/, way));
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && picking) pick(false);
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z" || !free() || !section()) return;
    if (event.target.closest?.("input[type=number], input[type=text], textarea")) return;
    const way = event.shiftKey ? "redo" : "undo";
    if (!section().querySelector(`[data-deed="${way}"]`)) return;
    event.preventDefault();
    deed(way);
  });
  return {
    // the finished picture is there: what was tried goes
    settled() {
      wanted = null;
      over += 1;
      canvas.hidden = true;
    },
    picking: () => picking,
    moves: () => moves,
  };
}
