/* Dialogs, the palette and keys. */

let elsewhere = null; // words and methods, asked for once

async function fetchElsewhere() {
  if (elsewhere) return;
  elsewhere = [];
  const answer = await fetch(document.body.dataset.jumps).catch(() => null);
  if (!answer || !answer.ok) return;
  elsewhere = await answer.json();
  fillJump();
}

function fillJump() {
  const list = document.getElementById("jump-list");
  const wanted = document.getElementById("jump-text").value.trim().toLowerCase();
  list.replaceChildren();
  const places = [...document.querySelectorAll("[data-jump]"), ...document.querySelectorAll("[data-step], .variant-tab, .variant-rows a")];
  places
    .map((place) => ({ place, words: (place.dataset.jump || place.textContent).trim().replace(/\s+/g, " ") }))
    .concat((wanted ? elsewhere || [] : []).map(([words, href]) => ({ place: Object.assign(document.createElement("a"), { href }), words })))
    .filter(({ words }) => words.toLowerCase().includes(wanted))
    .slice(0, 12)
    .forEach(({ place, words }) => {
      const item = document.createElement("li");
      const button = document.createElement("button");
      button.type = "button";
      button.className = "quiet";
      button.textContent = words;
      button.addEventListener("click", () => {
        document.getElementById("jump").close();
        if (place.matches(".line a")) { place.click(); return; }
        if (place.href) { window.location = place.href; return; }
        const details = place.querySelector(":scope > details");
        if (details) details.open = true;
        place.scrollIntoView({ block: "center" });
        const field = place.querySelector("input:not([type=hidden]), select");
        if (field) field.focus();
      });
      item.append(button);
      list.append(item);
    });
  if (!list.children.length) list.textContent = "Nothing on this page is called that.";
}

function openDialog(id) {
  const dialog = document.getElementById(id);
  if (dialog.open) return;
  if (id === "jump") { document.getElementById("jump-text").value = ""; fillJump(); fetchElsewhere(); }
  dialog.showModal();
}

document.addEventListener("input", (event) => { if (event.target.id === "jump-text") fillJump(); });
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-print]")) window.print();
  const opener = event.target.closest("[data-open]");
  if (opener) openDialog(opener.dataset.open);
  const closer = event.target.closest("[data-dismiss]");
  if (closer) document.getElementById(closer.dataset.dismiss).hidden = true;
});

document.addEventListener("keydown", (event) => {
  const inField = event.target.closest("input:not([type=range]), select, textarea");
  const command = event.ctrlKey || event.metaKey;
  if (command && event.key.toLowerCase() === "k") { event.preventDefault(); openDialog("jump"); return; }
  if (event.key === "Enter" && event.target.id === "jump-text") {
    event.preventDefault();
    const first = document.querySelector("#jump-list button");
    if (first) first.click();
    return;
  }
  if (inField) return;
  if (command && event.key.toLowerCase() === "z") {
    const form = document.getElementById(event.shiftKey ? "redo" : "undo");
    const button = form && form.querySelector("button:not([disabled])");
    if (button) { event.preventDefault(); button.click(); }
    return;
  }
  if (command || event.altKey) return;
  if (event.key === "?") { openDialog("help"); return; }
  if (event.key === "[" || event.key === "]") {
    const steps = [...document.querySelectorAll("[data-step]")];
    const at = steps.findIndex((step) => step.hasAttribute("aria-current"));
    const next = steps[at + (event.key === "]" ? 1 : -1)];
    if (next) window.location = next.href;
  }
});
