// Small marks where the gradients of other steps have their middle: a click opens that step with its handles.
import { make } from "../shared/svg.js";
import { isDrawn, middleOf } from "./handles.js";
import { partValues } from "./outlines.js";

export function makeGradientMarks({ lanes, overlay, facts, height, seen, open }) {
  function show() {
    overlay.querySelectorAll(".gradient-mark").forEach((old) => old.remove());
    if (!seen()) return;
    for (const lane of lanes.querySelectorAll(".lane:not([data-open])")) {
      const colour = lane.querySelector(".lane-colour rect").getAttribute("fill");
      const name = lane.querySelector("strong").textContent.trim();
      for (const part of lane.querySelectorAll("[data-part]")) {
        if (!isDrawn(part.dataset.part)) continue;
        const [cx, cy] = middleOf(part.dataset.part, partValues(part), facts, height);
        if (cx < 0 || cx > 1000 || cy < 0 || cy > height) continue;
        const label = `Edit the ${part.dataset.part} of ${name}`;
        const mark = make("circle", { class: "gradient-mark", cx, cy, r: 8, fill: colour, tabindex: 0, role: "button", "aria-label": label }, overlay);
        make("title", {}, mark).textContent = label;
        const edit = () => open(lane.dataset.step, part.dataset.panel);
        mark.addEventListener("click", edit);
        mark.addEventListener("keydown", (event) => {
          if (event.key !== "Enter" && event.key !== " ") return;
          event.preventDefault();
          event.stopPropagation();
          edit();
        });
      }
    }
  }
  return { show };
}
