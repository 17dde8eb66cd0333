/* What scripts add to pages that work without them: saving as one goes, scrubbing, keys. */
"use strict";

document.documentElement.classList.add("js");

/* --- nothing typed or clicked is lost while the design is swapped ---
   One request for the whole design runs at a time. What is typed meanwhile stays in its field and is
   sent after the answer; what is clicked meanwhile is clicked again on the new page. A part that loads
   by itself (how sure, what a part would change) holds nothing up and moves neither focus nor window. */
const ofDesign = (event) => Boolean(event.detail.target) && event.detail.target.id === "design";
const unsent = new Map(); // field id → what stands in it
const clicked = []; // signatures of forms sent while a request ran
const opened = new Set();
let running = false;
let active = null;
let scrolled = 0;
let leaving = null; // what to do when the running request is answered: follow a link, send a plain form

const standing = (field) => (field.type === "checkbox" ? String(field.checked) : field.value);
function original(field) {
  if (field.type === "checkbox") return String(field.defaultChecked);
  if (field.tagName !== "SELECT") return field.defaultValue;
  const chosen = [...field.options].find((option) => option.defaultSelected) || field.options[0];
  return chosen ? chosen.value : "";
}
function put(field, value) {
  if (field.type === "checkbox") field.checked = value === "true";
  else field.value = value;
}
function signature(form) {
  const hidden = [...form.querySelectorAll("input[type=hidden]")].filter((input) => input.name !== "_base");
  return form.getAttribute("action") + JSON.stringify(hidden.map((input) => [input.name, input.value]));
}

function rememberState(sent) {
  unsent.clear();
  document.querySelectorAll("form[data-autosave] [id][name], form[data-keep] [id][name]").forEach((field) => {
    if (field.type === "hidden" || standing(field) === original(field)) return;
    if (!field.form.matches("[data-autosave]")) { unsent.set(field.id, standing(field)); return; }
    const scope = field.form.querySelector("[name=_scope]").value;
    const mine = sent && sent._scope === scope && (sent._fields || "").split(",").includes(field.name);
    const went = mine ? [].concat(sent[field.name] ?? []) : null;
    const same = went && (field.type === "checkbox" ? went.includes(field.value) === field.checked : went[0] === field.value);
    if (!same) unsent.set(field.id, standing(field));
  });
  const field = document.activeElement;
  active = field && field.id && field.closest("#design") ? { id: field.id } : null;
  if (active && field.type === "text") Object.assign(active, { from: field.selectionStart, to: field.selectionEnd });
  opened.clear();
  document.querySelectorAll("details[open][id]").forEach((details) => opened.add(details.id));
  scrolled = window.scrollY;
}

function restoreState() {
  opened.forEach((id) => {
    const details = document.getElementById(id);
    if (details) details.open = true;
  });
  document.querySelectorAll("details:has([aria-invalid])").forEach((details) => { details.open = true; });
  unsent.forEach((value, id) => {
    const field = document.getElementById(id);
    if (field) put(field, value);
  });
  const field = active && document.getElementById(active.id);
  if (field) {
    field.focus({ preventScroll: true });
    if (field.type === "text" && active.from !== undefined) field.setSelectionRange(active.from, active.to);
  }
  window.scrollTo(0, scrolled);
  startScrub();
}

function sendOn() {
  const again = clicked.shift();
  if (again) {
    const form = [...document.querySelectorAll("form[hx-post]")].find((other) => signature(other) === again);
    if (form) { form.requestSubmit(); return; }
  }
  for (const [id, value] of unsent) {
    const field = document.getElementById(id);
    if (field && field.form && !field.form.matches("[data-autosave]")) { unsent.delete(id); continue; } // sent by its own button
    if (field && field === document.activeElement) continue; // still being typed; sent when left
    unsent.delete(id);
    if (field && standing(field) === value && value !== original(field)) {
      field.dispatchEvent(new Event("change", { bubbles: true }));
      return;
    }
  }
}

document.addEventListener("change", (event) => {
  if (running && event.target.closest("form[data-autosave]")) event.stopImmediatePropagation();
}, true);
document.addEventListener("submit", (event) => {
  if (!running) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  if (event.target.matches("form[hx-post]")) clicked.push(signature(event.target));
  else leaving = () => sendAgain(event.target, event.submitter);
}, true);
document.addEventListener("click", (event) => {
  // the page is left only when the edit under way has been answered, and not when it was refused
  const link = event.target.closest("a[href]");
  if (link && link.matches("[data-cancel]")) return; // what is under way is only a question: it may go
  if (!running || !link || link.hasAttribute("download") || event.ctrlKey || event.metaKey || event.shiftKey) return;
  event.preventDefault();
  leaving = () => { window.location = link.href; };
}, true);
function sendAgain(form, button) {
  // the answer may have put a new form in the place of the one that was sent
  const same = (other) => signature(other) === signature(form) && other.getAttribute("aria-label") === form.getAttribute("aria-label");
  const current = form.isConnected ? form : [...document.forms].find(same);
  if (!current) return;
  const buttons = [...current.elements].filter((other) => other.type === "submit");
  current.requestSubmit(button && buttons.find((other) => other.name === button.name && other.value === button.value));
}
function leave() {
  if (running || !leaving) return; // what was typed meanwhile goes first
  const go = leaving;
  leaving = null;
  if (!document.querySelector("#design [aria-invalid]")) go();
}
window.addEventListener("pagehide", () => {
  // the last field was never left: send its form on the way out
  document.querySelectorAll("form[data-autosave]").forEach((form) => {
    const fields = [...form.querySelectorAll("[id][name]")];
    if (fields.some((field) => field.type !== "hidden" && standing(field) !== original(field))) {
      navigator.sendBeacon(form.action, new FormData(form));
    }
  });
});
document.addEventListener("focusout", (event) => {
  // a field filled in again by us fires no change of its own when it is left
  const field = event.target;
  if (!running && field.form && field.form.matches("[data-autosave]") && unsent.has(field.id)) {
    unsent.delete(field.id);
    if (standing(field) !== original(field)) field.dispatchEvent(new Event("change", { bubbles: true }));
  }
});
document.addEventListener("htmx:beforeRequest", (event) => { if (ofDesign(event)) running = true; });
// a drawing wider than the window stays where it was scrolled to
const boxes = new Map();
document.addEventListener("htmx:beforeSwap", (event) => {
  if (!ofDesign(event)) return;
  document.querySelectorAll("[data-keep-scroll]").forEach((box) => boxes.set(box.id, [box.scrollLeft, box.scrollTop]));
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (!ofDesign(event)) return;
  document.querySelectorAll("[data-keep-scroll]").forEach((box) => {
    const [left, top] = boxes.get(box.id) || [0, 0];
    box.scrollTo(left, top);
  });
});
document.addEventListener("htmx:beforeSwap", (event) => {
  if (ofDesign(event) && event.detail.shouldSwap) {
    const sent = event.detail.requestConfig.formData;
    const names = [...new Set(sent.keys())];
    rememberState(Object.fromEntries(names.map((name) => [name, name.startsWith("_") ? sent.get(name) : sent.getAll(name)])));
  }
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (!ofDesign(event)) return;
  restoreState();
  running = false;
  sendOn();
  leave();
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (ofDesign(event) && (event.detail.failed || !event.detail.xhr || !event.detail.xhr.response)) { running = false; leaving = null; }
});
for (const name of ["htmx:sendError", "htmx:timeout", "htmx:responseError"]) {
  document.addEventListener(name, () => { document.getElementById("failed").hidden = false; });
}
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.successful) document.getElementById("failed").hidden = true;
});

document.addEventListener("DOMContentLoaded", () => {
  // what was typed and left before these scripts had come is sent now
  document.querySelectorAll("form[hx-trigger] [id][name]").forEach((field) => {
    if (field.type === "hidden" || field === document.activeElement || standing(field) === original(field)) return;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  });
});

/* --- a moment of the draw: the slider moves the cursor, the store and the readout --- */
function startScrub() {
  const slider = document.querySelector("[data-scrub]");
  const data = document.getElementById("readouts");
  if (!slider || !data || slider.dataset.ready) return;
  slider.dataset.ready = "yes";
  const rows = JSON.parse(data.textContent);
  const charts = document.querySelectorAll("[data-chart] svg, [data-chart-panels] svg");
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
      if (!dot) return;
      dot.setAttribute("cx", x);
      dot.setAttribute("cy", row.y);
    });
    row.layers.forEach(([fill, ink, text], i) => {
      cells[i].setAttribute("fill", fill);
      texts[i].setAttribute("class", ink);
      texts[i].textContent = text;
    });
    document.querySelectorAll("[data-readout] [data-key], [data-readout-key]").forEach((place) => {
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

/* --- parts: find as one types, copy the run table, show the piece that was opened --- */
document.addEventListener("input", (event) => {
  if (!event.target.matches("[data-find]")) return;
  const words = event.target.value.trim().toLowerCase();
  document.querySelectorAll("[data-search]").forEach((row) => { row.hidden = !row.dataset.search.includes(words); });
});
document.addEventListener("click", (event) => {
  const copier = event.target.closest("[data-copy]");
  if (!copier) return;
  const text = document.getElementById(copier.dataset.copy);
  text.select();
  const done = () => { copier.textContent = "Copied"; };
  if (navigator.clipboard) navigator.clipboard.writeText(text.value).then(done, () => document.execCommand("copy") && done());
  else if (document.execCommand("copy")) done();
});
document.addEventListener("submit", (event) => {
  // back to the piece that is open now, not to the one the page was first loaded with
  if (event.target.matches(".settings")) event.target.elements.back.value = window.location.pathname + window.location.search;
}, true);
let openedPiece = null;
document.addEventListener("htmx:beforeRequest", (event) => {
  if (!ofDesign(event)) return;
  const link = event.detail.elt.closest(".line a");
  openedPiece = link ? link.id : null;
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (!ofDesign(event) || !openedPiece) return;
  const row = document.getElementById(openedPiece);
  const piece = document.getElementById("piece");
  openedPiece = null;
  if (!piece) return;
  if (row) row.focus({ preventScroll: true });
  const box = piece.getBoundingClientRect();
  if (box.bottom < 120 || box.top > window.innerHeight - 160 || window.innerWidth <= 700) piece.scrollIntoView({ block: "start" });
});

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

// Long work that a part of the page waits for: how far it is, and a button that ends it.
const asking = new WeakMap();
document.addEventListener("htmx:beforeRequest", (event) => {
  const box = event.detail.elt;
  const told = box.querySelector("[data-progress]");
  if (!told) return;
  box.querySelector("[data-stop]").hidden = false;
  const timer = setInterval(async () => {
    const answer = await fetch(told.dataset.progress);
    if (answer.ok && asking.has(box)) told.textContent = await answer.text();
  }, 700);
  asking.set(box, { timer, request: event.detail.xhr });
});
const askedEnough = (box) => {
  const { timer, request } = asking.get(box) || {};
  clearInterval(timer);
  asking.delete(box);
  return request;
};
document.addEventListener("htmx:afterRequest", (event) => { askedEnough(event.detail.elt); });
document.addEventListener("click", (event) => {
  const stop = event.target.closest("[data-stop]");
  if (!stop) return;
  const box = stop.closest("[hx-get]");
  const request = askedEnough(box);
  if (request) {
    request.onabort = null; // that it ends is what was asked for, and no fault
    request.abort();
  }
  box.classList.remove("htmx-request");
  stop.hidden = true;
  box.querySelector("[data-progress]").textContent = "Stopped.";
});
