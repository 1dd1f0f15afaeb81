// The dialog in which a recipe is saved, made from what the lanes brought along.
const at = (id) => document.getElementById(id);

export function watchSaving(versions) {
  // all steps, or those of one group
  at("save-dialog").addEventListener("click", (event) => {
    const which = event.target.closest("[data-tick]")?.dataset.tick;
    if (!which) return;
    for (const field of at("save-dialog").querySelectorAll("[name=steps]")) field.checked = which === "all" || field.dataset.group === which;
  });
  at("save-open").addEventListener("click", () => {
    const dialog = at("save-dialog");
    dialog.replaceChildren(at("save-form").content.cloneNode(true));
    dialog.querySelector('[name="on"]').value = versions.on();
    dialog.querySelector("[data-close]").addEventListener("click", () => dialog.close());
    dialog.showModal();
  });
}
