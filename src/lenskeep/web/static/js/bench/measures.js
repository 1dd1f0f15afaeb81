// The measures beside the key frame: a histogram of the frame or of the open step's region, and the guards.
import { send, toast } from "../shared/api.js";

export function makeMeasures(root, { base, changed, asked, found: tell, live, set }) {
  const canvas = root.querySelector("#histogram");
  let found = null;
  let whose = "frame";
  let guard = null;

  function draw() {
    const pen = canvas.getContext("2d");
    pen.clearRect(0, 0, canvas.width, canvas.height);
    pen.fillStyle = "#2b2d2b";
    pen.fillRect(0, 0, canvas.width, canvas.height);
    const own = found && (whose === "region" ? found.region : found.histogram);
    if (!own) {
      pen.fillStyle = "#e8e8e4";
      pen.font = "22px sans-serif";
      pen.fillText(found ? "Open a step" : "…", 20, 70);
      return;
    }
    const top = Math.max(...["light", "red", "green", "blue"].flatMap((k) => own[k].slice(1, -1)), 1e-6);
    const wide = canvas.width / own.light.length;
    const tall = (v) => Math.min(v / top, 1) * (canvas.height - 4);
    pen.fillStyle = "#8f918c";
    own.light.forEach((v, i) => pen.fillRect(i * wide, canvas.height - tall(v), wide + 0.5, tall(v)));
    for (const [key, colour] of [["red", "#ff9a86"], ["green", "#9be08a"], ["blue", "#8fc1ff"]]) {
      pen.strokeStyle = colour;
      pen.lineWidth = 2;
      pen.beginPath();
      own[key].forEach((v, i) => pen.lineTo((i + 0.5) * wide, canvas.height - tall(v)));
      pen.stroke();
    }
  }

  function list() {
    for (const { name: which, figure, before, unit, warns, cause } of found.guards) {
      const button = root.querySelector(`[data-guard="${which}"]`);
      button.toggleAttribute("data-warns", warns);
      button.querySelector("[data-guard-figure]").textContent = `${figure.toFixed(1)} ${unit}`;
      const note = button.querySelector("[data-guard-cause]");
      note.hidden = !warns;
      note.textContent = cause ? `by “${cause}”` : "";
      button.setAttribute("aria-label", `${button.children[1].textContent}: ${figure.toFixed(1)} ${unit}, ${before.toFixed(1)} untouched${warns ? `; warns${cause ? `, caused by ${cause}` : ""}` : ""}`);
    }
  }

  root.addEventListener("click", (event) => {
    const which = event.target.closest("[data-histogram]");
    if (which) {
      whose = which.dataset.histogram;
      root.querySelectorAll("[data-histogram]").forEach((b) => b.setAttribute("aria-pressed", b === which));
      return draw();
    }
    if (event.target.closest("[data-mend]")) return mend();
    const pressed = event.target.closest("[data-guard]");
    if (!pressed) return;
    guard = guard === pressed.dataset.guard ? null : pressed.dataset.guard;
    root.querySelectorAll("[data-guard]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.guard === guard));
    changed();
  });

  // what would make a guard quiet is seen first, then done or left
  const offer = root.querySelector("[data-mend-offer]");
  const button = root.querySelector("[data-mend]");
  function offerMend() {
    const names = (found?.guards ?? []).filter((g) => g.warns && g.step).map((g) => g.name);
    button.hidden = !names.length || !offer.hidden;
    button.dataset.mend = names.includes(guard) ? guard : names[0] ?? "";
    const label = names.length ? root.querySelector(`[data-guard="${button.dataset.mend}"]`).children[1].textContent : "";
    button.textContent = `Mend: ${label.toLowerCase()}…`;
  }
  async function mend() {
    button.disabled = true;
    try {
      const { frame, values } = asked();
      const { step, name, strength, figure, unit, quiet } = await (await send(`${base}/mend`, { frame, values, guard: button.dataset.mend })).json();
      const path = `steps/${step}/strength`;
      const box = document.querySelector(`[data-slider][data-path="${path}"]`);
      const before = Number(box.querySelector("input").value) / 100;
      const show = (value) => { box.querySelectorAll("input").forEach((i) => { i.value = Math.round(100 * value); }); live(path, value); };
      show(strength);
      offer.hidden = false;
      button.hidden = true;
      offer.querySelector("[data-mend-words]").textContent = `${quiet ? "Quiet" : "Not quiet, but less"} with “${name}” at ${Math.round(100 * strength)} % (${figure.toFixed(1)} ${unit}); you see it now.`;
      offer.onclick = (event) => {
        const way = event.target.closest("button")?.dataset.mendDo;
        if (!way) return;
        offer.hidden = true;
        if (way === "do") set({ [path]: strength }, "mending what a guard warned of");
        else { show(before); set({ [path]: before }, "strength"); }
      };
    } catch (error) { toast(error.message); }
    button.disabled = false;
  }

  function pull({ before, after }) {
    const sign = (v) => `${Math.abs(v) < 0.05 ? "" : v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1)}`;
    root.querySelector("#pull").hidden = !after;
    for (const each of after ? root.querySelectorAll("[data-pull]") : []) each.textContent = `${sign(before[each.dataset.pull])} → ${sign(after[each.dataset.pull])}`;
  }

  // one measurement at a time; what changes meanwhile is measured after it
  let measuring = false;
  let again = false;
  async function measure() {
    if (measuring) { again = true; return; }
    measuring = true;
    try {
      do {
        again = false;
        const { frame, step, values } = asked();
        pull(await (await send(`${base}/pull`, { frame, values })).json());
        found = await (await send(`${base}/measures`, { frame, step, values })).json();
        draw();
        list();
        offerMend();
        tell(found);
      } while (again);
    } catch (error) {
      toast(error.message);
    } finally {
      measuring = false;
    }
  }

  draw();
  const warned = () => {
    const names = (found?.guards ?? []).filter((g) => g.warns).map((g) => g.name);
    return guard ? [guard, ...names.filter((n) => n !== guard)] : names;
  };
  return { guard: () => guard, warned, measure };
}
