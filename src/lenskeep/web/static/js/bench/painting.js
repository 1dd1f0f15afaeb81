// Painting the Bench: the key frame first, as a draft while it moves; witnesses when it rests, or now and then before.
import { toast } from "../shared/api.js";

const WITNESS_PAUSE = 250;

// `rested` is called when all is drawn as it should be.
// `ask(picture, draft)` brings it; `close` is the close view of the key frame.
export function makePainter({ bench, key, witnesses, ask, close, rested }) {
  const state = { moved: 0, drawn: 0, busy: false, draft: false, round: null, lastRound: 0 };

  async function render(draft = false) {
    state.moved += 1;
    state.draft = draft;
    bench.removeAttribute("data-rests");
    if (state.busy) return;
    state.busy = true;
    try {
      while (state.drawn !== state.moved) {
        const goal = state.moved;
        if (close().on()) await close().renew(state.draft);
        else await key.show("finished", await ask(key, state.draft));
        state.drawn = goal;
        document.dispatchEvent(new CustomEvent("lk:key-drawn", { detail: goal }));
        const due = state.drawn === state.moved || performance.now() - state.lastRound > WITNESS_PAUSE;
        if (!state.round && due) paintWitnesses();
      }
    } catch (error) {
      state.drawn = state.moved;
      toast(error.message);
    } finally {
      state.busy = false;
    }
  }

  // a picture that comes late, after the hand moved on, is not shown over a newer one
  const round = (draft, still = () => true) => {
    const queue = [...witnesses];
    const one = async () => {
      for (let w = queue.shift(); w && still(); w = queue.shift()) {
        const picture = await ask(w, draft);
        if (still()) await w.show("finished", picture);
      }
    };
    return Promise.all([one(), one()]);
  };
  async function paintWitnesses() {
    const goal = state.moved;
    state.round = round(state.draft);
    try {
      await state.round;
      document.dispatchEvent(new CustomEvent("lk:witnesses-drawn", { detail: goal }));
    } catch (error) {
      toast(error.message);
    }
    state.round = null;
    state.lastRound = performance.now();
    if (goal !== state.moved && !state.busy) paintWitnesses();
    if (goal === state.moved) settle();
  }

  function settle() {
    if (state.draft) refine();
    else bench.toggleAttribute("data-rests", true);
    rested();
  }

  // the pictures in full, in the drafts' place
  async function refine() {
    const goal = state.moved;
    try {
      if (close().on()) await close().renew();
      const picture = await ask(key);
      if (goal !== state.moved || state.busy) return;
      await key.show("finished", picture);
      if (goal !== state.moved || state.busy) return;
      await round(false, () => goal === state.moved && !state.busy);
      if (goal !== state.moved || state.busy) return;
      state.draft = false;
      bench.toggleAttribute("data-rests", true);
    } catch (error) {
      toast(error.message);
    }
  }

  return { render };
}
