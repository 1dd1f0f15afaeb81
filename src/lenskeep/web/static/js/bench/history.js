// The history of the Bench as a list in words, states with names, and one that is held against the present.
import { send, toast } from "../shared/api.js";

// `renew(html)` puts new lanes in place; `pin(which, name)` holds a state against the present one
export function makeHistory({ dialog, base, versions, settled, renew, pin }) {
  const show = (html) => { dialog.innerHTML = html; };
  async function open() {
    await settled();
    const answer = await fetch(`${base}/history`, { cache: "no-store" });
    if (!answer.ok) return toast(await answer.text());
    show(await answer.text());
    if (!dialog.open) dialog.showModal();
    dialog.querySelector("[aria-current]")?.scrollIntoView({ block: "center" });
  }
  async function ask(what, body) {
    try {
      await settled();
      const html = await (await send(`${base}/history/${what}`, { on: versions().on(), ...body })).text();
      if (what === "name" || what === "forget") return show(html);
      renew(html);
      return open();
    } catch (error) {
      toast(error.message);
      if (error.status === 409) versions().renew();
    }
  }

  dialog.addEventListener("click", (event) => {
    if (event.target.closest("[data-close-history]")) return dialog.close();
    const pinned = event.target.closest("[data-pin]");
    if (pinned) {
      pin(pinned.dataset.pin, pinned.dataset.pinName);
      return dialog.close();
    }
    const button = event.target.closest("button[data-history]");
    if (button) ask(button.dataset.history, { of: Number(button.dataset.of ?? 0) });
  });
  dialog.addEventListener("submit", (event) => {
    event.preventDefault();
    ask("name", { words: new FormData(event.target).get("words") });
  });
  return { open };
}
