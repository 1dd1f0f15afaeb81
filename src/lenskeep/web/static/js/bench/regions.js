// The editors of regions: buttons that change their structure, sharing, folding, and anchors that move nothing.
import { reanchored } from "./anchors.js";

export function watchRegions(lanes, { facts, edit, write, partValues }) {
  const folded = new Set();

  lanes.addEventListener("click", (event) => {
    const button = event.target.closest("[data-edit]");
    if (button) {
      event.preventDefault();
      const { op, ...values } = JSON.parse(button.dataset.edit);
      return edit(op, values);
    }
    const gone = event.target.closest("[data-delete-shared]");
    if (gone) return askToDelete(gone);
    const fold = event.target.closest("[data-fold-button]");
    if (!fold) return;
    const name = fold.closest("[data-folds]").dataset.folds;
    folded[folded.has(name) ? "delete" : "add"](name);
    foldParts();
  });
  function foldParts() {
    for (const part of lanes.querySelectorAll("[data-folds]")) {
      const on = !folded.has(part.dataset.folds);
      part.querySelector("[data-part-body]").hidden = !on;
      part.querySelector("[data-fold-button]").setAttribute("aria-expanded", on);
    }
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

  lanes.addEventListener("toggle", (event) => {
    const name = event.target.dataset?.fold;
    if (name) folded[event.target.open ? "delete" : "add"](name);
  }, true);

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
    lanes.querySelectorAll("[data-fold]").forEach((each) => { each.open = !folded.has(each.dataset.fold); });
    foldParts();
    lanes.querySelectorAll("[data-anchor]").forEach((each) => { each.closest("[data-part]").dataset.anchored = each.value; });
  }
  refold();
  return { refold };
}
