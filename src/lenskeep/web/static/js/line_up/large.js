// One cell of the line-up, large; a click shows the file's own pixels there, arrows move over them.
import { send, toast } from "../shared/api.js";
import { SPACE } from "../shared/screen.js";

const FAR = 0.35; // of what is seen, for an arrow

export function makeLarge(dialog) {
  if (!dialog) return null;
  const [img, told, toggle] = ["img", "[data-large-told]", "[data-large-true]"].map((css) => dialog.querySelector(css));
  let [of, whole, near, turn] = [null, "", null, 0];

  async function picture(address, asked) {
    const mine = (turn += 1);
    try {
      const url = URL.createObjectURL(await (await send(address, { parts: of.parts, ...asked })).blob());
      if (mine !== turn) return URL.revokeObjectURL(url);
      img.src = url;
      return url;
    } catch (error) { return toast(error.message); }
  }
  async function open({ frame, width, height }, parts, small) {
    of = { frame, parts, width: Number(width), height: Number(height) };
    far();
    img.src = whole = small.src;
    img.alt = small.alt;
    dialog.querySelector("[data-large-name]").textContent = img.alt;
    if (!dialog.open) dialog.showModal();
    whole = (await picture(`/frames/${frame}/lined`, { large: true })) ?? whole;
  }
  function far() {
    near = null;
    turn += 1;
    img.style.width = img.style.height = "";
    img.removeAttribute("data-true");
    toggle.setAttribute("aria-pressed", "false");
    told.textContent = "Click it for the pixels of the file.";
  }
  // what fits where the picture stands, about a place (0…1); the picture's box stays as it is
  async function to(u, v) {
    const ratio = window.devicePixelRatio || 1;
    const { width: w, height: h } = near ?? img.getBoundingClientRect();
    const cut = { width: Math.min(of.width, Math.round(w * ratio)), height: Math.min(of.height, Math.round(h * ratio)) };
    const start = (at, size, span) => Math.round(Math.min(size - span, Math.max(0, at * size - span / 2)));
    [cut.x, cut.y] = [start(u, of.width, cut.width), start(v, of.height, cut.height)];
    near = { width: w, height: h, u: (cut.x + cut.width / 2) / of.width, v: (cut.y + cut.height / 2) / of.height, cut };
    toggle.setAttribute("aria-pressed", "true");
    told.textContent = "100 %. Arrows move, a click shows the whole again.";
    if (!(await picture(`/frames/${of.frame}/lined-cut`, { ...cut, space: SPACE }))) return;
    Object.assign(img.style, { width: `${cut.width / ratio}px`, height: `${cut.height / ratio}px` });
    img.setAttribute("data-true", "");
  }
  function away() {
    far();
    img.src = whole;
  }
  img.addEventListener("click", (event) => {
    if (near) return away();
    const box = img.getBoundingClientRect();
    return to((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
  });
  toggle.addEventListener("click", () => (near ? away() : to(0.5, 0.5)));
  dialog.querySelector("[data-large-close]").addEventListener("click", () => dialog.close());
  dialog.addEventListener("close", far);
  dialog.addEventListener("keydown", (event) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!way || !near) return;
    event.preventDefault();
    to(near.u + (way[0] * FAR * near.cut.width) / of.width, near.v + (way[1] * FAR * near.cut.height) / of.height);
  });
  return { open };
}
