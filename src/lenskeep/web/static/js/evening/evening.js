// Evening out: how many are ticked, and each frame's picture with the values that stand in its fields.
const root = document;
const form = () => root.getElementById("even-form");

function count() {
  const shown = form()?.querySelector("[data-count]");
  if (!shown) return;
  const ticked = form().querySelectorAll('input[name="frame"]:checked').length;
  shown.textContent = ticked;
  root.getElementById("accept-even").disabled = ticked === 0;
}

function picture(row) {
  const values = new URLSearchParams();
  for (const field of row.querySelectorAll("[data-value]")) {
    const name = field.dataset.value;
    const used = row.querySelector(`[name="use-${name}-${row.dataset.row}"]`).checked;
    values.set(name, used && field.value !== "" ? field.value : field.dataset.now);
    field.disabled = !used;
  }
  const image = row.querySelector("[data-then]");
  const address = new URL(image.src);
  for (const [name, value] of values) address.searchParams.set(name, value);
  image.src = address;
}

root.addEventListener("change", (event) => {
  const row = event.target.closest("[data-row]");
  if (!row) return;
  if (event.target.name === "frame") return count();
  picture(row);
});
root.addEventListener("click", (event) => {
  const way = event.target.closest("[data-tick]")?.dataset.tick;
  if (!way) return;
  for (const row of root.querySelectorAll("[data-row]")) {
    row.querySelector('input[name="frame"]').checked = way === "sure" && row.hasAttribute("data-sure");
  }
  count();
});
const begin = () => {
  count();
  for (const field of root.querySelectorAll("[data-value]")) {
    field.disabled = !root.querySelector(`[name="use-${field.name}"]`).checked;
  }
};
root.addEventListener("htmx:after:swap", begin);
begin();
