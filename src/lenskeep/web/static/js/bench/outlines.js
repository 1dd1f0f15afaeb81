// The open step's region on the pictures: contours, and handles of what is drawn.
import { send } from "../shared/api.js";
import { clearContours, drawContours } from "../shared/svg.js";
import { clearHandles, drawHandles, isDrawn } from "./handles.js";

// `contours()` says whether they are to be seen, `handles()` the same of handles; `asked(picture)` what is on it;
// `marks` are those of the other steps' gradients.
export function makeOutlines({ base, key, witnesses, overlay, overlays, height, facts, opened, asked, contours, handles, marks, write }) {
  let busy = false;
  let again = false;

  async function drawRegion(onWitnesses = false) {
    const lane = opened();
    if (!(lane && contours() && lane.querySelector("[data-part]"))) return clear();
    if (busy) { again = true; return; }
    busy = true;
    const one = async (picture, svg) => {
      try {
        drawContours(svg, await (await send(`${base}/contours`, { ...asked(picture), step: lane.dataset.step })).json());
      } catch {
        clearContours(svg);
      }
    };
    await one(key, overlay);
    if (onWitnesses) for (const [i, w] of witnesses.entries()) if (!again) await one(w, overlays[i]);
    busy = false;
    if (again) { again = false; drawRegion(onWitnesses); }
  }

  const clear = () => [overlay, ...overlays].forEach(clearContours);

  function placeHandles() {
    marks?.show();
    clearHandles(overlay);
    const lane = opened();
    if (!lane || !handles()) return;
    for (const part of lane.querySelectorAll("[data-part]")) {
      const kind = part.dataset.part;
      if (!isDrawn(kind)) continue;
      const number = part.dataset.name.match(/\d+/)?.[0] ?? "";
      const moved = (changed, done) => write(part.dataset.partPath, changed, done, false);
      drawHandles(overlay, { kind, values: partValues(part), number }, facts, height, moved);
    }
  }

  return { drawRegion, clear, placeHandles };
}

export function partValues(part) {
  const values = {};
  for (const field of part.querySelectorAll(":scope [data-path]")) {
    const shown = Number(field.dataset.shown || 1);
    values[field.dataset.path.split("/").pop()] = field.type === "number" ? Number(field.value) / shown : field.value;
  }
  return values;
}
