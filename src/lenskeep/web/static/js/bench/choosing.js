// Choosing by pictures, in the place of the lanes: what is pointed at is seen large, what is left goes back; nothing of
// it enters the history until it is taken.
import { send, toast } from "../shared/api.js";
import { SPACE } from "../shared/screen.js";

const WAIT = 60; // ms that the pointer rests before the large picture is asked for

export function makeChoosing({ room, lanes, stage, base, frame, opened, versions, renew, settled, painting }) {
  const large = document.createElement("div");
  large.className = "choice-large";
  large.hidden = true;
  stage.append(large);
  let waiting = 0;
  let shown = null;
  const root = () => room.querySelector("[data-choices]");
  const tiles = () => [...room.querySelectorAll(".choice")];
  const ticked = () => tiles().filter((t) => !t.hidden && t.querySelector("[data-choice-tick]").checked);
  const at = (css) => room.querySelector(css);

  const address = (tile) => {
    const url = new URL(tile.querySelector("img").src);
    url.searchParams.set("large", "true");
    url.searchParams.set("space", SPACE);
    return url.href;
  };

  function picture(tile) {
    const img = document.createElement("img");
    img.alt = `The key frame with ${tile.dataset.name}`;
    img.src = address(tile);
    return img;
  }
  async function show(tile) {
    clearTimeout(waiting);
    if (shown === tile) return;
    shown = tile;
    waiting = setTimeout(async () => {
      const img = picture(tile);
      try { await img.decode(); } catch { return; }
      if (shown !== tile) return;
      const name = document.createElement("span");
      name.className = "on-picture top-2 left-2";
      name.textContent = tile.dataset.name;
      large.replaceChildren(img, name);
      large.dataset.count = "1";
      large.hidden = false;
    }, WAIT);
  }
  function back() {
    clearTimeout(waiting);
    shown = null;
    if (large.dataset.count !== "2") large.hidden = true;
  }

  // `way`: how a recipe's steps come, as it stands beside the button that led here
  async function open(of, way = lanes.querySelector('[data-take-recipe] [name="way"]:checked')?.value ?? "after") {
    await settled();
    const step = opened()?.dataset.step ?? "";
    if (of === "blends" && !step) return toast("Open the step that is to be blended otherwise.");
    try {
      const answer = await fetch(`${base}/choices?${new URLSearchParams({ of, step, way, frame: frame() })}`);
      if (!answer.ok) throw new Error("The pictures could not be made. Reload the page.");
      room.innerHTML = await answer.text();
    } catch (error) { return toast(error.message); }
    room.hidden = false;
    lanes.hidden = true;
    at(".choice-picture")?.focus({ preventScroll: true });
    return undefined;
  }
  function close() {
    room.hidden = true;
    room.replaceChildren();
    lanes.hidden = false;
    delete large.dataset.count;
    large.hidden = true;
    shown = null;
  }

  // painted on: a step whose brush is empty until the first stroke, in hand at once
  async function paint(key) {
    try {
      await renew(await (await send(`${base}/choices`, { of: "effects", keys: [key], paint: true, on: versions().on() })).text());
      close();
      painting();
    } catch (error) { toast(error.message); }
  }
  async function take(keys, ownSteps = false) {
    const { choices: of, step } = root().dataset;
    try {
      const on = versions().on();
      const replace = at("[data-choices-replace]")?.checked ?? false;
      const asked = of === "recipes"
        ? ["/take", { key: keys[0], way: at("[data-choices-way]").value, within: step, on }]
        : ["/choices", { of, keys, step: step || null, own_steps: ownSteps, replace, on }];
      const html = await (await send(`${base}${asked[0]}`, asked[1])).text();
      close();
      renew(html);
    } catch (error) { toast(error.message); }
  }

  function filter() {
    const typed = at("[data-choices-search]")?.value.trim().toLowerCase() ?? "";
    const shelf = at("[data-choices-shelf]")?.value ?? "";
    let left = 0;
    for (const tile of tiles()) {
      tile.hidden = tile.hasAttribute("data-dropped") || !tile.dataset.name.toLowerCase().includes(typed) || (shelf !== "" && tile.dataset.shelf !== shelf);
      left += tile.hidden ? 0 : 1;
    }
    at("[data-choices-none]").classList.toggle("hidden", left > 0);
    tell();
  }
  function tell() {
    const count = ticked().length;
    at("[data-choices-narrow]").disabled = count === 0;
    at("[data-choices-beside]").disabled = count !== 2;
    const [some, one] = [at("[data-choices-take]"), at("[data-choices-paint]")];
    if (some) some.disabled = count === 0;
    if (one) one.disabled = count !== 1;
  }
  function narrow() {
    const kept = new Set(ticked());
    for (const tile of tiles()) if (!kept.has(tile)) tile.setAttribute("data-dropped", "");
    filter();
  }
  function beside() {
    large.replaceChildren(...ticked().map((tile) => {
      const half = document.createElement("figure");
      const name = document.createElement("figcaption");
      name.className = "on-picture top-2 left-2";
      name.textContent = tile.dataset.name;
      half.append(picture(tile), name);
      return half;
    }));
    large.dataset.count = "2";
    large.hidden = false;
  }

  room.addEventListener("pointerover", (event) => {
    const tile = event.target.closest(".choice-picture")?.closest(".choice");
    if (tile) { delete large.dataset.count; show(tile); }
  });
  room.addEventListener("pointerout", (event) => { if (event.target.closest(".choice-picture")) back(); });
  room.addEventListener("focusin", (event) => {
    const tile = event.target.closest(".choice-picture:focus-visible")?.closest(".choice");
    if (tile) show(tile);
  });
  room.addEventListener("input", (event) => { if (event.target.matches("[data-choices-search]")) filter(); });
  room.addEventListener("change", (event) => {
    if (event.target.matches("[data-choices-shelf]")) filter();
    else if (event.target.matches("[data-choices-way]")) open("recipes", event.target.value);
    else if (event.target.matches("[data-choice-tick]")) tell();
  });
  room.addEventListener("click", (event) => {
    const tile = event.target.closest("[data-choice-take]")?.closest(".choice");
    if (tile) take([tile.dataset.choice]);
    else if (event.target.closest("[data-choices-narrow]")) narrow();
    else if (event.target.closest("[data-choices-beside]")) beside();
    else if (event.target.closest("[data-choices-take]")) take(ticked().map((t) => t.dataset.choice), true);
    else if (event.target.closest("[data-choices-paint]")) paint(ticked()[0].dataset.choice);
    else if (event.target.closest("[data-choices-close]")) close();
  });
  room.addEventListener("keydown", (event) => {
    const tile = event.target.closest(".choice");
    if (event.key === "Escape") { event.stopPropagation(); return close(); }
    if (!tile || !event.target.matches(".choice-picture")) return undefined;
    if (event.key === " ") {
      event.preventDefault();
      event.stopPropagation();
      const tick = tile.querySelector("[data-choice-tick]");
      tick.checked = !tick.checked;
      return tell();
    }
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (!by) return undefined;
    event.preventDefault();
    const own = tiles().filter((t) => !t.hidden);
    const next = own[(own.indexOf(tile) + by + own.length) % own.length];
    next.querySelector(".choice-picture").focus();
    return show(next);
  });
  lanes.addEventListener("click", (event) => {
    const of = event.target.closest("[data-choose]")?.dataset.choose;
    if (of) open(of);
  });

  return { open, close, on: () => !room.hidden };
}
