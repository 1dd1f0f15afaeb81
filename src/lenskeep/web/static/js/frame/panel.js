// The panel beside the picture is drawn anew with every answer: the key that is pressed again stays where it was, and
// what a hand is moving is not taken from under it. The finished picture follows, with what was found on it.
import { send, toast } from "../shared/api.js";

// `arrived` gets the address of the finished picture, `renewed` is called when the whole panel was drawn anew, `renew`
// draws it; `moves` counts what a hand tries on the picture, which has to be there until it rests.
export function makePanel({ panel, frame, arrived, renewed, renew, moves }) {
  let turn = 0;
  let held = false;
  let missed = false;
  let focused = null;

  const nameOf = (control) => [control.form?.getAttribute("hx-post"), control.name, control.type, control.dataset.base, control.dataset.deed, control.id].join(" ");
  const controls = () => [...panel.querySelectorAll("input, select, button")];
  const whole = (event) => event.detail?.ctx?.target === panel;

  panel.addEventListener("pointerdown", (event) => { held = event.target.matches('input[type="range"]'); });
  for (const end of ["pointerup", "pointercancel"]) {
    window.addEventListener(end, () => {
      held = false;
      // its own change draws the panel anew; where it has none, what was missed is drawn
      if (missed) setTimeout(() => { if (missed) renew(); }, 50);
    });
  }
  document.addEventListener("htmx:before:request", () => { missed = false; });
  document.addEventListener("htmx:before:swap", (event) => {
    if (!whole(event)) return;
    if (held) {
      missed = true;
      return event.preventDefault();
    }
    const control = panel.contains(document.activeElement) ? document.activeElement : null;
    focused = control?.matches("input, select, button") ? nameOf(control) : null;
  });
  document.addEventListener("htmx:after:swap", (event) => {
    if (!whole(event)) return;
    if (focused) controls().find((one) => nameOf(one) === focused)?.focus({ preventScroll: true });
    focused = null;
    renewed();
    const { finished, waiting } = panel.firstElementChild.dataset;
    if (waiting === undefined) arrived(finished);
    else follow();
  });

  // Asks until the picture is there, could not be made, or something newer is tried or asked for.
  async function follow(make = false) {
    turn += 1;
    const [mine, before] = [turn, moves()];
    const over = () => mine !== turn || before !== moves();
    try {
      for (let first = make; !over(); first = false) {
        const { finished, waiting, made } = await (await send(`/frames/${frame}/finished?make=${first}`, {})).json();
        if (over()) return;
        if (finished) arrived(finished);
        if (waiting) continue;
        const box = panel.querySelector("#made");
        if (box) box.outerHTML = made;
        return;
      }
    } catch (error) {
      toast(error.message);
    }
  }
  if (panel.firstElementChild?.dataset.waiting !== undefined) setTimeout(() => follow(true)); // when the page is there
  return { follow };
}
