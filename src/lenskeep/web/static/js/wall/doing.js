// What is done to the selected frames: the bar at the foot of the wall, and its keys.
import { send, toast, told } from "../shared/api.js";

export function makeDoing({ bar, selecting }) {
  const { shoot } = bar.dataset;
  const at = (css) => bar.querySelector(css);
  const ids = () => [...selecting.picked];
  let copied = null;

  async function post(way, body) {
    try {
      const answer = await (await send(`/shoots/${shoot}/${way}`, body)).json();
      told(answer.said);
      selecting.forget();
      return true;
    } catch (error) {
      toast(error.message);
      return false;
    }
  }
  const act = (doing) => (ids().length ? post("do", { frames: ids(), do: doing }) : undefined);
  const close = (element) => element.closest("[x-data]")?.querySelector('[aria-expanded="true"]')?.click();

  const plain = {
    measure: { what: "measure" }, came: { what: "came" }, look: { what: "look" }, accept: { what: "accept" },
    reject: { what: "reject" }, unreject: { what: "reject", rejected: false }, "new-scene": { what: "new-scene" },
    left: { what: "turn", by: -1 }, right: { what: "turn", by: 1 },
  };

  function copy() {
    if (!ids().length) return;
    copied = selecting.first();
    at("[data-copied]").textContent = `Copied from ${document.querySelector(`#tile-${copied} img`)?.alt.split(",")[0] ?? "a frame"}.`;
    at("[data-do-paste] .button-main").disabled = false;
    told(at("[data-copied]").textContent);
  }
  function paste() {
    const ticks = at("[data-do-paste]").elements;
    if (copied) act({ what: "paste", source: copied, base: ticks.base.checked, look: ticks.look.checked, repairs: ticks.repairs.checked, clean: ticks.clean.checked });
  }

  async function begin() {
    try {
      await send(`/frames/${selecting.first()}/begin-scene`, {});
      window.location.reload();
    } catch (error) { toast(error.message); }
  }

  bar.addEventListener("click", (event) => {
    const set = event.target.closest("button")?.dataset ?? {};
    if (set.do) act(plain[set.do]);
    else if (set.rate) act({ what: "rate", rating: Number(set.rate) });
    else if (set.move) act({ what: "move", scene: Number(set.move) });
    else if (set.select) selecting.wider(set.select);
    else if (set.back) post("back", { way: set.back });
    else if ("begin" in set) begin();
    else if ("copy" in set) return copy();
    else if ("even" in set) even();
    else if ("lineUp" in set) lineUp();
    else if ("handOver" in set) handOver();
    else if (set.added) {
      for (const b of bar.querySelectorAll("[data-added]")) b.setAttribute("aria-pressed", b === event.target);
      return undefined;
    } else return undefined;
    return close(event.target);
  });
  bar.addEventListener("submit", (event) => {
    event.preventDefault();
    const form = event.target;
    if ("doBase" in form.dataset) {
      const values = {};
      for (const field of form.querySelectorAll("input[type=number]")) if (field.value !== "") values[field.name] = Number(field.value);
      if (!Object.keys(values).length) return toast("Type a value first; what stays empty is left as it is.");
      act({ what: "base", values, added: at('[data-added="true"]').getAttribute("aria-pressed") === "true" });
      form.reset();
    } else if ("doStrength" in form.dataset) act({ what: "strength", strength: Number(form.elements.strength.value) / 100 });
    else if ("doLook" in form.dataset) act({ what: "new-scene", version: Number(form.elements.version.value) });
    else if ("doPaste" in form.dataset) paste();
    close(form);
    return undefined;
  });

  async function lineUp() {
    if (ids().length > 12) return toast("Choose at most 12 frames for a line-up.");
    const scene = (await selecting.ordered()).find(([, own]) => own.includes(selecting.first()));
    window.location.assign(`/scenes/${scene[0]}/line-up?${new URLSearchParams(ids().map((id) => ["frame", id]))}`);
    return undefined;
  }
  function handOver() {
    const shoot = window.location.pathname.split("/")[2];
    try { sessionStorage.setItem("hand-over", JSON.stringify({ [shoot]: ids() })); } catch { return toast("This browser keeps nothing for a page; hand over by rating instead."); }
    window.location.assign(`/shoots/${shoot}/hand-over`);
    return undefined;
  }
  async function even() {
    const scene = (await selecting.ordered()).find(([, own]) => own.includes(selecting.first()));
    const query = new URLSearchParams(ids().filter((id) => scene[1].includes(id)).map((id) => ["frame", id]));
    window.location.assign(`/scenes/${scene[0]}/even?${query}`);
  }

  document.addEventListener("keydown", (event) => {
    if (event.target.closest?.("input, select, textarea, [role=slider]")) return;
    const key = event.key.toLowerCase();
    if (event.ctrlKey || event.metaKey) {
      if (key === "z") { event.preventDefault(); post("back", { way: event.shiftKey ? "redo" : "undo" }); }
      if (key === "c" && selecting.picked.size && !String(window.getSelection())) copy();
      if (key === "v" && copied) paste();
      return;
    }
    if (!selecting.picked.size) return;
    if (event.key === "Escape" && !document.querySelector(".selection [aria-expanded=true]")) selecting.clear();
    if (/^[0-5]$/.test(key)) act({ what: "rate", rating: Number(key) });
    if (key === "r") act(plain[at('[data-do="unreject"]').hidden ? "reject" : "unreject"]);
    if (event.key === "Enter" && !event.target.closest("a, button")) act(plain.accept);
  });

  return {
    // what the bar shows of what is selected
    tell(picked) {
      bar.hidden = picked.size === 0;
      at("[data-selected-count]").textContent = picked.size.toLocaleString("en");
      const drawn = [...document.querySelectorAll(".tile[data-picked]")];
      const rejected = drawn.length > 0 && drawn.every((t) => t.hasAttribute("data-rejected"));
      at('[data-do="unreject"]').hidden = !rejected;
      at('[data-do="reject"]').hidden = rejected;
      at("[data-even]").hidden = picked.size < 2;
    },
  };
}
