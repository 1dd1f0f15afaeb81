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
