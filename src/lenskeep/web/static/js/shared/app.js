// What every page shares: messages, plain forms sent without losing what was typed, and small Alpine components.
import { send, toast } from "./api.js";

document.addEventListener("alpine:init", () => {
  const { Alpine } = window;
  Alpine.data("room", () => ({
    label: "",
    init() { this.name(); },
    name() { this.label = document.documentElement.dataset.room === "dim" ? "Bright room" : "Dim room"; },
    toggle() {
      const room = document.documentElement.dataset.room === "dim" ? "bright" : "dim";
      document.documentElement.dataset.room = room;
      try { localStorage.setItem("room", room); } catch { /* storage may be closed */ }
      this.name();
    },
  }));
  Alpine.data("panel", () => ({
    open: false,
    toggle() { this.open = !this.open; },
    close() { this.open = false; },
  }));
  Alpine.data("importer", () => ({
    send() { this.$root.requestSubmit(); },
  }));
  Alpine.data("handOver", () => ({
    limit() { this.$root.querySelector('[name="size"][value="limited"]').checked = true; },
    folder() { this.$root.querySelector('[name="form"][value="folder"]').checked = true; },
    // frames that were selected on the wall leave alone, until the choice is dropped
    init() {
      const root = this.$root;
      let ids = [];
      try { ({ [root.dataset.shoot]: ids = [] } = JSON.parse(sessionStorage.getItem("hand-over") ?? "{}")); } catch { /* storage may be closed */ }
      if (!ids.length) return;
      const note = root.querySelector("[data-selected]");
      root.querySelector('[name="frames"]').value = ids.join(",");
      note.hidden = false;
      note.textContent = `${ids.length} selected ${ids.length === 1 ? "frame leaves" : "frames leave"}. `;
      const all = Object.assign(document.createElement("button"), { type: "button", className: "button button-small", textContent: "All instead" });
      all.addEventListener("click", () => {
        root.querySelector('[name="frames"]').value = "";
        note.hidden = true;
        try { sessionStorage.removeItem("hand-over"); } catch { /* nothing to forget */ }
      });
      note.append(all);
    },
    field(event) {
      const names = this.$root.querySelector('[name="names"]');
      names.setRangeText(event.target.dataset.field, names.selectionStart, names.selectionEnd, "end");
      names.focus();
      this.example();
    },
    async example() {
      const names = this.$root.querySelector('[name="names"]').value;
      const answer = await fetch(`/shoots/${this.$root.dataset.shoot}/hand-over/example?${new URLSearchParams({ names })}`);
      if (answer.ok && names === this.$root.querySelector('[name="names"]').value) this.$root.querySelector("[data-example]").textContent = await answer.text();
    },
  }));
});

document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (form.method !== "post" || form.hasAttribute("hx-post")) return;
  event.preventDefault();
  const button = event.submitter;
  const data = new FormData(form);
  if (button?.name) data.set(button.name, button.value);
  if (button) button.disabled = true;
  try {
    const response = await send(form.action, data);
    window.location.assign(response.redirected ? response.url : window.location.href);
  } catch (error) {
    toast(error.message);
    if (button) button.disabled = false;
  }
});

document.addEventListener("htmx:response:error", (event) => toast(event.detail.ctx.text || "This did not work."));
document.addEventListener("htmx:error", () => toast("Lens Keep does not answer. Is it still running?"));
document.addEventListener("htmx:after:request", (event) => {
  if (event.target.closest?.("[data-reload]")) window.location.reload();
});
