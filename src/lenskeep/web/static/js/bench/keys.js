// Single keys of the Bench, for whoever is not typing; and Ctrl+Z.
import { TYPING } from "../shared/pointer.js";

// `acts` says what each key does, "undo" what Ctrl+Z does ("undo" or, with Shift, "redo"); `free()` whether they count now.
export function watchKeys(acts, free) {
  document.addEventListener("keydown", (event) => {
    if (event.target.closest?.(TYPING) || !free()) return;
    const key = event.key.toLowerCase();
    if (event.ctrlKey || event.metaKey) {
      if (key !== "z" || !acts.undo) return;
      event.preventDefault();
      acts.undo(event.shiftKey ? "redo" : "undo");
    } else {
      acts[key]?.();
    }
  });
}
