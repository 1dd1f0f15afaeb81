// The book on one page: what fits what was typed, of one set; and on which shoot it is shown.
const tools = document.getElementById("book-tools");
const search = tools.querySelector("[data-book-search]");
const set = tools.querySelector("[data-book-set]");

function filter() {
  const typed = search.value.trim().toLowerCase().replace(/^#/, "").split(/\s+/).filter(Boolean);
  let left = 0;
  const entries = [...document.querySelectorAll("[data-entry]")];
  for (const entry of entries) {
    entry.hidden = (set.value !== "" && entry.dataset.set !== set.value) || !typed.every((word) => entry.dataset.words.includes(word));
    left += entry.hidden ? 0 : 1;
  }
  document.querySelector("[data-book-none]").classList.toggle("hidden", left > 0 || entries.length === 0);
}
search.addEventListener("input", filter);
set.addEventListener("change", filter);
tools.querySelector("[data-book-on]")?.addEventListener("change", (event) => event.target.form.submit());
