// Groups of steps: made from ticked ones, folded, limited; recipes taken in; what a step does, kept as an effect.
import { send, toast, told } from "../shared/api.js";

export function watchGroups(lanes, { base, opened, edit, renew, versions, settled }) {
  const folded = new Map(); // by group, where it is otherwise than the recipe has it

  function fold(group, away) {
    folded.set(group, away);
    for (const lane of lanes.querySelectorAll(`.lane[data-group="${group}"]`)) lane.hidden = away;
    const button = lanes.querySelector(`[data-fold-group="${group}"]`);
    if (!button) return;
    button.setAttribute("aria-expanded", !away);
    button.textContent = away ? "▸" : "▾";
  }
  // the lanes are new: groups stay as they were folded, but what is open is seen
  function show() {
    for (const [group, away] of folded) fold(group, away);
    const group = opened()?.dataset.group;
    if (group) fold(group, false);
  }

  lanes.addEventListener("click", (event) => {
    const button = event.target.closest("[data-fold-group]");
    if (button) fold(button.dataset.foldGroup, button.getAttribute("aria-expanded") === "true");
  });
  lanes.addEventListener("change", (event) => {
    const { limit: group } = event.target.dataset;
    if (!group || !event.target.value) return;
    const { value } = event.target;
    if (value.startsWith("step ")) edit("limit-group", { group, of_step: value.slice(5) });
    else edit("limit-group", { group, where: value.replace(/^not /, ""), invert: value.startsWith("not ") });
  });

  async function take(form, key) {
    await settled();
    try {
      const way = new FormData(form).get("way");
      const asked = { key, way, within: opened()?.dataset.step ?? "", on: versions().on() };
      renew(await (await send(`${base}/take`, asked)).text());
    } catch (error) { toast(error.message); }
  }
  async function keep(form) {
    await settled();
    try {
      const asked = { step: form.dataset.keepEffect, name: form.elements.name.value };
      told((await (await send(`${base}/effect`, asked)).json()).said);
      form.closest("[x-data]").querySelector('[aria-expanded="true"]')?.click();
    } catch (error) { toast(error.message); }
  }
  lanes.addEventListener("submit", (event) => {
    const form = event.target;
    if (form.matches("[data-take-recipe]")) {
      event.preventDefault();
      if (event.submitter?.value) take(form, event.submitter.value);
    } else if (form.matches("[data-keep-effect]")) {
      event.preventDefault();
      keep(form);
    } else if (form.matches("[data-group-steps]")) {
      event.preventDefault();
      const steps = new FormData(form).getAll("steps");
      if (steps.length) edit("group-steps", { steps, name: form.elements.name.value });
      else toast("Tick the steps that belong together.");
    }
  });

  const own = () => opened()?.dataset.step;
  return {
    show,
    keys: {
      d: () => own() && edit("double-step", { step: own() }),
      o: () => own() && edit("double-step", { step: own(), opposite: true }),
      n: () => own() && edit("same-place", { step: own() }),
    },
  };
}
