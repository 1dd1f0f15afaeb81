// Values of the recipe: live under the finger, set when let go, one after another in the order of the hand.
import { send, toast } from "../shared/api.js";
import { isOfRegion, settingsOf } from "./settings.js";

// what a switch switches: an adjustment, else its step
const whole = (lane, path) => (path.includes("/adjustments/") ? lane.querySelector(`[data-path="${path}"]`)?.closest(".adjustment") : lane);
const at = (id) => document.getElementById(id);

// `changing()` says that a change of the lanes is on its way; `moved(path)` redraws what a value shows in; `placed()` puts handles where they belong by now.
export function makeValues({ base, lanes, overlay, versions, changing, moved, failed, placed }) {
  const held = {};
  let last = Promise.resolve();

  function live(path, value) {
    held[path] = value;
    moved(isOfRegion(path));
  }

  function set(values, did) {
    last = last.then(() => sendSet(values, did));
  }

  async function sendSet(values, did) {
    try {
      const asked = { values: settingsOf(values), did: did || "a change", on: versions().on() };
      const own = changing(); // then it is this window that the values come late for
      const now = await (await send(`${base}/set`, asked)).json();
      versions().now(now.state);
      for (const path of Object.keys(values)) if (held[path] === values[path]) delete held[path];
      tell(now);
      if (now.late) versions().renew(!own);
    } catch (error) {
      for (const path of Object.keys(values)) delete held[path];
      toast(error.message);
      failed();
      if (error.status === 409) versions().renew();
    }
    for (const [path, value] of Object.entries(values)) {
      const lane = at(`lane-${path.split("/")[1]}`);
      if (lane && path.endsWith("/enabled")) whole(lane, path)?.toggleAttribute("data-off", !value);
    }
    // a handle under the hand is not drawn anew
    if (Object.keys(values).some((path) => path.includes("/parts/")) && !overlay.contains(document.activeElement)) placed();
  }

  function tell(now) {
    at("undo").disabled = !now.undo;
    at("undo-words").textContent = now.undo ?? "";
    at("undo").title = now.undo ? `Ctrl+Z: ${now.undo}` : "Ctrl+Z";
    at("redo").disabled = !now.redo;
    for (const [step, words] of Object.entries(now.words)) {
      const lane = at(`lane-${step}`);
      if (lane) tellStep(lane, step, words);
    }
  }

  function tellStep(lane, step, words) {
    lane.querySelector("strong").textContent = words.name;
    const field = lane.querySelector(`[data-path="steps/${step}/name"]`);
    if (field && field !== document.activeElement) field.value = words.name;
    lane.querySelectorAll("[data-sentence]").forEach((each) => { each.textContent = words.where; });
    lane.querySelector("[data-does]").textContent = words.what;
    const put = (chip, text) => { const found = lane.querySelector(`[data-chip="${chip}"]`); if (found) found.textContent = text; };
    for (const [part, text] of Object.entries(words.parts)) put(`part-${step}-${part}`, text);
    put(`edges-${step}`, words.edges);
    lane.querySelector("[data-all-but]").hidden = !words.all_but;
    for (const [id, text] of Object.entries(words.adjustments)) {
      const found = lane.querySelector(`[data-adjustment][data-id="${id}"] [data-in-words]`);
      if (found) found.textContent = text;
    }
  }

  // values of a part, shown in its fields; live under the hand, and set when it is done
  function writePart(path, changed, done, redraw = true) {
    const all = {};
    for (const [name, value] of Object.entries(changed)) {
      all[`${path}/${name}`] = value;
      const field = lanes.querySelector(`[data-path="${path}/${name}"]`);
      if (field) field.value = typeof value === "number" ? Number((value * Number(field.dataset.shown || 1)).toFixed(4)) : value;
      held[`${path}/${name}`] = value;
    }
    live(...Object.entries(all)[0]);
    if (done) set(all, "shaping a part");
    if (redraw) placed();
  }

  return {
    live, set, writePart,
    now: () => settingsOf(held),
    plain: () => ({ ...held }),
    any: () => Object.keys(held).length > 0,
    clear() { for (const path of Object.keys(held)) delete held[path]; },
    settled: () => last,
  };
}
