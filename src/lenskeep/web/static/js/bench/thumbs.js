// Small grey masks on the lanes, renewed when a region changes.
import { send } from "../shared/api.js";
import { settingsOf } from "./settings.js";

export async function paintThumbs(lanes, base, frame, values) {
  for (const lane of lanes.querySelectorAll(".lane")) {
    const canvas = lane.querySelector(".lane-thumb");
    const pen = canvas.getContext("2d");
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
    } catch { /* the step may be gone by now */ }
  }
}
