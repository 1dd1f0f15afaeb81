// Anchors: positions 0…1 of the frame to an anchor's own coordinates and back, as core/regions/anchor.py has them.
export function anchored(anchor, facts) {
  const { line } = facts;
  const box = anchor === "subject" ? facts.box : anchor === "face" ? facts.face : null;
  if (box) {
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

// The same shape in another anchor's coordinates, so that switching the anchor moves nothing on the key frame.
export function reanchored(kind, values, before, after, facts) {
  const [a, b] = [anchored(before, facts), anchored(after, facts)];
  const moved = (u, v) => b.to(...a.from(u, v));
  const out = { anchor: after };
  const ratio = [a.scale[0] / b.scale[0], a.scale[1] / b.scale[1]];
  if (kind === "ramp") {
    [out.x1, out.y1] = moved(values.x1, values.y1);
    [out.x2, out.y2] = moved(values.x2, values.y2);
  } else if (kind === "pool" || kind === "band") {
    [out.x, out.y] = moved(values.x, values.y);
    if (kind === "pool") Object.assign(out, { rx: values.rx * ratio[0], ry: values.ry * ratio[1] });
    else for (const k of ["full", "fade_a", "fade_b"]) out[k] = values[k] * ratio[1];
  }
  return out;
}

// Thirds of the frame and the skyline draw a handle that comes near; returns the place and what drew it.
const REACH = 0.012;
export function snapped(x, y, facts) {
  const marks = [];
  for (const third of [1 / 3, 2 / 3]) {
    if (Math.abs(x - third) < REACH) { x = third; marks.push(["upright", third]); }
    if (Math.abs(y - third) < REACH) { y = third; marks.push(["level", third]); }
  }
  if (facts.line) {
    const at = facts.line[0] + (facts.line[1] - facts.line[0]) * x;
    if (Math.abs(y - at) < REACH) { y = at; marks.push(["skyline", 0]); }
  }
  return { x, y, marks };
}
