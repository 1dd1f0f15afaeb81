// Two pictures side by side: on the left another one of the same frame, at the same size and the same part of it.
// `rooms` holds both rooms; `fit()` sizes the box to its room anew; `picture()` gives the other one whole, `asked()` is how
// the close view asks for it (null for the original); `words()` says what it is.
export function makeBeside({ rooms, box, close, fit, picture, asked, words }) {
  const canvas = rooms.querySelector("[data-beside-canvas]");
  const label = rooms.querySelector("[data-beside-label]");
  let on = false;

  async function paint() {
    if (!on) return;
    label.textContent = words();
    if (close().on()) return;
    const whole = await picture();
    if (!whole || !on || close().on()) return;
    const [w, h] = [whole.naturalWidth ?? whole.width, whole.naturalHeight ?? whole.height];
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    Object.assign(canvas.style, { width: box.style.width, height: box.style.height });
    canvas.getContext("2d").drawImage(whole, 0, 0, w, h);
  }
  // near or far, or another picture than before
  function renew() {
    if (!on) return;
    if (close().on()) close().beside(canvas, asked());
    paint();
  }
  function show(next) {
    on = next;
    rooms.toggleAttribute("data-side-by-side", on);
    fit();
    if (close().on()) close().beside(on ? canvas : null, on ? asked() : null);
    paint();
  }
  window.addEventListener("resize", () => setTimeout(paint, 0));
  return { show, renew, paint, on: () => on };
}
