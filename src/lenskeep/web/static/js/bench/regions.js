// What the lanes' buttons change in a recipe's structure: parts, sharing, places of adjustments; and anchors that move
// nothing.
import { reanchored } from "./anchors.js";

export function watchRegions(lanes, { facts, edit, write, partValues }) {
  const unfolded = new Set(); // adjustments that show all their settings

  lanes.addEventListener("click", (event) => {
    const button = event.target.closest("[data-edit]");
    if (button) {
      event.preventDefault();
      const { op, ...values } = JSON.parse(button.dataset.edit);
      return edit(op, values);
    }
    const gone = event.target.closest("[data-delete-shared]");
    if (gone) return askToDelete(gone);
    const placed = event.target.closest("[data-place]");
    if (placed) return toStep(placed);
    const fold = event.target.closest("[data-fold-button]");
    if (!fold) return;
    const name = fold.closest("[data-folds]").dataset.folds;
    unfolded[unfolded.has(name) ? "delete" : "add"](name);
    refold();
  });

  // an adjustment moved or copied to the end of another step
  function toStep(button) {
    const { adjustmentPlaces: adjustment } = button.closest("[data-adjustment-places]").dataset;
    const to = button.parentElement.querySelector("[data-to-step]").value;
    edit(button.dataset.place, { step: button.closest(".lane").dataset.step, adjustment, to });
  }

  lanes.addEventListener("submit", (event) => {
    const form = event.target.closest("[data-take-region]");
    if (!form) return;
    event.preventDefault();
    const [kind, id] = form.elements.from.value.split(" ");
    const invert = form.elements.invert.checked;
    const step = form.dataset.takeRegion;
    if (kind === "shared") edit("use-shared", { step, region: id, invert });
    else edit("copy-region", { step, source: id, invert });
  });

  lanes.addEventListener("change", (event) => {
    if (!("anchor" in event.target.dataset)) return;
    const part = event.target.closest("[data-part]");
    const values = partValues(part);
    const before = part.dataset.anchored;
    const round = ([k, v]) => [k, typeof v === "number" ? Number(v.toFixed(4)) : v];
    part.dataset.anchored = event.target.value;
    write(part.dataset.partPath, Object.fromEntries(Object.entries(reanchored(part.dataset.part, values, before, event.target.value, facts)).map(round)), true);
  });

  function askToDelete(button) {
    const { deleteShared: region, users, step, name } = button.dataset;
    const dialog = document.getElementById("ask-dialog");
    dialog.querySelector("[data-ask-title]").textContent = `Delete “${name}”?`;
    dialog.querySelector("[data-ask-words]").textContent = users ? `These steps lose it: ${users}. Give each a copy of its own, or let them go without: then they are switched off.` : "No step uses it.";
    dialog.querySelectorAll("[data-then]").forEach((choice) => {
      choice.onclick = () => {
        dialog.close();
        if (choice.dataset.then) edit("delete-shared", { region, step, then: choice.dataset.then });
      };
    });
    dialog.showModal();
  }

  function refold() {
    for (const each of lanes.querySelectorAll("[data-folds]")) {
      const on = unfolded.has(each.dataset.folds);
      each.querySelector("[data-more]").hidden = !on;
      each.querySelector("[data-fold-button]").setAttribute("aria-expanded", on);
    }
    lanes.querySelectorAll("[data-anchor]").forEach((each) => { each.closest("[data-part]").dataset.anchored = each.value; });
  }
  // what was added just now: with all its settings where one slider does not say it all
  function unfold(id) {
    const fresh = lanes.querySelector(`.lane[data-open] .adjustment[data-id="${id}"]`);
    if (!fresh) return;
    if ("opens" in fresh.dataset) unfolded.add(fresh.dataset.folds);
    refold();
    fresh.scrollIntoView({ block: "nearest" });
    fresh.querySelector('input[type="range"], [data-fold-button]')?.focus({ preventScroll: true });
  }
  refold();
  return { refold, unfold };
}
