// Asking for a picture of the Bench: the whole frame, or of a witness that is seen closely the same part of its own
// subject: its face, else its middle.
import { send } from "../shared/api.js";
import { SPACE } from "../shared/screen.js";

// `asked(picture)` is what is on it, `close()` the close view, `room` where its bar stands.
export function makeAsking({ base, key, asked, close, room }) {
  const closely = () => close().on() && room.querySelector("[data-close-witnesses] input").checked;
  function ownPart(picture) {
    const { width, height: tall, middle } = picture.canvas.dataset;
    const r = picture.canvas.parentElement.getBoundingClientRect();
    const [w, h] = [r.width, r.height].map((v, i) => Math.min([width, tall][i], Math.round(v * (window.devicePixelRatio || 1))));
    const [u, v] = middle ? middle.split(",").map(Number) : [0.5, 0.5];
    const start = (m, size, whole) => Math.round(Math.min(whole - size, Math.max(0, m * whole - size / 2)));
    return { x: start(u, w, width), y: start(v, h, tall), width: w, height: h };
  }
  return (picture, draft = false, more = {}) => {
    const { side, guard, ...wanted } = { ...asked(picture), ...more };
    if (picture !== key && closely()) return send(`${base}/cut`, { ...wanted, ...ownPart(picture), moving: true, space: SPACE });
    return send(`${base}/picture`, { ...wanted, side, guard, draft, space: SPACE });
  };
}
