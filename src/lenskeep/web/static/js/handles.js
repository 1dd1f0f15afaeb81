// Contour lines of a region on the key frame, and handles for its ramps and pools, in the anchor's own coordinates.
const NS = "http://www.w3.org/2000/svg";
const make = (name, attributes, parent) => {
  const element = document.createElementNS(NS, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  parent.append(element);
  return element;
};

export function drawContours(svg, { paths, lane }) {
  svg.dataset.lane = lane;
  svg.querySelectorAll(".contours").forEach((old) => old.remove());
  const group = document.createElementNS(NS, "g");
  group.setAttribute("class", "contours");
  for (const level of ["10", "50", "90"]) {
    if (!paths[level]) continue;
    make("path", { class: "casing", d: paths[level] }, group);
    make("path", { class: `line level-${level}`, d: paths[level] }, group);
  }
  svg.prepend(group);
}

export const clearContours = (svg) => svg.querySelectorAll(".contours").forEach((old) => old.remove());

// Positions 0…1 of the frame to the anchor's coordinates and back.
function anchored(anchor, facts) {
  const { box, line } = facts;
  if (anchor === "subject" && box) {
    const w = box[2] - box[0];
    const h = box[3] - box[1];
    return { to: (x, y) => [(x - box[0]) / w, (y - box[1]) / h], from: (u, v) => [box[0] + u * w, box[1] + v * h], scale: [w, h] };
  }
  if (anchor === "skyline") {
    const at = (x) => (line ? line[0] + (line[1] - line[0]) * x : 0.4);
    return { to: (x, y) => [x, y - at(x)], from: (u, v) => [u, v + at(u)], scale: [1, 1] };
  }
  return { to: (x, y) => [x, y], from: (u, v) => [u, v], scale: [1, 1] };
}

export function drawHandles(svg, part, facts, height, { live, set }) {
  const { path, kind, values } = part;
  const anchor = anchored(values.anchor, facts);
  const group = make("g", { class: "handles" }, svg);
  const place = (u, v) => { const [x, y] = anchor.from(u, v); return [1000 * x, height * y]; };
  const handle = (label, where, moved) => {
    const [x, y] = where();
    const dot = make("circle", { class: "handle", r: 9, cx: x, cy: y, tabindex: 0, role: "button", "aria-label": label }, group);
    const send = (u, v, done) => {
      const changed = Object.fromEntries(Object.entries(moved(u, v)).map(([k, value]) => [`${path}/${k}`, Number(value.toFixed(4))]));
      Object.entries(changed).forEach(([k, value]) => { values[k.split("/").pop()] = value; live(k, value); });
      redraw();
      if (done) set(changed, "moving a handle");
    };
    dot.addEventListener("pointerdown", (event) => {
      event.preventDefault();
      dot.setPointerCapture(event.pointerId);
      const point = (e) => { const r = svg.getBoundingClientRect(); return anchor.to((e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height); };
      const follow = (e) => send(...point(e), false);
      dot.addEventListener("pointermove", follow);
      dot.addEventListener("pointerup", (e) => { dot.removeEventListener("pointermove", follow); send(...point(e), true); }, { once: true });
    });
    dot.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (!by) return;
      event.preventDefault();
      const step = event.shiftKey ? 0.002 : 0.01;
      const [px, py] = where();
      send(...anchor.to(px / 1000 + by[0] * step, py / height + by[1] * step), true);
    });
    return { dot, where };
  };
  const dots = [];
  const guide = make(kind === "ramp" ? "line" : "ellipse", { class: "guide" }, group);
  if (kind === "ramp") {
    dots.push(handle("Start of the ramp", () => place(values.x1, values.y1), (u, v) => ({ x1: u, y1: v })));
    dots.push(handle("End of the ramp", () => place(values.x2, values.y2), (u, v) => ({ x2: u, y2: v })));
  } else {
    const turn = () => (values.angle * Math.PI) / 180;
    dots.push(handle("Middle of the pool", () => place(values.x, values.y), (u, v) => ({ x: u, y: v })));
    // whichever end of the axis lies on the picture; at its edge when neither does
    const rim = (du, dv) => () => {
      const [cx, cy] = place(values.x, values.y);
      const a = turn();
      const rx = values.rx * anchor.scale[0] * 1000;
      const ry = values.ry * anchor.scale[1] * height;
      const [dx, dy] = [du * rx * Math.cos(a) - dv * ry * Math.sin(a), du * rx * Math.sin(a) + dv * ry * Math.cos(a)];
      const ends = [[cx + dx, cy + dy], [cx - dx, cy - dy]];
      const seen = ends.find(([x, y]) => x >= 0 && x <= 1000 && y >= 0 && y <= height) ?? ends[0];
      return [Math.min(1000, Math.max(0, seen[0])), Math.min(height, Math.max(0, seen[1]))];
    };
    const reach = (u, v) => {
      const [px, py] = place(u, v);
      const [cx, cy] = place(values.x, values.y);
      return Math.hypot(px - cx, py - cy);
    };
    dots.push(handle("Half width of the pool", rim(1, 0), (u, v) => ({ rx: Math.max(0.01, reach(u, v) / (1000 * anchor.scale[0])) })));
    dots.push(handle("Half height of the pool", rim(0, 1), (u, v) => ({ ry: Math.max(0.01, reach(u, v) / (height * anchor.scale[1])) })));
  }
  function redraw() {
    for (const { dot, where } of dots) { const [x, y] = where(); dot.setAttribute("cx", x); dot.setAttribute("cy", y); }
    if (kind === "ramp") {
      const [[x1, y1], [x2, y2]] = dots.map(({ where }) => where());
      for (const [k, v] of Object.entries({ x1, y1, x2, y2 })) guide.setAttribute(k, v);
    } else {
      const [cx, cy] = place(values.x, values.y);
      guide.setAttribute("cx", cx);
      guide.setAttribute("cy", cy);
      guide.setAttribute("rx", values.rx * anchor.scale[0] * 1000);
      guide.setAttribute("ry", values.ry * anchor.scale[1] * height);
      guide.setAttribute("transform", `rotate(${values.angle} ${cx} ${cy})`);
    }
  }
  redraw();
}

export const clearHandles = (svg) => svg.querySelectorAll(".handles").forEach((old) => old.remove());
