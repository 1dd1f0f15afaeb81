// One frame: sized to its room, compared with the original, walked through with the keyboard.
import { makeDivider, whileSpace } from "../shared/divider.js";
import { clearContours, drawContours } from "../shared/svg.js";

const room = document.getElementById("picture");
const at = (id) => document.getElementById(id);

function fit() {
  const box = at("compare");
  if (!box) return;
  const ratio = Number(room.dataset.width) / Number(room.dataset.height);
  const width = Math.min(room.clientWidth - 24, (room.clientHeight - 24) * ratio);
  box.style.width = `${width}px`;
  box.style.height = `${width / ratio}px`;
  for (const img of box.querySelectorAll("img")) { img.style.width = "100%"; img.style.height = "100%"; }
}
fit();
window.addEventListener("resize", fit);

if (at("before")) {
  const before = at("before");
  let dividing = false;
  const split = makeDivider(at("split"), at("compare"), (place) => {
    before.style.clipPath = `inset(0 ${100 - 100 * place}% 0 0)`;
  });
  const held = (on) => {
    before.hidden = !on && !dividing;
    before.style.clipPath = on ? "none" : `inset(0 ${100 - 100 * split.place}% 0 0)`;
    at("which").hidden = !on;
  };
  whileSpace(() => held(true), () => held(false));
  document.addEventListener("click", (event) => {
    if (!event.target.closest("#divider")) return;
    dividing = !dividing;
    event.target.setAttribute("aria-pressed", dividing);
    split.show(dividing);
    before.hidden = !dividing;
  });
}

// --- outlines of the masks: those in doubt are shown at once
async function outlines() {
  for (const tick of document.querySelectorAll("[data-show-outline]")) {
    const svg = document.querySelector(`[data-outline="${tick.dataset.showOutline}"]`);
    if (!svg) continue;
    if (!tick.checked) { clearContours(svg); continue; }
    if (svg.querySelector(".contours")) continue;
    const answer = await fetch(svg.dataset.address);
    if (answer.ok) drawContours(svg, await answer.json());
  }
}
document.addEventListener("change", (event) => { if (event.target.dataset.showOutline) outlines(); });
outlines();

document.addEventListener("htmx:after:swap", () => {
  outlines();
  const finished = document.querySelector("#panel [data-finished]")?.dataset.finished;
  if (finished && at("after") && !at("after").src.endsWith(finished)) at("after").src = finished;
});

document.addEventListener("keydown", (event) => {
  if (event.target.closest?.("input, select, textarea, [role=slider]")) return;
  if (event.key.toLowerCase() === "m" && !event.ctrlKey && !event.metaKey) {
    const ticks = [...document.querySelectorAll("[data-show-outline]")];
    const on = !ticks.some((t) => t.checked);
    ticks.forEach((t) => { t.checked = on; });
    outlines();
  }
  if (event.key === "ArrowLeft" && at("earlier").href) window.location.assign(at("earlier").href);
  if (event.key === "ArrowRight" && at("later").href) window.location.assign(at("later").href);
  if (event.key === "Enter" && at("accept") && !event.target.closest("button, a")) at("accept").click();
});
