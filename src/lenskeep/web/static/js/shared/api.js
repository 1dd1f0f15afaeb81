// Talking to the server: the token with every change, and its messages shown.
const token = document.querySelector('meta[name="csrf-token"]')?.content ?? "";

export function toast(message, good = false) {
  const note = document.createElement("p");
  note.className = good ? "toast toast-good" : "toast";
  note.textContent = message;
  document.getElementById("toasts").append(note);
  setTimeout(() => note.remove(), 9000);
}
// what was done, as it should be
export const told = (message) => toast(message, true);

// how many requests are under way, for whoever waits for the page to rest
let open = 0;
function counted(by) {
  open += by;
  document.documentElement.toggleAttribute("data-busy", open > 0);
}
document.addEventListener("htmx:before:request", () => counted(1));
document.addEventListener("htmx:finally:request", () => counted(-1));

export async function send(url, body) {
  counted(1);
  try {
    return await sent(url, body);
  } finally {
    counted(-1);
  }
}

async function sent(url, body) {
  const headers = { "X-CSRF-Token": token };
  if (body instanceof Blob) {
    headers["Content-Type"] = "application/octet-stream";
  } else if (!(body instanceof FormData)) {
    headers["Content-Type"] = "application/json";
    body = JSON.stringify(body);
  }
  let response;
  try {
    response = await fetch(url, { method: "POST", headers, body });
  } catch {
    throw new Error("Lens Keep does not answer. Is it still running?");
  }
  if (!response.ok) throw Object.assign(new Error((await response.text()) || "This did not work."), { status: response.status });
  return response;
}
