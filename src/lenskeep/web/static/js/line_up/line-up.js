// The line-up: frames down, recipes across. Columns are kept, dropped, told apart by strength, mixed and given.
import { send, toast } from "../shared/api.js";
import { makeLarge } from "./large.js";

const root = document.getElementById("line-up");
const at = (css) => root.querySelector(css);
const table = at(".line-up");
const STRENGTHS = [50, 75, 100, 125, 150];
let columns = []; // { name, parts: [{ key, strength }], ticked, cells: [td], head, foot }

const rows = () => [...table.querySelectorAll("tbody tr")];
const frames = () => rows().map((row) => Number(row.dataset.frame));
const single = (column) => column.parts.length === 1;

async function picture(frame, column, large = false) {
  return URL.createObjectURL(await (await send(`/frames/${frame}/lined`, { parts: column.parts, large })).blob());
}

// pictures first, row by row over all columns; measures when they are there
let making = Promise.resolve();
async function draw(column) {
  const drawn = JSON.stringify(column.parts);
  column.foot.textContent = "…";
  await Promise.all(column.cells.map(async (cell, i) => {
    const img = cell.querySelector("img");
    img.alt = `${rows()[i].querySelector("th").textContent.trim()}, ${told(column)}`;
    try {
      const url = await picture(frames()[i], column);
      if (img.src) URL.revokeObjectURL(img.src);
      img.src = url;
    } catch (error) { cell.firstChild.title = error.message; }
  }));
  making = making.then(() => (drawn === JSON.stringify(column.parts) && columns.includes(column) ? measure(column) : undefined));
}
const told = (column) => (single(column) ? `${column.name} at ${column.parts[0].strength} %` : column.name);

async function measure(column) {
  try {
    const { pull, apart, warned } = await (await send("/line-up/measures", { frames: frames(), parts: column.parts })).json();
    const sign = (v) => `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1)}`;
    const guards = Object.entries(warned).map(([name, n]) => `${name} ${n}`).join(", ");
    const line = (words, css = "") => Object.assign(document.createElement("div"), { textContent: words, className: css });
    column.foot.replaceChildren(
      line(pull ? `Pull ${sign(pull.brightness)} light, ${sign(pull.warmth)} warm, ${sign(pull.detail)} detail` : "No subject"),
      line(`Apart ${apart.toFixed(1)}; ${guards ? `guards: ${guards}` : "guards quiet"}`, guards ? "line-up-warns" : ""),
    );
    column.foot.title = "Pull: how much more the subject draws the eye, in the middle of the frames. Apart: how far the frames’ light lies apart. Guards: on how many frames each warns.";
  } catch (error) { column.foot.textContent = error.message; }
}

function add(parts, name, after = null) {
  if (columns.length >= Number(root.dataset.most)) { toast("Drop a recipe first; the line-up is full."); return null; }
  const column = { parts, name, ticked: false, cells: [] };
  const place = after ? columns.indexOf(after) + 1 : columns.length;
  const put = (row, element) => { row.insertBefore(element, row.children[place + 1] ?? null); return element; };
  column.head = put(table.tHead.rows[0], document.createElement("th"));
  column.head.scope = "col";
  column.head.append(document.getElementById("column").content.cloneNode(true));
  column.head.querySelector("[data-name]").textContent = name;
  const field = column.head.querySelector("[data-strength]");
  field.setAttribute("aria-label", `Strength of ${name} in per cent`);
  if (single(column)) field.value = parts[0].strength;
  else field.closest("[data-per-cent]").hidden = true;
  if (!parts.length) column.head.querySelector("[data-tick]").disabled = true;
  column.head.querySelector("[data-name]").title = name;
  for (const row of rows()) {
    const cell = put(row, document.createElement("td"));
    cell.innerHTML = '<button type="button" class="line-up-cell"><img></button>';
    column.cells.push(cell);
  }
  column.foot = put(table.tFoot.rows[0], document.createElement("td"));
  columns.splice(place, 0, column);
  draw(column);
  return column;
}
function drop(column) {
  [column.head, column.foot, ...column.cells].forEach((each) => each.remove());
  columns = columns.filter((c) => c !== column);
  tell();
}
function tell() {
  const ticked = columns.filter((c) => c.ticked);
  at("[data-strengths]").disabled = ticked.length !== 1 || !single(ticked[0]);
  at("[data-versions]").disabled = at("[data-strengths]").disabled;
  at("[data-mix]").disabled = ticked.length < 2;
  at("[data-only]").disabled = ticked.length === 0;
  at("[data-give]").disabled = ticked.length !== 1;
  for (const column of columns) column.head.toggleAttribute("data-ticked", column.ticked);
}
const large = makeLarge(document.getElementById("line-up-large"));
const columnOf = (element) => columns.find((c) => [c.head, c.foot, ...c.cells].some((each) => each.contains(element)));
function tick(column, on = !column.ticked) {
  if (!column.parts.length) return;
  column.ticked = on;
  column.head.querySelector("[data-tick]").checked = on;
  tell();
}

async function give() {
  const { parts } = columns.find((c) => c.ticked);
  try {
    window.location.assign((await (await send(`/scenes/${root.dataset.scene}/line-up/give`, { parts })).json()).address);
  } catch (error) { toast(error.message); }
}
function strengths() {
  const one = columns.find((c) => c.ticked);
  const [{ key, strength: own }] = one.parts;
  let last = one;
  for (const strength of STRENGTHS.filter((s) => s !== own)) last = add([{ key, strength }], one.name, last) ?? last;
}
// the other versions of the ticked recipe, right of it
async function versions() {
  const one = columns.find((c) => c.ticked);
  try {
    const others = await (await fetch(`/line-up/versions?key=${encodeURIComponent(one.parts[0].key)}`)).json();
    if (!others.length) toast(`There is one version of ${one.name} only.`);
    let last = one;
    for (const { key, name } of others) last = add([{ key, strength: one.parts[0].strength }], name, last) ?? last;
  } catch (error) { toast(error.message); }
}
// several in one look: a column of its own, which takes their ticks
function mix() {
  const chosen = columns.filter((c) => c.ticked);
  const name = `Mix: ${chosen.map((c) => (single(c) ? `${c.name} ${c.parts[0].strength} %` : c.name.replace(/^Mix: /, ""))).join(" + ")}`;
  const made = add(chosen.flatMap((c) => c.parts.map((p) => ({ ...p }))), name, chosen[chosen.length - 1]);
  if (!made) return;
  chosen.forEach((c) => tick(c, false));
  tick(made, true);
}

function start() {
  root.addEventListener("change", (event) => {
    const column = columnOf(event.target);
    if (event.target.matches("[data-add]")) {
      const option = event.target.selectedOptions[0];
      if (option.value) add([{ key: option.value, strength: 100 }], option.textContent.trim());
      event.target.value = "";
    } else if (event.target.matches("[data-tick]")) tick(column, event.target.checked);
    else if (event.target.matches("[data-strength]")) {
      const [part] = column.parts;
      part.strength = Math.min(200, Math.max(0, Number(event.target.value) || 0));
      event.target.value = part.strength;
      draw(column);
    }
  });
  root.addEventListener("click", (event) => {
    if (event.target.closest("[data-drop]")) drop(columnOf(event.target));
    else if (event.target.closest("[data-give]")) give();
    else if (event.target.closest("[data-strengths]")) strengths();
    else if (event.target.closest("[data-versions]")) versions();
    else if (event.target.closest("[data-mix]")) mix();
    else if (event.target.closest("[data-only]")) columns.filter((c) => !c.ticked).forEach(drop);
    else if (event.target.closest(".line-up-cell")) {
      const cell = event.target.closest("td");
      large.open(cell.closest("tr").dataset, columnOf(cell).parts, cell.querySelector("img"));
    }
  });
  root.addEventListener("keydown", (event) => {
    const cell = event.target.closest(".line-up-cell")?.closest("td");
    if (!cell) return;
    const key = event.key.toLowerCase();
    const column = columnOf(cell);
    const [x, y] = [columns.indexOf(column), column.cells.indexOf(cell)];
    const to = { arrowright: [1, 0], arrowleft: [-1, 0], arrowdown: [0, 1], arrowup: [0, -1] }[key];
    if (to) {
      event.preventDefault();
      columns[x + to[0]]?.cells[y + to[1]]?.querySelector("button").focus();
    } else if (key === "k") tick(column);
    else if (key === "x") {
      drop(column);
      (columns[x] ?? columns[x - 1])?.cells[y].querySelector("button").focus();
    }
  });
  for (const first of document.querySelectorAll("#line-up-first li")) add(first.dataset.key ? [{ key: first.dataset.key, strength: 100 }] : [], first.dataset.name);
  tell();
}
if (table) start();
