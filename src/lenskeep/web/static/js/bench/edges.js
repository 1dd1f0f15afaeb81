// While "edges only" of a sharpening is set, the key frame shows in grey where it sharpens.
const STAYS = 1200; // ms after the hand let go

// `render()` draws the key frame anew.
export function makeEdges({ lanes, render }) {
  let shown = null;
  let timer = 0;
  const meant = (path) => {
    const [, , , id, field] = path.split("/");
    return field === "edges" && lanes.querySelector(`.lane[data-open] [data-adjustment="sharpen"][data-id="${id}"]`) ? id : null;
  };
  return {
    now: () => shown,
    moved(path) {
      const id = meant(path);
      if (!id) return;
      shown = id;
      clearTimeout(timer);
      timer = setTimeout(() => { shown = null; render(); }, STAYS);
    },
  };
}
