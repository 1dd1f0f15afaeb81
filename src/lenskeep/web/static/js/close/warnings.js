// From one place where a guard warns to the next, seen closely.
import { send, toast } from "../shared/api.js";

// `warned()` gives the names of guards that warn, the one that is shown first; `label(name)` says one in words
export function makeWarnings({ address, close, told, frame, warned, label }) {
  let [round, at] = [null, -1];

  async function next() {
    const [guard] = warned();
    if (!guard) return toast("No guard warns on this frame.");
    if (round?.guard !== guard) {
      try {
        const { places } = await (await send(address, { frame: frame(), guard })).json();
        [round, at] = [{ guard, places: close.places(places) }, -1];
      } catch (error) {
        return toast(error.message);
      }
    }
    if (round.places.length === 0) return toast(`${label(guard)} warns for the frame as a whole.`);
    at = (at + 1) % round.places.length;
    if (!close.on()) close.to(1);
    close.go(...round.places[at]);
    told.textContent = `${label(guard)}: place ${at + 1} of ${round.places.length}`;
  }
  return { next, forget() { round = null; told.textContent = ""; } };
}
