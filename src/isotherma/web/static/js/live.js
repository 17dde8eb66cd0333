/* Somebody else's changes: shown at once where nobody types here, told where somebody does. */

const SETTLES_MS = 500; // one's own change comes back by the stream before its answer is shown
const RESTS_MS = 2000; // a hand that has not typed for so long does not type
let lastKey = 0;
let stream = null;
let from = "";

function design() {
  return document.getElementById("design");
}

function typing() {
  const at = document.activeElement;
  if (!at || !at.closest("#design") || !at.matches("input, textarea, select")) return false;
  if (["checkbox", "radio", "submit", "button"].includes(at.type)) return false;
  return Date.now() - lastKey < RESTS_MS || (at.defaultValue !== undefined && at.value !== at.defaultValue);
}

/* What stands here is fetched anew; where a hand begins to type meanwhile, it stays as it is. */
function show(words) {
  const path = location.pathname + location.search;
  fetch(path, { headers: { "HX-Request": "true", "HX-Current-URL": location.href } })
    .then((answer) => (answer.ok ? answer.text() : ""))
    .then((html) => {
      const here = design();
      if (!html || !here) return;
      if (typing()) { say(words, true); return; }
      const at = document.activeElement?.id ?? "";
      window.htmx.swap(here, html, { swapStyle: "outerHTML" }, { select: "#design" });
      if (at) document.getElementById(at)?.focus({ preventScroll: true });
      say(words, false);
    });
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
    button.addEventListener("click", () => { box.remove(); lastKey = 0; show(words); });
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
    if (!typing()) { show(words); return; }
    say(words, true);
    whenResting(words, said.head, document.querySelector(".elsewhere"));
  }, SETTLES_MS);
}

/* Told once, it is shown as soon as the hand rests and has kept what it typed. */
function whenResting(words, head, box) {
  setTimeout(() => {
    if (!box.isConnected) return;
    if (Number(design()?.dataset.head ?? head) >= head) { box.remove(); return; }
    if (typing() || document.querySelector(".htmx-request")) { whenResting(words, head, box); return; }
    show(words);
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

document.addEventListener("keydown", () => { lastKey = Date.now(); }, true);
document.addEventListener("visibilitychange", follow);
document.addEventListener("htmx:afterSettle", follow);
window.addEventListener("pagehide", () => stream?.close());
follow();
