// An outline clicked point by point: a click on the first point, a double click or Enter closes it.
import { make } from "../shared/svg.js";

const NEAR = 0.015;

export function makeOutline(svg, height, done) {
  let points = [];
  let ahead = null;

  function draw() {
    svg.querySelectorAll(".outlining").forEach((old) => old.remove());
    if (!points.length) return;
    const path = [...points, ...(ahead ? [ahead] : [])].map(([x, y]) => `${(1000 * x).toFixed(1)} ${(height * y).toFixed(1)}`);
    const group = make("g", { class: "outlining" }, svg);
    for (const name of ["guide-casing", "guide"]) make("path", { class: name, d: `M${path.join("L")}${points.length > 2 ? "Z" : ""}` }, group);
    points.forEach(([x, y], k) => make("circle", { class: "handle", cx: 1000 * x, cy: height * y, r: k ? 4 : 7 }, group));
  }
  function add(to) {
    const [first] = points;
    if (points.length > 2 && Math.hypot(to[0] - first[0], to[1] - first[1]) < NEAR) return close();
    const last = points[points.length - 1];
    if (!last || Math.hypot(to[0] - last[0], to[1] - last[1]) > 0.001) points.push(to);
    draw();
  }
  function close() {
    if (points.length > 2) done(points.map((p) => p.map((v) => Number(Math.min(1.5, Math.max(-0.5, v)).toFixed(4)))));
    drop();
  }
  function drop() {
    points = [];
    ahead = null;
    draw();
  }
  return {
    add,
    close,
    drop,
    back: () => { points.pop(); draw(); },
    follow: (to) => { ahead = to; draw(); },
    drawing: () => points.length > 0,
  };
}
