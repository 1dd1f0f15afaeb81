// Selecting frames on the wall, by pointer and by keys: those that are there, and those that are not drawn yet.
import { toast } from "../shared/api.js";

// `changed(ids)` is told of every change; `shoot` and `show` say which frames the wall shows.
export function makeSelecting({ tiles, shoot, show, changed }) {
  const picked = new Set();
  let anchor = 0;
  let order = null; // [[scene, [frame, …]], …], asked for when it is needed

  const tileOf = (id) => document.getElementById(`tile-${id}`);
  const idOf = (element) => Number(element?.closest?.(".tile[data-frame]")?.dataset.frame) || 0;

  function mark(tile) {
    const on = picked.has(Number(tile.dataset.frame));
    tile.toggleAttribute("data-picked", on);
    let tick = tile.querySelector(".tile-tick");
    if (!tick) {
      tick = document.createElement("button");
      Object.assign(tick, { type: "button", className: "tile-tick", tabIndex: -1 });
      tick.setAttribute("aria-label", `Select ${tile.querySelector("img")?.alt.split(",")[0] ?? "this frame"}`);
      tick.innerHTML = '<svg viewBox="0 0 16 16" aria-hidden="true"><path fill="none" stroke="currentColor" stroke-width="2.6" d="m2.5 8.5 3.6 3.8L13.5 4"/></svg>';
      tile.prepend(tick);
    }
    tick.setAttribute("aria-pressed", on);
  }

  function told(which) {
    for (const id of which) {
      const tile = tileOf(id);
      if (tile) mark(tile);
    }
    document.body.toggleAttribute("data-selected", picked.size > 0);
    changed(picked);
  }

  function set(ids, on = true) {
    const which = ids.filter((id) => picked.has(id) !== on);
    for (const id of which) on ? picked.add(id) : picked.delete(id);
    told(which);
  }
  function clear() {
    const which = [...picked];
    picked.clear();
    told(which);
  }
  function toggle(id) {
    anchor = id;
    set([id], !picked.has(id));
  }

  async function ordered() {
    if (!order) {
      const answer = await fetch(`/shoots/${shoot}/ids?${new URLSearchParams({ show })}`);
      if (!answer.ok) throw new Error("The frames of this shoot could not be asked for. Try again.");
      order = (await answer.json()).scenes;
    }
    return order;
  }
  const flat = async () => (await ordered()).flatMap(([, ids]) => ids);

  async function range(to) {
    try {
      const ids = await flat();
      const [a, b] = [ids.indexOf(anchor || to), ids.indexOf(to)];
      if (b < 0) return;
      set(ids.slice(Math.min(a < 0 ? b : a, b), Math.max(a, b) + 1));
    } catch (error) { toast(error.message); }
  }

  async function wider(kind) {
    try {
      if (kind === "none") return clear();
      if (kind === "all") return set(await flat());
      const ids = [...picked];
      if (kind === "scene") return set((await ordered()).filter(([, own]) => own.some((id) => picked.has(id))).flatMap(([, own]) => own));
      if (kind === "burst") {
        const bursts = new Set(ids.map((id) => tileOf(id)?.dataset.burst).filter(Boolean));
        return set([...tiles.querySelectorAll(".tile[data-burst]")].filter((t) => bursts.has(t.dataset.burst)).map((t) => Number(t.dataset.frame)));
      }
      const answer = await fetch(`/frames/${first()}/like`);
      if (answer.ok) set((await answer.json()).frames);
    } catch (error) { toast(error.message); }
  }

  // the first of what is selected, in the wall's order as far as it is known
  function first() {
    const drawn = tiles.querySelector(".tile[data-picked]");
    return drawn ? Number(drawn.dataset.frame) : [...picked][0];
  }

  tiles.addEventListener("click", (event) => {
    const id = idOf(event.target);
    if (!id || event.target.closest("[data-unfold]")) return;
    const tick = event.target.closest(".tile-tick");
    if (!tick && !event.target.closest(".tile-picture")) return;
    if (!tick && !event.shiftKey && !event.ctrlKey && !event.metaKey) return;
    event.preventDefault();
    if (event.shiftKey) range(id);
    else toggle(id);
  });

  const shownTiles = () => [...tiles.querySelectorAll(".tile[data-frame]")].filter((t) => t.offsetParent);
  function step(tile, key) {
    const all = shownTiles();
    const at = all.indexOf(tile);
    if (key === "ArrowLeft") return all[at - 1];
    if (key === "ArrowRight") return all[at + 1];
    const { left, top } = tile.getBoundingClientRect();
    const down = key === "ArrowDown";
    const rows = down ? all.slice(at + 1) : all.slice(0, at).reverse();
    const next = rows.find((t) => Math.abs(t.getBoundingClientRect().top - top) > 4);
    if (!next) return undefined;
    const level = next.getBoundingClientRect().top;
    const row = rows.filter((t) => Math.abs(t.getBoundingClientRect().top - level) < 4);
    return row.reduce((a, b) => (Math.abs(b.getBoundingClientRect().left - left) < Math.abs(a.getBoundingClientRect().left - left) ? b : a));
  }

  tiles.addEventListener("keydown", (event) => {
    const tile = event.target.closest?.(".tile[data-frame]");
    if (!tile) return;
    const id = Number(tile.dataset.frame);
    if (event.key === " ") {
      event.preventDefault();
      return event.shiftKey ? range(id) : toggle(id);
    }
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "a") {
      event.preventDefault();
      return ordered().then((all) => set(all.find(([, own]) => own.includes(id))?.[1] ?? []), (e) => toast(e.message));
    }
    if (!event.key.startsWith("Arrow") || event.ctrlKey || event.metaKey || event.altKey) return;
    const next = step(tile, event.key);
    if (!next) return;
    event.preventDefault();
    if (event.shiftKey) {
      if (!anchor || !picked.size) anchor = id;
      range(Number(next.dataset.frame));
    }
    next.querySelector("a").focus();
    next.scrollIntoView({ block: "nearest" });
  });

  return {
    mark, clear, wider, first, picked, ordered, idOf,
    forget() { order = null; },
  };
}
