/* Somebody else's changes: shown at once where nobody types here, told where somebody does. */

const SETTLES_MS = 500; // one's own change comes back by the stream before its answer is shown
let stream = null;
let from = "";

function design() {
  return document.getElementById("design");
}

function typing() {
  const at = document.activeElement;
  if (!at || !at.closest("#design")) return false;
  if (at.matches("textarea, select")) return true;
  return at.matches("input") && !["checkbox", "radio", "submit", "button", "range"].includes(at.type);
}

function show() {
  window.htmx.ajax("GET", location.pathname + location.search, { target: "#design", swap: "outerHTML" });
}

function say(words, again) {
  document.querySelector(".elsewhere")?.remove();
  const box = document.createElement("div");
  box.className = "elsewhere";
  box.setAttribute("role", "status");
  box.append(words);
  if (again) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "quiet";
    button.textContent = "Show it";
    button.addEventListener("click", () => { box.remove(); show(); });
    box.append(" ", button);
  } else {
    setTimeout(() => box.remove(), 6000);
  }
  document.body.append(box);
}

function heard(event) {
  const said = JSON.parse(event.data);
  setTimeout(() => {
    const here = design();
    if (!here || Number(here.dataset.head) >= said.head) return;
    if (document.querySelector(".htmx-request")) { heard(event); return; }
    const words = `${said.by || "Another window"}: ${said.what}.`;
    if (typing()) say(words, true);
    else { show(); say(words, false); }
  }, SETTLES_MS);
}

function follow() {
  const path = design()?.dataset.events ?? "";
  const wanted = document.visibilityState === "visible" ? path : "";
  if (wanted === from) return;
  stream?.close();
  stream = null;
  from = wanted;
  if (!wanted) return;
  stream = new EventSource(wanted);
  stream.addEventListener("head", heard);
}

document.addEventListener("visibilitychange", follow);
document.addEventListener("htmx:afterSettle", follow);
window.addEventListener("pagehide", () => stream?.close());
follow();
