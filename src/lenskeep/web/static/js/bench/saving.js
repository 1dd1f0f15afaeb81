// The dialog in which a recipe is saved, made from what the lanes brought along.
const at = (id) => document.getElementById(id);

export function watchSaving(versions) {
  at("save-open").addEventListener("click", () => {
    const dialog = at("save-dialog");
    dialog.replaceChildren(at("save-form").content.cloneNode(true));
    dialog.querySelector('[name="on"]').value = versions.on();
    dialog.querySelector("[data-close]").addEventListener("click", () => dialog.close());
    dialog.showModal();
  });
}
