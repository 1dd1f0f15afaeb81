// A mask as a tint over the picture: read from the server, and painted on at once while a stroke is drawn.
const LONG = 1024; // the masks' own long side
const SPACING = 0.14;

// `canvas` lies over the picture, whose sides are as `ratio` (width / height); `colour` is [r, g, b]
export function makeTint(canvas, ratio, colour) {
  canvas.width = Math.round(ratio >= 1 ? LONG : LONG * ratio);
  canvas.height = Math.round(ratio >= 1 ? LONG / ratio : LONG);
  const pen = canvas.getContext("2d", { willReadFrequently: true });
  const css = (alpha) => `rgba(${colour.join(",")},${alpha})`;
  let asked = 0;

  // the mask that the server has now; an answer that a later question overtook is dropped
  async function load(address) {
    const own = ++asked;
    const answer = await fetch(address, { cache: "no-store" });
    if (!answer.ok) throw new Error((await answer.text()) || "This mask can’t be shown.");
    const image = await createImageBitmap(await answer.blob());
    if (own !== asked) return;
    pen.globalCompositeOperation = "copy";
    pen.drawImage(image, 0, 0, canvas.width, canvas.height);
    pen.globalCompositeOperation = "source-over";
    const pixels = pen.getImageData(0, 0, canvas.width, canvas.height);
    for (let i = 0; i < pixels.data.length; i += 4) {
      const grey = pixels.data[i];
      [pixels.data[i], pixels.data[i + 1], pixels.data[i + 2]] = colour;
      pixels.data[i + 3] = grey;
    }
    pen.putImageData(pixels, 0, 0);
  }

  // dabs from one place to the next, both 0…1 of width and height; what the server makes of the stroke follows edges
  function dab([x0, y0], [x1, y1], { size, hardness, opacity, away }) {
    asked += 1;
    const radius = Math.max(0.5, (size / 2) * Math.max(canvas.width, canvas.height));
    const from = [x0 * canvas.width, y0 * canvas.height];
    const to = [x1 * canvas.width, y1 * canvas.height];
    const count = Math.max(1, Math.ceil(Math.hypot(to[0] - from[0], to[1] - from[1]) / (SPACING * radius)));
    pen.globalCompositeOperation = away ? "destination-out" : "source-over";
    for (let k = 1; k <= count; k += 1) {
      const x = from[0] + ((to[0] - from[0]) * k) / count;
      const y = from[1] + ((to[1] - from[1]) * k) / count;
      const fade = pen.createRadialGradient(x, y, radius * Math.min(hardness, 0.98), x, y, radius);
      fade.addColorStop(0, css(0.8 * opacity));
      fade.addColorStop(1, css(0));
      pen.fillStyle = fade;
      pen.fillRect(x - radius, y - radius, 2 * radius, 2 * radius);
    }
    pen.globalCompositeOperation = "source-over";
  }

  return { load, dab };
}
