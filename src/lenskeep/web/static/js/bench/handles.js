// Handles of ramps, bands and pools on the key frame. Work is done in "picture units": x 0…1000, y 0…1000·h/w, where a
// circle is round; what is set is in the part's own coordinates.
import { anchored, snapped } from "./anchors.js";
import { follow } from "../shared/pointer.js";
import { make } from "../shared/svg.js";

const clamp = (v, low, high) => Math.min(high, Math.max(low, v));
const turn = ([x, y], a) => [x * Math.cos(a) - y * Math.sin(a), x * Math.sin(a) + y * Math.cos(a)];
const degrees = (a) => (((a * 180) / Math.PI + 540) % 360) - 180;
const held = (angle) => Math.round(angle / 90) * 90;

// What each kind shows: handles with their places, what a move means, and the lines between them.
const SHAPES = {
  ramp: {
    handles: [
      ["Start", (s) => s.at(s.v.x1, s.v.y1), (s, p, m) => s.point("1", m.shift ? s.straight(p, s.at(s.v.x2, s.v.y2)) : p)],
      ["End", (s) => s.at(s.v.x2, s.v.y2), (s, p, m) => s.point("2", m.shift ? s.straight(p, s.at(s.v.x1, s.v.y1)) : p)],
      ["Middle", (s) => s.mid(s.at(s.v.x1, s.v.y1), s.at(s.v.x2, s.v.y2)), (s, p) => {
        const [a, b] = [s.at(s.v.x1, s.v.y1), s.at(s.v.x2, s.v.y2)];
        const by = [p[0] - (a[0] + b[0]) / 2, p[1] - (a[1] + b[1]) / 2];
        return { ...s.point("1", [a[0] + by[0], a[1] + by[1]]), ...s.point("2", [b[0] + by[0], b[1] + by[1]]) };
      }],
    ],
    lines(s) {
      // across in the anchor's own coordinates, so that the bars of a ramp on a tilted skyline tilt with it
      const [dx, dy] = [s.wide(s.v.x2 - s.v.x1), s.high(s.v.y2 - s.v.y1)];
      const long = Math.hypot(dx, dy) || 1;
      const [u, v] = [(-dy / long) * (2000 / s.wide(1)), (dx / long) * (2000 / s.high(1))];
      const bar = (x, y) => [...s.at(x - u, y - v), ...s.at(x + u, y + v)];
      return [[...s.at(s.v.x1, s.v.y1), ...s.at(s.v.x2, s.v.y2)], bar(s.v.x1, s.v.y1), bar(s.v.x2, s.v.y2)];
    },
    drawn: (s, a, b, m) => ({ ...s.point("1", a), ...s.point("2", m.shift ? s.straight(b, a) : b) }),
  },
  band: {
    handles: [
      ["Middle", (s) => s.at(s.v.x, s.v.y), (s, p) => s.point("", p)],
      ["Turn", (s) => s.off([170, 0]), (s, p, m) => s.angle(p, m.shift)],
      ["Full width", (s) => s.off([0, s.high(s.v.full)]), (s, p) => ({ full: s.low(Math.abs(s.back(p)[1])) })],
      ["Fade above", (s) => s.off([0, -s.high(s.v.full + s.v.fade_a)]), (s, p, m) => s.fade(p, "fade_a", m.alt)],
      ["Fade below", (s) => s.off([0, s.high(s.v.full + s.v.fade_b)]), (s, p, m) => s.fade(p, "fade_b", m.alt)],
    ],
    lines: (s) => [0, s.high(s.v.full), -s.high(s.v.full), s.high(s.v.full + s.v.fade_b), -s.high(s.v.full + s.v.fade_a)]
      .map((y) => [...s.off([-2000, y]), ...s.off([2000, y])]),
    drawn(s, a, b, m) {
      const angle = degrees(Math.atan2(b[1] - a[1], b[0] - a[0]));
      return { ...s.point("", s.mid(a, b)), angle: clamp(m.shift ? held(angle) : angle, -180, 180) };
    },
  },
  pool: {
    handles: [
      ["Middle", (s) => s.at(s.v.x, s.v.y), (s, p) => s.point("", p)],
      ["Half width", (s) => s.inside([s.wide(s.v.rx), 0]), (s, p, m) => s.reach(p, 0, m.alt)],
      ["Half height", (s) => s.inside([0, s.high(s.v.ry)]), (s, p, m) => s.reach(p, 1, m.alt)],
      ["Turn", (s) => s.inside([s.wide(s.v.rx) * 0.75, -s.high(s.v.ry) * 0.75]), (s, p, m) => {
        const start = Math.atan2(-s.high(s.v.ry), s.wide(s.v.rx));
        const from = s.at(s.v.x, s.v.y);
        const angle = degrees(Math.atan2(p[1] - from[1], p[0] - from[0]) - start);
        return { angle: m.shift ? held(angle) : angle };
      }],
      ["Softness", (s) => s.inside([-s.wide(s.v.rx) * (1 - s.v.softness), 0]), (s, p) => ({
        softness: clamp(1 - Math.abs(s.back(p)[0]) / Math.max(s.wide(s.v.rx), 1), 0.02, 1),
      })],
    ],
    lines: () => [],
    drawn(s, a, b, m) {
      let [w, h] = [Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1])];
      if (m.shift) w = h = Math.max(w, h);
      return { ...s.point("", a), rx: clamp(w / (1000 * s.anchor.scale[0]), 0.01, 2), ry: clamp(h / (s.height * s.anchor.scale[1]), 0.01, 2), angle: 0 };
    },
  },
};

// A part's geometry in picture units.
function geometry(values, facts, height) {
  const anchor = anchored(values.anchor, facts);
  const s = { v: values, anchor, height };
  s.at = (u, v) => { const [x, y] = anchor.from(u, v); return [1000 * x, height * y]; };
  s.own = ([x, y]) => anchor.to(x / 1000, y / height);
  s.point = (n, p) => { const [u, v] = s.own(p); return { [`x${n}`]: clamp(u, -1, 2), [`y${n}`]: clamp(v, -1, 2) }; };
  s.mid = (a, b) => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  s.straight = (p, from) => (Math.abs(p[0] - from[0]) > Math.abs(p[1] - from[1]) ? [p[0], from[1]] : [from[0], p[1]]);
  s.wide = (r) => r * anchor.scale[0] * 1000;
  s.high = (r) => r * anchor.scale[1] * height;
  s.low = (y) => clamp(y / (anchor.scale[1] * height), 0, 2);
  s.radians = () => ((values.angle ?? 0) * Math.PI) / 180;
  s.off = (p) => { const [x, y] = turn(p, s.radians()); return s.at(values.x + x / s.wide(1), values.y + y / s.high(1)); };
  s.away = (p) => { const [u, v] = s.own(p); return [s.wide(u - values.x), s.high(v - values.y)]; };
  s.back = (p) => turn(s.away(p), -s.radians());
  s.angle = (p, straight) => {
    const [x, y] = s.away(p);
    const angle = degrees(Math.atan2(y, x));
    return { angle: straight ? held(angle) : angle };
  };
  s.fade = (p, name, alone) => {
    const width = clamp(s.low(Math.abs(s.back(p)[1])) - values.full, 0.005, 2);
    return alone ? { [name]: width } : { fade_a: width, fade_b: width };
  };
  // both sides move about the middle; alone, the other rim stays where it is
  s.reach = (p, axis, alone) => {
    const name = axis ? "ry" : "rx";
    const size = axis ? s.high : s.wide;
    const along = s.back(p)[axis];
    const per = size(1);
    if (!alone) return { [name]: clamp(Math.abs(along) / per, 0.01, 2) };
    const other = -Math.sign(along || 1) * size(values[name]);
    const middle = axis ? s.off([0, (along + other) / 2]) : s.off([(along + other) / 2, 0]);
    return { ...s.point("", middle), [name]: clamp(Math.abs(along - other) / 2 / per, 0.01, 2) };
  };
  // a rim handle that would lie off the picture is shown on the other side, or at the picture's edge
  s.inside = (p) => {
    const on = ([x, y]) => x >= 0 && x <= 1000 && y >= 0 && y <= height;
    const ends = [s.off(p), s.off([-p[0], -p[1]])];
    const seen = ends.find(on) ?? ends[0];
    return [clamp(seen[0], 0, 1000), clamp(seen[1], 0, height)];
  };
  return s;
}

const rounded = (changed) => Object.fromEntries(Object.entries(changed).map(([k, v]) => [k, typeof v === "number" ? Number(v.toFixed(4)) : v]));

// Draw a part's handles. `write(values, done)` sets what a move means; `number` is the part's number on the picture.
export function drawHandles(svg, part, facts, height, write) {
  const { kind, values, number } = part;
  const shape = SHAPES[kind];
  const group = make("g", { class: "handles" }, svg);
  const s = geometry(values, facts, height);
  drawAnchor(group, values.anchor, facts, height);
  // an svg of its own cuts what reaches over the picture; handles may
  const guides = make("svg", { x: 0, y: 0, width: 1000, height }, group);
  const marks = make("g", {}, group);
  const send = (changed, done) => {
    Object.assign(values, rounded(changed));
    redraw();
    write(rounded(changed), done);
  };
  const dots = shape.handles.map(([name, where, moved]) => {
    const dot = make("circle", { class: "handle", r: 9, tabindex: 0, role: "button", "aria-label": `${name} of the ${kind}${number ? ` ${number}` : ""}` }, group);
    const tag = make("text", { class: "handle-name" }, group);
    tag.textContent = name === "Middle" || name === "Start" ? `${number || ""}` : "";
    const point = (event) => { const r = svg.getBoundingClientRect(); return [(event.clientX - r.left) / r.width, (event.clientY - r.top) / r.height]; };
    const at = (event, done) => {
      const near = event.ctrlKey ? { x: point(event)[0], y: point(event)[1], marks: [] } : snapped(...point(event), facts);
      drawMarks(marks, done ? [] : near.marks, facts, height);
      send(moved(s, [1000 * near.x, height * near.y], { shift: event.shiftKey, alt: event.altKey }), done);
    };
    dot.addEventListener("pointerdown", (event) => {
      event.preventDefault();
      dot.focus();
      let last = event; // where a press that is taken away ends, nothing says
      follow(dot, event, (e) => { last = e; at(e, false); }, () => at(last, true));
    });
    dot.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (!by) return;
      event.preventDefault();
      const step = event.shiftKey ? 2 : 10;
      const [x, y] = where(s);
      send(moved(s, [x + by[0] * step, y + by[1] * step], { shift: false, alt: event.altKey }), true);
    });
    return { dot, tag, where };
  });
  function redraw() {
    for (const { dot, tag, where } of dots) {
      const [x, y] = where(s);
      dot.setAttribute("cx", x);
      dot.setAttribute("cy", y);
      tag.setAttribute("x", x + 13);
      tag.setAttribute("y", y - 9);
    }
    guides.replaceChildren();
    for (const [x1, y1, x2, y2] of shape.lines(s)) {
      for (const name of ["guide-casing", "guide"]) make("line", { class: name, x1, y1, x2, y2 }, guides);
    }
    if (kind === "pool") {
      const [cx, cy] = s.at(values.x, values.y);
      for (const name of ["guide-casing", "guide"]) {
        make("ellipse", { class: name, cx, cy, rx: s.wide(values.rx), ry: s.high(values.ry), transform: `rotate(${values.angle} ${cx} ${cy})` }, guides);
      }
    }
  }
  redraw();
}

// What a drag from one place to another draws.
export function drawnShape(kind, values, facts, height, from, to, modifiers) {
  return rounded(SHAPES[kind].drawn(geometry(values, facts, height), from, to, modifiers));
}
// where a shape has its middle, in picture units
export const middleOf = (kind, values, facts, height) => SHAPES[kind].handles.find(([name]) => name === "Middle")[1](geometry(values, facts, height));
export const isDrawn = (kind) => kind in SHAPES;

function drawAnchor(group, anchor, facts, height) {
  const { box, line } = facts;
  if (anchor === "subject" && box) {
    make("rect", { class: "anchor", x: 1000 * box[0], y: height * box[1], width: 1000 * (box[2] - box[0]), height: height * (box[3] - box[1]) }, group);
  } else if (anchor === "skyline" && line) {
    make("line", { class: "anchor", x1: 0, y1: height * line[0], x2: 1000, y2: height * line[1] }, group);
  }
}

function drawMarks(group, marks, facts, height) {
  group.replaceChildren();
  for (const [kind, at] of marks) {
    if (kind === "upright") make("line", { class: "snap", x1: 1000 * at, x2: 1000 * at, y1: 0, y2: height }, group);
    else if (kind === "level") make("line", { class: "snap", x1: 0, x2: 1000, y1: height * at, y2: height * at }, group);
    else make("line", { class: "snap", x1: 0, y1: height * facts.line[0], x2: 1000, y2: height * facts.line[1] }, group);
  }
}

export const clearHandles = (svg) => svg.querySelectorAll(".handles").forEach((old) => old.remove());
