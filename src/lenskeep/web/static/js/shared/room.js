// Sets the room before anything is painted, so that a dim room never flashes bright.
(() => {
  let room = "bright";
  try { room = localStorage.getItem("room") || "bright"; } catch { /* storage may be closed */ }
  document.documentElement.dataset.room = room;
})();
