// A small map of the frame in the corner: what of it is seen closely; a click or a drag goes elsewhere.
const LONG = 132;

export function makeMap(canvas, box, go) {
  if (!canvas) return { show() {}, hide() {} };
  const place = (event) => {
    const r = canvas.getBoundingClientRect();
    return [(event.clientX - r.left) / r.width, (event.clientY - r.top) / r.height];
  };
  canvas.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    canvas.setPointerCapture(event.pointerId);
    go(...place(event));
    const move = (e) => go(...place(e));
    canvas.addEventListener("pointermove", move);
    canvas.addEventListener("pointerup", () => canvas.removeEventListener("pointermove", move), { once: true });
  });

  return {
    show(part, width, height) {
      const scale = LONG / Math.max(width, height);
      const [w, h] = [Math.round(width * scale), Math.round(height * scale)];
      if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
      canvas.hidden = false;
      const pen = canvas.getContext("2d");
      const picture = box.querySelector("img, canvas:not(.close-canvas):not(.repair-tint)");
      pen.drawImage(picture, 0, 0, w, h);
      pen.fillStyle = "#0008";
      const [x, y, pw, ph] = [part.x, part.y, part.width, part.height].map((v) => v * scale);
      pen.beginPath();
      pen.rect(0, 0, w, h);
      pen.rect(x, y, pw, ph);
      pen.fill("evenodd");
      pen.strokeStyle = "#fff";
      pen.strokeRect(x + 0.5, y + 0.5, Math.max(2, pw - 1), Math.max(2, ph - 1));
    },
    hide() { canvas.hidden = true; },
  };
}
