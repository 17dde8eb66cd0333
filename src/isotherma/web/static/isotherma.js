/* What scripts add to pages that work without them: saving as one goes, scrubbing, keys. */
"use strict";

document.documentElement.classList.add("js");

/* --- nothing typed is lost while a part of the page is swapped --- */
const typing = { id: null, value: "", from: 0, to: 0, dirty: false };
const opened = new Set();
let scrolled = 0;

function rememberState() {
  const field = document.activeElement;
  typing.id = field && field.id && field.closest("form[data-autosave]") ? field.id : null;
  if (typing.id) {
    typing.value = field.value;
    typing.dirty = "defaultValue" in field && field.type !== "checkbox" && field.value !== field.defaultValue;
    typing.from = field.selectionStart ?? 0;
    typing.to = field.selectionEnd ?? 0;
  }
  opened.clear();
  document.querySelectorAll("details[open][id]").forEach((d) => opened.add(d.id));
  scrolled = window.scrollY;
}

function restoreState() {
  opened.forEach((id) => {
    const details = document.getElementById(id);
    if (details) details.open = true;
  });
  document.querySelectorAll("details:has([aria-invalid])").forEach((d) => { d.open = true; });
  const field = typing.id && document.getElementById(typing.id);
  if (field) {
    if (typing.dirty && field.value !== typing.value && !field.hasAttribute("aria-invalid")) field.value = typing.value;
    field.focus({ preventScroll: true });
    if (field.setSelectionRange && field.type === "text") field.setSelectionRange(typing.from, typing.to);
  }
  window.scrollTo(0, scrolled);
  startScrub();
}

document.addEventListener("htmx:beforeSwap", (event) => {
  // an answer without the design part is a whole message: show it instead of an empty place
  if (event.detail.target && event.detail.target.id === "design" && event.detail.shouldSwap) rememberState();
});
document.addEventListener("htmx:afterSettle", restoreState);
for (const name of ["htmx:sendError", "htmx:timeout", "htmx:responseError"]) {
  document.addEventListener(name, () => { document.getElementById("failed").hidden = false; });
}
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.successful) document.getElementById("failed").hidden = true;
});

/* --- a moment of the draw: the slider moves the cursor, the store and the readout --- */
function startScrub() {
  const slider = document.querySelector("[data-scrub]");
  const data = document.getElementById("readouts");
  if (!slider || !data || slider.dataset.ready) return;
  slider.dataset.ready = "yes";
  const rows = JSON.parse(data.textContent);
  const charts = document.querySelectorAll("[data-chart] svg");
  const cells = document.querySelectorAll("[data-store] svg rect:not(.vessel)");
  const texts = document.querySelectorAll("[data-store] svg text");
  const show = () => {
    const row = rows[Number(slider.value)];
    if (!row) return;
    charts.forEach((chart) => {
      const x = row[chart.dataset.x];
      const line = chart.querySelector("[data-cursor] line");
      line.setAttribute("x1", x);
      line.setAttribute("x2", x);
      const dot = chart.querySelector("[data-cursor] circle");
      dot.setAttribute("cx", x);
      dot.setAttribute("cy", row.y);
    });
    row.layers.forEach(([fill, ink, text], i) => {
      cells[i].setAttribute("fill", fill);
      texts[i].setAttribute("class", ink);
      texts[i].textContent = text;
    });
    document.querySelectorAll("[data-readout] [data-key]").forEach((place) => {
      place.textContent = row[place.dataset.key];
    });
    slider.setAttribute("aria-valuetext", `${row.seconds}, ${row.head}`);
  };
  slider.addEventListener("input", show);
  const follow = (event) => {
    const chart = event.currentTarget;
    const box = chart.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * chart.viewBox.baseVal.width;
    const key = chart.dataset.x;
    let best = 0;
    rows.forEach((row, i) => {
      if (Math.abs(row[key] - x) < Math.abs(rows[best][key] - x)) best = i;
    });
    slider.value = best;
    show();
  };
  charts.forEach((chart) => {
    chart.addEventListener("pointermove", follow);
    chart.addEventListener("pointerdown", follow);
  });
}

/* --- dialogs and keys --- */
function fillJump() {
  const list = document.getElementById("jump-list");
  const wanted = document.getElementById("jump-text").value.trim().toLowerCase();
  list.replaceChildren();
  const places = [...document.querySelectorAll("[data-jump]"), ...document.querySelectorAll("[data-step], .variant-tab, .variant-rows a")];
  places
    .map((place) => ({ place, words: (place.dataset.jump || place.textContent).trim().replace(/\s+/g, " ") }))
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
  if (id === "jump") { document.getElementById("jump-text").value = ""; fillJump(); }
  dialog.showModal();
}

document.addEventListener("input", (event) => { if (event.target.id === "jump-text") fillJump(); });
document.addEventListener("click", (event) => {
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

startScrub();
