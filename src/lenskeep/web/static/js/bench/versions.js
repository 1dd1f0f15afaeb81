// Which state of the Bench this window shows: every change says on which it was made, and another window is noticed.
import { toast } from "../shared/api.js";

const EVERY = 3000;

export function makeVersions({ base, renew, settled, busy }) {
  const head = () => document.getElementById("lanes-head");
  let state = Number(head().dataset.state);

  // htmx sends changes of structure by itself; the state they are made on is told here
  document.addEventListener("htmx:config:request", (event) => {
    const { request } = event.detail.ctx;
    if (String(request.action).endsWith("/bench/edit")) request.body.set("on", state);
  });
  document.addEventListener("htmx:response:error", (event) => {
    if (event.detail.ctx.response?.raw?.status === 409 || event.detail.ctx.response?.status === 409) fetchLanes();
  });

  async function fetchLanes(elsewhere = false) {
    const opened = document.querySelector(".lane[data-open]")?.dataset.step ?? null;
    const answer = await fetch(`${base}/lanes${opened ? `?opened=${encodeURIComponent(opened)}` : ""}`);
    if (!answer.ok) return;
    await renew(await answer.text(), opened);
    if (elsewhere) toast("This Bench was changed in another window; it is shown as it is now.");
  }

  // while something of this window's own is under way, the state that the server has may be its doing
  const underWay = () => busy() || document.documentElement.hasAttribute("data-busy");
  async function look() {
    if (document.hidden || underWay()) return;
    await settled();
    const known = state;
    try {
      const answer = await fetch(`${base}/state`);
      if (!answer.ok) return;
      const { state: now } = await answer.json();
      if (now !== known && known === state && !underWay()) fetchLanes(true);
    } catch { /* it says so itself when something is sent */ }
  }
  setInterval(look, EVERY);

  return {
    on: () => state,
    now(number) { state = number; },
    read() { state = Number(head().dataset.state); },
    renew: fetchLanes,
  };
}
