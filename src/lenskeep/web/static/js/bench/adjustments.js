// The editors of adjustments that are no sliders: bands, files, and colours taken from a picture.
import { send, toast } from "../shared/api.js";

export function makeAdjustments(lanes, { base, renew, versions, live, set, pictures, overlay, settled }) {
  const bandTab = {};
  let picking = null; // the path of the colour that the next click on a picture gives

  // --- eight hues, one of their three numbers at a time
  function bands() {
    for (const box of lanes.querySelectorAll("[data-bands]")) {
      const tab = bandTab[box.closest(".lane").dataset.step] ?? "turn";
      box.querySelectorAll("[data-band-tab]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.bandTab === tab));
      box.querySelectorAll("[data-band-panel]").forEach((p) => { p.hidden = p.dataset.bandPanel !== tab; });
    }
  }
  lanes.addEventListener("click", (event) => {
    const tab = event.target.closest("[data-band-tab]");
    if (tab) { bandTab[tab.closest(".lane").dataset.step] = tab.dataset.bandTab; return bands(); }
    const take = event.target.closest("[data-pick-colour]");
    if (take) pickFor(picking === take.dataset.pickColour ? null : take.dataset.pickColour);
  });

  // --- files
  lanes.addEventListener("change", async (event) => {
    const field = event.target.closest("input[data-file]");
    if (!field || !field.files.length) return;
    await settled();
    const form = new FormData();
    form.set("step", field.closest(".lane").dataset.step);
    form.set("of", field.dataset.of);
    form.set("kind", field.dataset.file);
    form.set("on", versions.on());
    form.set("file", field.files[0]);
    try {
      renew(await (await send(`${base}/file`, form)).text());
    } catch (error) {
      toast(error.message);
      field.value = "";
    }
  });
  lanes.addEventListener("input", (event) => {
    if (event.target.type === "color" && event.target.dataset.path) live(event.target.dataset.path, event.target.value);
  });

  // --- a colour from any place of any picture on the Bench
  function pickFor(path) {
    picking = path;
    document.body.toggleAttribute("data-picking", Boolean(path));
    lanes.querySelectorAll("[data-pick-colour]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.pickColour === path));
  }
  function colourAt(canvas, event) {
    const r = canvas.getBoundingClientRect();
    const scale = Math.min(r.width / canvas.width, r.height / canvas.height); // a witness is fitted into its place
    const x = (event.clientX - r.left - (r.width - canvas.width * scale) / 2) / scale;
    const y = (event.clientY - r.top - (r.height - canvas.height * scale) / 2) / scale;
    if (x < 0 || y < 0 || x >= canvas.width || y >= canvas.height) return null;
    const reach = 2;
    const { data } = canvas.getContext("2d").getImageData(Math.max(0, x - reach), Math.max(0, y - reach), 2 * reach + 1, 2 * reach + 1);
    const mean = [0, 1, 2].map((c) => Math.round([...data].filter((_, i) => i % 4 === c).reduce((a, b) => a + b, 0) / (data.length / 4)));
    return `#${mean.map((v) => v.toString(16).padStart(2, "0")).join("")}`;
  }
  document.addEventListener("click", (event) => {
    if (!picking) return;
    const witness = event.target.closest(".witness");
    const onKey = overlay.contains(event.target) || event.target.closest("#key-box");
    if (!witness && !onKey) return;
    event.preventDefault();
    event.stopPropagation();
    const picture = witness ? pictures.find((p) => p.canvas === witness.querySelector("canvas")) : pictures[0];
    const colour = colourAt(picture.canvas, event);
    if (!colour) return;
    const path = picking;
    pickFor(null);
    const field = lanes.querySelector(`input[data-path="${path}"]`);
    if (field) field.value = colour;
    live(path, colour);
    set({ [path]: colour }, "taking a colour");
  }, true);
  document.addEventListener("keydown", (event) => { if (event.key === "Escape" && picking) pickFor(null); });

  return { show: bands, picking: () => picking !== null };
}
