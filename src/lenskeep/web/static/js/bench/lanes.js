// The lanes: one open at a time, and given anew by the server when the recipe's structure changes.
import { send, toast } from "../shared/api.js";

export const opened = () => document.querySelector(".lane[data-open]");

// `shown()` is called when another lane is open, `renewed()` when the lanes are new.
export function makeLanes(lanes, { base, versions, settled, shown, renewed }) {
  let last = opened()?.dataset.step ?? null;

  function open(step) {
    last = step;
    for (const lane of lanes.querySelectorAll(".lane")) {
      const on = lane.dataset.step === step;
      lane.toggleAttribute("data-open", on);
      lane.querySelector(".lane-editor").hidden = !on;
      lane.querySelector("[data-open-lane]").setAttribute("aria-expanded", on);
    }
    shown();
  }
  lanes.addEventListener("click", (event) => {
    const button = event.target.closest("[data-open-lane]");
    if (!button) return;
    const lane = button.closest(".lane");
    open(lane.hasAttribute("data-open") ? null : lane.dataset.step);
    if (lane.hasAttribute("data-open")) lane.scrollIntoView({ block: "start" });
  });

  async function edit(op, values) {
    await settled();
    try {
      renew(await (await send(`${base}/edit`, { op, on: versions().on(), ...values })).text());
    } catch (error) {
      toast(error.message);
      if (error.status === 409) versions().renew();
    }
  }

  function renew(html) {
    const scrolled = lanes.scrollTop;
    lanes.innerHTML = html;
    window.htmx.process(lanes);
    lanes.scrollTop = scrolled;
    take();
  }

  // an open lane's head stays in sight, right below the head of them all
  function measure() {
    lanes.style.setProperty("--lanes-head", `${document.getElementById("lanes-head").offsetHeight}px`);
  }
  window.addEventListener("resize", measure);
  measure();

  // the first lane of a group with the group's head over it
  function toSight(lane) {
    const above = lane?.previousElementSibling;
    (above?.matches(".group-head") ? above : lane)?.scrollIntoView({ block: "start" });
  }

  function take() {
    measure();
    versions().read();
    if (opened()) last = opened().dataset.step;
    else if (last && document.getElementById(`lane-${last}`)) open(last);
    renewed();
    if (document.getElementById("lanes-head").dataset.added) toSight(opened());
  }
  document.addEventListener("htmx:after:swap", (event) => {
    if (!event.target.closest?.("#lanes") && !lanes.contains(event.target) && event.target !== document.body) return;
    take();
  });

  return {
    edit, renew, open,
    openFirst() {
      const first = lanes.querySelector(".lane");
      if (first) open(first.dataset.step);
      return Boolean(first);
    },
  };
}
