// The lanes: one open at a time, and given anew by the server when the recipe's structure changes.
import { send, toast } from "../shared/api.js";
import { handFree } from "../shared/pointer.js";

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

  let changing = 0; // changes of structure that the lanes on screen do not show yet
  async function edit(op, values) {
    const was = last;
    await settled();
    changing += 1;
    try {
      await renew(await (await send(`${base}/edit`, { op, on: versions().on(), ...values })).text(), was);
    } catch (error) {
      toast(error.message);
      if (error.status === 409) versions().renew();
    } finally {
      changing -= 1;
    }
  }

  // the lane that was open when it was asked for; a hand that opened another one meanwhile works there
  async function renew(html, was = last) {
    await handFree();
    const scrolled = lanes.scrollTop;
    lanes.innerHTML = html;
    window.htmx.process(lanes);
    lanes.scrollTop = scrolled;
    take(was !== last);
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

  function take(moved) {
    measure();
    versions().read();
    const { added } = document.getElementById("lanes-head").dataset;
    if (moved && !added) open(document.getElementById(`lane-${last}`) ? last : null);
    else if (opened()) last = opened().dataset.step;
    else if (last && document.getElementById(`lane-${last}`)) open(last);
    renewed();
    if (added) toSight(opened());
  }
  // what htmx asked for comes the same way, and waits as well
  let before = last;
  document.addEventListener("htmx:before:request", () => { before = last; changing += 1; });
  document.addEventListener("htmx:finally:request", () => { changing -= 1; });
  document.addEventListener("htmx:before:swap", (event) => {
    const { ctx } = event.detail;
    if (ctx.target !== lanes) return;
    event.preventDefault();
    renew(ctx.text, before);
  });

  return {
    edit, renew, open, changing: () => changing > 0,
    openFirst() {
      const first = lanes.querySelector(".lane");
      if (first) open(first.dataset.step);
      return Boolean(first);
    },
  };
}
