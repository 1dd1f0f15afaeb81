// The searchable lists of adjustments.
export function watchPickers() {
  const panelOf = (picker) => picker.querySelector("[data-picker-panel]");
  function toggle(picker, on) {
    document.querySelectorAll("[data-picker]").forEach((p) => {
      const open = p === picker && on;
      panelOf(p).classList.toggle("hidden", !open);
      p.querySelector("[data-picker-open]").setAttribute("aria-expanded", open);
    });
    if (!on) return;
    const panel = panelOf(picker);
    const search = panel.querySelector("input");
    // upwards where there is more room, and never beyond the window
    const box = picker.getBoundingClientRect();
    const [above, below] = [box.top - 12, window.innerHeight - box.bottom - 12];
    const up = above > below;
    panel.style.left = `${Math.min(box.left, window.innerWidth - 270)}px`;
    panel.style.top = up ? "" : `${box.bottom + 4}px`;
    panel.style.bottom = up ? `${window.innerHeight - box.top + 4}px` : "";
    panel.querySelector("[role=listbox]").style.maxHeight = `${Math.min(420, Math.max(above, below) - 60)}px`;
    search.value = "";
    filter(picker);
    search.focus();
  }
  function filter(picker) {
    const wanted = panelOf(picker).querySelector("input").value.trim().toLowerCase();
    let any = false;
    for (const group of picker.querySelectorAll("[data-picker-group]")) {
      let some = false;
      for (const option of group.querySelectorAll("[data-kind]")) {
        const fits = `${option.textContent} ${option.title}`.toLowerCase().includes(wanted);
        option.classList.toggle("hidden", !fits);
        some ||= fits;
      }
      group.classList.toggle("hidden", !some);
      any ||= some;
    }
    picker.querySelector("[data-picker-none]").classList.toggle("hidden", any);
  }
  function choose(option) {
    const picker = option.closest("[data-picker]");
    picker.querySelector("input[type=hidden]").value = option.dataset.kind;
    if (!("pickerGo" in picker.dataset)) picker.querySelector("[data-picker-label]").textContent = option.textContent;
    toggle(picker, false);
    if ("pickerGo" in picker.dataset) return picker.closest("form").requestSubmit();
    picker.querySelector("[data-picker-open]").focus();
  }
  document.addEventListener("click", (event) => {
    const opener = event.target.closest("[data-picker-open]");
    const option = event.target.closest("[data-picker] [data-kind]");
    if (option) return choose(option);
    if (opener) return toggle(opener.closest("[data-picker]"), opener.getAttribute("aria-expanded") !== "true");
    if (!event.target.closest("[data-picker]")) toggle(null, false);
  });
  document.addEventListener("input", (event) => {
    if (event.target.closest("[data-picker-panel]")) filter(event.target.closest("[data-picker]"));
  });
  document.addEventListener("keydown", (event) => {
    const picker = event.target.closest?.("[data-picker]");
    if (!picker || panelOf(picker).classList.contains("hidden")) return;
    const shown = [...picker.querySelectorAll("[data-kind]:not(.hidden)")].filter((o) => !o.parentElement.classList.contains("hidden"));
    const at = shown.indexOf(document.activeElement);
    if (event.key === "Escape") { toggle(picker, false); picker.querySelector("[data-picker-open]").focus(); }
    else if (event.key === "ArrowDown") shown[Math.min(at + 1, shown.length - 1)]?.focus();
    else if (event.key === "ArrowUp") (shown[at - 1] ?? panelOf(picker).querySelector("input")).focus();
    else if (event.key === "Enter" && at < 0 && shown.length) choose(shown[0]);
    else return;
    event.preventDefault();
  });
}
