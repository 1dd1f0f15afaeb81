// The look of a scene in a dialog: its layers dragged or moved by arrows, switched, weakened, taken away, added.
import { send, toast, told } from "./api.js";

const dialog = document.createElement("dialog");
dialog.className = "dialog";
document.body.append(dialog);
const list = () => dialog.querySelector("[data-list]");

export async function openLayers(scene) {
  const answer = await fetch(`/scenes/${scene}/layers`);
  if (!answer.ok) return toast("The look could not be shown. Reload the page.");
  dialog.innerHTML = await answer.text();
  dialog.setAttribute("aria-label", dialog.querySelector("h3").textContent);
  dialog.showModal();
  return undefined;
}

function tell() { dialog.querySelector("[data-none]").hidden = list().children.length > 0; }

function add(option) {
  const item = document.createElement("li");
  Object.assign(item, { className: "layer", draggable: true });
  item.dataset.version = option.value;
  item.innerHTML = `<span class="layer-grip" aria-hidden="true">⋮⋮</span>
    <label class="min-w-0 flex-1 truncate"><input type="checkbox" data-on checked> <strong data-name></strong> <span class="quiet" data-number></span></label>
    <label class="flex items-center gap-1"><input class="field figure w-18 py-0.5 text-right" type="number" min="0" max="200" step="5" value="100" data-strength> %</label>
    <button class="button button-small px-2" type="button" data-up>↑</button><button class="button button-small px-2" type="button" data-down>↓</button>
    <button class="button button-small" type="button" data-away>Take away</button>`;
  const { name, number } = option.dataset;
  item.querySelector("[data-name]").textContent = name;
  item.querySelector("[data-number]").textContent = number;
  item.querySelector("[data-strength]").setAttribute("aria-label", `Strength of ${name} in per cent`);
  item.querySelector("[data-up]").setAttribute("aria-label", `${name} up`);
  item.querySelector("[data-down]").setAttribute("aria-label", `${name} down`);
  list().prepend(item);
}

async function give(everywhere) {
  const layers = [...list().children].map((item) => ({
    version: Number(item.dataset.version),
    strength: Number(item.querySelector("[data-strength]").value || 100),
    on: item.querySelector("[data-on]").checked,
  }));
  try {
    await send(`/scenes/${dialog.querySelector("[data-layers]").dataset.layers}/layers`, { layers, everywhere });
    dialog.close();
    told(everywhere ? "The look is being applied to the whole shoot." : "The look is being applied to this scene.");
  } catch (error) { toast(error.message); }
}

dialog.addEventListener("click", (event) => {
  const item = event.target.closest(".layer");
  const set = event.target.closest("button")?.dataset ?? {};
  if ("up" in set && item.previousElementSibling) item.previousElementSibling.before(item);
  else if ("down" in set && item.nextElementSibling) item.nextElementSibling.after(item);
  else if ("away" in set) item.remove();
  else if ("moveOn" in set) {
    item.dataset.version = set.moveOn;
    item.querySelector("[data-number]").textContent = set.number;
    item.querySelector("[data-newer]").remove();
  } else if ("closeDialog" in set) return dialog.close();
  else if (set.give) return give(set.give === "everywhere");
  else return undefined;
  event.target.closest("button")?.focus();
  return tell();
});
dialog.addEventListener("change", (event) => {
  if (!("add" in event.target.dataset) || !event.target.value) return;
  add(event.target.selectedOptions[0]);
  event.target.value = "";
  tell();
});

let dragged = null;
dialog.addEventListener("dragstart", (event) => {
  dragged = event.target.closest?.(".layer");
  event.dataTransfer.effectAllowed = "move";
});
dialog.addEventListener("dragover", (event) => {
  const over = event.target.closest?.(".layer");
  if (!dragged || !over || over === dragged) return;
  event.preventDefault();
  const { top, height } = over.getBoundingClientRect();
  if (event.clientY > top + height / 2) over.after(dragged);
  else over.before(dragged);
});
dialog.addEventListener("dragend", () => { dragged = null; });
