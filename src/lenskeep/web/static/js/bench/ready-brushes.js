// Brushes ready to hand: the first press makes a step of its own, later ones go on in it.
export function watchReadyBrushes(lanes, { steps, panels }) {
  const own = (way) => [...lanes.querySelectorAll(".lane")].find((lane) => lane.querySelector("strong").textContent.trim() === `Painted ${way}` && lane.querySelector('[data-part="brush"]'));
  lanes.addEventListener("click", async (event) => {
    const way = event.target.closest("[data-paint]")?.dataset.paint;
    if (!way) return;
    if (!own(way)) await steps.edit("paint-step", { way });
    const lane = own(way);
    if (!lane) return;
    if (!lane.hasAttribute("data-open")) steps.open(lane.dataset.step);
    panels.open(lane.querySelector('[data-part="brush"]').dataset.panel);
  });
}
