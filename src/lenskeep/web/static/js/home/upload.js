// Bringing in a shoot: files, folders and ZIPs, one request a file, so that progress is true and stopping is easy.
import { send, toast } from "../shared/api.js";

const form = document.getElementById("upload");
const drop = document.getElementById("drop");
const at = (id) => document.getElementById(id);
const passedOver = /(^|\/)(\.|__MACOSX)|\.(xmp|thm|ini|db)$/i;
const AT_ONCE = 3;
let stopped = false;

async function filesOf(entry, path = "") {
  if (entry.isFile) {
    const file = await new Promise((yes, no) => entry.file(yes, no));
    return [{ file, path: path + file.name }];
  }
  const reader = entry.createReader();
  const found = [];
  for (;;) {
    const some = await new Promise((yes, no) => reader.readEntries(yes, no));
    if (!some.length) return found;
    for (const inner of some) found.push(...(await filesOf(inner, `${path}${entry.name}/`)));
  }
}

function suggestedName(items) {
  const folder = items.find((item) => item.path.includes("/"));
  if (folder) return folder.path.split("/")[0];
  const zip = items.find((item) => /\.zip$/i.test(item.file.name));
  return zip ? zip.file.name.replace(/\.zip$/i, "") : `Shoot of ${new Date().toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })}`;
}

async function bringIn(items) {
  items = items.filter((item) => !passedOver.test(item.path));
  if (!items.length) return toast("There is no photograph in what you chose. JPEG, PNG, TIFF, HEIC and camera raw can be brought in.");
  const name = form.elements.name.value.trim() || suggestedName(items);
  stopped = false;
  at("upload-refused").replaceChildren();
  at("upload-progress").hidden = false;
  at("upload-stop").hidden = false;
  at("upload-open").hidden = true;
  drop.hidden = true;
  const about = new FormData();
  about.set("name", name);
  let shoot;
  try {
    shoot = await (await send("/shoots", about)).json();
  } catch (error) {
    drop.hidden = false;
    at("upload-progress").hidden = true;
    return toast(error.message);
  }
  const bar = at("upload-bar");
  bar.max = items.length;
  let next = 0;
  let done = 0;
  let added = 0;
  const refuse = (file, reason) => {
    const line = document.createElement("li");
    line.className = "note note-error";
    line.textContent = reason.includes(file) ? reason : `${file}: ${reason}`;
    at("upload-refused").append(line);
  };
  async function worker() {
    while (next < items.length && !stopped) {
      const { file } = items[next++];
      try {
        const answer = await (await send(`/shoots/${shoot.id}/file?${new URLSearchParams({ name: file.name })}`, file)).json();
        added += answer.added;
        answer.refused.forEach(([bad, reason]) => refuse(bad, reason));
      } catch (error) {
        refuse(file.name, error.message);
      }
      done += 1;
      bar.value = done;
      at("upload-words").textContent = `Bringing in ${name}: ${done} of ${items.length}`;
    }
  }
  await Promise.all(Array.from({ length: AT_ONCE }, worker));
  at("upload-stop").hidden = true;
  at("upload-words").textContent = `${name}: ${added} ${added === 1 ? "frame" : "frames"} came in${stopped ? ", then it was stopped" : ""}.`;
  drop.hidden = false;
  if (!added) return;
  try {
    const { url } = await (await send(`/shoots/${shoot.id}/find`, {})).json();
    if (!at("upload-refused").children.length) return window.location.assign(url);
    at("upload-open").href = url;
    at("upload-open").hidden = false;
  } catch (error) {
    toast(error.message);
  }
}

const listed = (input) => [...input.files].map((file) => ({ file, path: file.webkitRelativePath || file.name }));
for (const id of ["files", "folder"]) {
  at(id).addEventListener("change", (event) => {
    bringIn(listed(event.target));
    event.target.value = "";
  });
}
at("folder-form").addEventListener("submit", async (event) => {
  event.preventDefault();
  const about = new FormData(event.target);
  about.set("name", form.elements.name.value.trim());
  try {
    window.location.assign((await (await send("/shoots/from-folder", about)).json()).url);
  } catch (error) {
    toast(error.message);
  }
});
at("upload-stop").addEventListener("click", () => { stopped = true; });
form.addEventListener("submit", (event) => event.preventDefault());
for (const kind of ["dragenter", "dragover"]) {
  document.addEventListener(kind, (event) => { event.preventDefault(); drop.dataset.over = ""; });
}
document.addEventListener("dragleave", (event) => { if (!event.relatedTarget) delete drop.dataset.over; });
document.addEventListener("drop", async (event) => {
  event.preventDefault();
  delete drop.dataset.over;
  const entries = [...event.dataTransfer.items].map((item) => item.webkitGetAsEntry?.()).filter(Boolean);
  const items = entries.length
    ? (await Promise.all(entries.map((entry) => filesOf(entry)))).flat()
    : [...event.dataTransfer.files].map((file) => ({ file, path: file.name }));
  bringIn(items);
});
