// The repairs of a frame offered to its burst, in a dialog that is filled when it is asked for.
import { toast } from "../shared/api.js";

export async function offer(address) {
  const answer = await fetch(`${address}/carry`, { cache: "no-store" });
  if (!answer.ok) { toast(await answer.text()); return; }
  const dialog = document.createElement("dialog");
  dialog.setAttribute("aria-labelledby", "carry-title");
  dialog.innerHTML = await answer.text();
  document.body.append(dialog);
  window.htmx.process(dialog);
  dialog.addEventListener("close", () => dialog.remove());
  dialog.addEventListener("click", (event) => {
    if (event.target === dialog || event.target.closest("[data-close-dialog]")) dialog.close();
  });
  dialog.showModal();
}
