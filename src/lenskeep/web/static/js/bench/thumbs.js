// Small grey masks on the lanes, renewed when a region changes; pointed at, they are seen larger.
import { send } from "../shared/api.js";
import { settingsOf } from "./settings.js";

const masks = new Map(); // of each step, as it was last drawn

export async function paintThumbs(lanes, base, frame, values) {
  for (const lane of lanes.querySelectorAll(".lane")) {
    const canvas = lane.querySelector(".lane-thumb");
    const pen = canvas.getContext("2d");
    masks.delete(lane.dataset.step);
    if (canvas.dataset.region === "0") {
      pen.fillStyle = "#fff";
      pen.fillRect(0, 0, canvas.width, canvas.height);
      continue;
    }
    try {
      const asked = { frame, side: "witness", view: "grey", step: lane.dataset.step, values: settingsOf(values) };
      const bitmap = await createImageBitmap(await (await send(`${base}/picture`, asked)).blob());
      const scale = Math.min(canvas.width / bitmap.width, canvas.height / bitmap.height);
      const [w, h] = [bitmap.width * scale, bitmap.height * scale];
      pen.fillStyle = "#767676";
      pen.fillRect(0, 0, canvas.width, canvas.height);
      pen.drawImage(bitmap, (canvas.width - w) / 2, (canvas.height - h) / 2, w, h);
      masks.set(lane.dataset.step, bitmap);
    } catch { /* the step may be gone by now */ }
  }
}

// beside the thumbnail, over the lanes, as long as it is pointed at or has the focus
export function watchMasks(lanes) {
  const large = document.createElement("canvas");
  large.className = "mask-large";
  large.hidden = true;
  document.body.append(large);
  const hide = () => { large.hidden = true; };
  function show(event) {
    const button = event.target.closest("[data-mask]");
    const mask = button && masks.get(button.closest(".lane").dataset.step);
    if (!mask) return;
    large.width = mask.width;
    large.height = mask.height;
    large.getContext("2d").drawImage(mask, 0, 0);
    large.hidden = false;
    const r = button.getBoundingClientRect();
    const room = window.innerHeight - large.offsetHeight - 12;
    large.style.left = `${r.right + 10}px`;
    large.style.top = `${Math.max(12, Math.min(room, r.top - large.offsetHeight / 2))}px`;
  }
  for (const name of ["pointerover", "focusin", "click"]) lanes.addEventListener(name, show);
  lanes.addEventListener("pointerout", (event) => { if (event.target.closest("[data-mask]")) hide(); });
  lanes.addEventListener("focusout", hide);
  lanes.addEventListener("scroll", hide);
  document.addEventListener("keydown", (event) => { if (event.key === "Escape") hide(); });
}
