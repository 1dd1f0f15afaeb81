// Drawing on the overlay: elements, and a region's contour lines.
const NS = "http://www.w3.org/2000/svg";

export const make = (name, attributes, parent) => {
  const element = document.createElementNS(NS, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  parent?.append(element);
  return element;
};

export function drawContours(svg, { paths, colour }) {
  svg.querySelectorAll(".contours").forEach((old) => old.remove());
  const group = make("g", { class: "contours" });
  for (const level of ["10", "50", "90"]) {
    if (!paths[level]) continue;
    make("path", { class: "casing", d: paths[level] }, group);
    make("path", { class: `line level-${level}`, d: paths[level], stroke: colour }, group);
  }
  svg.prepend(group);
}

export const clearContours = (svg) => svg.querySelectorAll(".contours").forEach((old) => old.remove());
